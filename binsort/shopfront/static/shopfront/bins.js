/* made of ac2eac7b36bb5016d187b489fd75e6db */
(() => {
const STYLE = "/*! tailwindcss v4.3.5 | MIT License | https://tailwindcss.com */\n@layer theme{:root,:host{--font-sans:-apple-system, BlinkMacSystemFont, \"Segoe UI\", Roboto, \"Helvetica Neue\", \"Noto Sans\", Arial, sans-serif, \"Apple Color Emoji\", \"Segoe UI Emoji\", \"Segoe UI Symbol\", \"Noto Color Emoji\";--font-mono:ui-monospace, SFMono-Regular, Menlo, Monaco, Consolas, \"Liberation Mono\", \"Courier New\", monospace}}@layer base{:host{display:block;container-type:inline-size}:host([hidden]){display:none}*,:before,:after{box-sizing:border-box}.frame *{font:inherit;color:inherit;letter-spacing:inherit;border:0 solid;margin:0;padding:0}.frame{--ground:var(--bin-sort-ground,var(--under,Canvas));--accent:var(--bin-sort-accent,var(--words,CanvasText));--color-ink:var(--bin-sort-ink,currentColor);--color-navy:var(--accent);--color-cream:var(--ground);--color-paper:var(--ground);--color-sand:currentColor}@supports (color:color-mix(in lab, red, red)){.frame{--color-sand:color-mix(in srgb, currentColor 6%, var(--ground))}}.frame{--color-rule:var(--bin-sort-line,currentColor)}@supports (color:color-mix(in lab, red, red)){.frame{--color-rule:var(--bin-sort-line,color-mix(in srgb, currentColor 22%, transparent))}}.frame{--color-edge:var(--bin-sort-edge,currentColor)}@supports (color:color-mix(in lab, red, red)){.frame{--color-edge:var(--bin-sort-edge,color-mix(in srgb, currentColor 62%, transparent))}}.frame{--color-quiet:var(--bin-sort-quiet,currentColor)}@supports (color:color-mix(in lab, red, red)){.frame{--color-quiet:var(--bin-sort-quiet,color-mix(in srgb, currentColor 76%, transparent))}}.frame{--color-bare:currentColor}@supports (color:color-mix(in lab, red, red)){.frame{--color-bare:color-mix(in srgb, currentColor 68%, transparent)}}.frame{--color-mass:var(--accent)}@supports (color:color-mix(in lab, red, red)){.frame{--color-mass:color-mix(in srgb, var(--accent) 34%, var(--ground))}}.frame{--color-fall:var(--accent)}@supports (color:color-mix(in lab, red, red)){.frame{--color-fall:color-mix(in srgb, var(--accent) 18%, var(--ground))}}.frame{--color-gold:var(--accent);--color-wrong:var(--bin-sort-wrong,currentColor);--font-sans:inherit;--radius:var(--bin-sort-radius,0px);color:var(--color-ink);font-variant-numeric:tabular-nums;line-height:1.4}.frame[data-look=plain]{--ground:light-dark(#fff,#17191c);--color-ink:light-dark(#1c1f23,#eceef0);--accent:light-dark(#1c1f23,#eceef0);--radius:4px;background:var(--ground);font:15px/1.4 system-ui,sans-serif}.frame[data-look=shop]{--ground:#f8f4e9;--color-ink:#1b2740;--accent:#1d3156;--color-rule:#ddd6c3;--color-edge:#82806f;--color-quiet:#5a6377;--color-bare:#666c7c;--color-mass:#c9c6bb;--color-fall:#c6d0e2;--radius:16px;background:var(--ground);padding:12px;font:14px/1.43 Hanken Grotesk,system-ui,sans-serif}.frame strong,.frame b{font-weight:700}h3{font-weight:600}a{color:inherit;text-decoration:none}ul,ol{list-style:none}img,svg{max-width:100%;display:block}button,input,select{background:0 0;border-radius:0}:focus-visible{outline:2px solid var(--accent);outline-offset:2px}summary{cursor:pointer;list-style:none}summary::-webkit-details-marker{display:none}[hidden]{display:none!important}}@layer components{.has-colours{position:relative;overflow:hidden}.has-colours>svg{width:100%;height:100%;position:absolute;inset:0}.facet{border-top:1px solid var(--color-rule);font-family:var(--facet-family,inherit);font-size:var(--facet-type,inherit);padding:7px 0 8px}.facet[open]{padding-bottom:var(--facet-gap,14px)}.facet>summary{align-items:center;gap:9px;min-height:30px;padding-right:2px;display:flex}.facet h3{font-size:calc(var(--facet-type,14px) + .5px);font-weight:700}.facet .sub{color:var(--color-quiet);font-size:13px}.facet[open] .when-shut{visibility:hidden}.chevron{margin-left:auto}details[open]>summary>.chevron{transform:rotate(180deg)}.choice{min-height:var(--facet-row,26px);line-height:calc(var(--facet-type,14px) + 4px);cursor:pointer;align-items:center;gap:9px;padding:2px 0;display:flex;position:relative}.choice .count{color:var(--color-quiet);font-size:calc(var(--facet-type,14px) - 1px);margin-left:auto;padding-left:4px}.choice .name{overflow-wrap:anywhere;min-width:min(100%,3.4em)}.stars{fill:none;stroke:currentColor;flex:none}.stars .full{fill:currentColor}.stars:not([color]){color:var(--color-gold)}.choice .stars{flex:0 66px;width:66px;min-width:50px}.choice .stars+.name{color:var(--color-quiet);font-size:13px;line-height:15px}.choice.bare{color:var(--color-bare);cursor:default}.choice.bare .count{color:var(--color-bare)}.choice input{appearance:none;width:var(--facet-box,16px);height:var(--facet-box,16px);border:1px solid var(--color-quiet);background:var(--color-paper);border-radius:min(var(--facet-corner,2px), 30%);cursor:inherit;flex:none}.choice input[type=radio]{border-radius:50%}.choice input:checked{background:var(--color-navy);border-color:var(--color-navy);place-items:center;display:grid}.choice input:checked:before{content:\"\";width:calc(var(--facet-box,16px) * .69);height:calc(var(--facet-box,16px) * .56);background:var(--color-paper);clip-path:polygon(13% 43%,0 62%,42% 100%,100% 18%,84% 0,40% 62%)}:is(.swatches,.buttons,.pictures,.drilled) .choice input:before,.choice.star input:before{display:none}.choice input:disabled{border-color:var(--color-bare)}.choice:hover .name{text-decoration:underline;-webkit-text-decoration-color:var(--color-rule);-webkit-text-decoration-color:var(--color-rule);text-decoration-color:var(--color-rule);text-underline-offset:3px}.choice.bare:hover .name{text-decoration:none}.swatches{grid-template-columns:repeat(auto-fill,minmax(112px,1fr));gap:3px 6px;margin:0 -4px;display:grid}.swatches .more{grid-column:1/-1;padding-left:4px}.swatches .swatches{margin-top:4px}.swatches .choice{border-radius:var(--facet-corner,16px);line-height:calc(var(--facet-type,14px) + 1px);min-height:max(30px, var(--facet-row,30px));font-size:calc(var(--facet-type,14px) - .5px);border:1px solid #0000;gap:7px;padding:3px 8px 3px 4px}.swatches .choice:has(:checked){border-color:var(--color-navy);background:var(--color-paper);font-weight:600}.swatches .choice:focus-within:has(:focus-visible){outline:2px solid var(--color-navy);outline-offset:1px}.swatches .choice input{opacity:0;width:100%;height:100%;position:absolute;inset:0}.dot{width:var(--facet-swatch,20px);height:var(--facet-swatch,20px);border:1px solid var(--color-quiet);border-radius:50%;flex:none;place-items:center;display:grid}.choice.bare .dot{opacity:.55}.level-1{margin-left:1em}.level-2{margin-left:2em}.level-3{margin-left:3em}.level-4{margin-left:4em}.level-5{margin-left:5em}.level-6{margin-left:6em}.level-7{margin-left:7em}.level-8{margin-left:8em}.choice:has(:checked) .dot:after{content:\"\";background:var(--color-navy);clip-path:polygon(13% 43%,0 62%,42% 100%,100% 18%,84% 0,40% 62%);width:11px;height:9px;position:relative}.choice:has(:checked) .dot.dark:after{background:#fff}.dot.clear{background:repeating-conic-gradient(#fff 0 25%, #ddd6c3 0 50%) 0 0 / 8px 8px}.dot.none{border-style:dashed}.more>summary{text-underline-offset:3px;align-items:center;min-height:26px;text-decoration:underline;display:inline-flex}.more[open] .when-closed,.more:not([open]) .when-open{display:none}.more[open]{flex-direction:column-reverse;align-items:stretch;display:flex}.more[open]>summary{align-self:flex-start}.spread{width:calc(100% - 20px);height:34px;margin:4px 10px 0;display:block}.spread path{fill:var(--color-mass)}.spread path.in{fill:var(--color-navy)}.slider{z-index:1;background:var(--color-mass);touch-action:pan-y;-webkit-user-select:none;user-select:none;border-radius:2px;height:3px;margin:0 10px 14px;position:relative;top:6px}.slider:before{content:\"\";cursor:pointer;position:absolute;inset:-10px -9px}.slider .kept{background:var(--color-navy);pointer-events:none;border-radius:2px;height:3px;position:absolute;top:0}.slider .handle{border:1.6px solid var(--color-navy);background:var(--color-paper);cursor:grab;touch-action:none;border-radius:50%;width:18px;height:18px;margin-left:-9px;position:absolute;top:-8px}.slider.in-hand .handle{cursor:grabbing}.slider.met .lower{margin-left:-18px}.slider.met .upper{margin-left:0}.slider .handle:after{content:\"\";position:absolute;inset:-6px}.marks{height:18px;color:var(--color-quiet);margin:2px 10px 12px;font-size:11px;line-height:14px;position:relative}.marks i{white-space:nowrap;font-style:normal;position:absolute;top:4px;transform:translate(-50%)}.marks i:before{content:\"\";border-left:1px solid var(--color-edge);height:4px;position:absolute;bottom:100%;left:50%}.marks i:first-child{transform:none}.marks i:first-child:before{left:0}.marks i:last-child{transform:translate(-100%)}.marks i:last-child:before{left:100%}.ends{grid-template-columns:minmax(0,1fr) minmax(0,1fr);gap:10px;margin-top:6px;display:grid}.ends label{border-radius:var(--facet-corner,0);border:1px solid var(--color-edge);background:var(--color-paper);height:32px;color:var(--color-quiet);white-space:nowrap;align-items:center;gap:5px;padding:0 9px;font-size:13px;display:flex}.ends label:focus-within{outline:2px solid var(--color-navy);outline-offset:1px}.ends input{width:100%;min-width:0;color:var(--color-ink);background:0 0;outline:0;height:30px;font-size:14px}.ends input::placeholder{color:var(--color-bare);opacity:1}.ends label.wrong{border-color:var(--color-wrong);border-width:2px}.not-read{color:var(--color-wrong);overflow-wrap:anywhere;margin-top:4px;font-size:13px;font-weight:600;line-height:17px}.range+.boxes{margin-top:8px}.fall{width:calc(100% - 20px);height:13px;margin:-8px 10px 0;display:block}.fall polygon{fill:var(--color-fall)}.spread.of-dates{border-bottom:1px solid var(--color-edge);width:100%;margin:2px 0 0}.searched [data-choices]:has(>.group-head){flex-direction:column;align-items:stretch;display:flex}.searched .found-begins,.searched [data-group=begins]{order:1}.searched .found-inside,.searched [data-group=inside]{order:2}.searched .found-bare,.searched [data-group=bare]{order:3}.searched .group-head{margin-bottom:-1px}.facet:not(.searched) .group-head{display:none}.star-row{grid-template-columns:repeat(5,minmax(0,1fr));display:grid}.star-row .any{grid-column:1/-1}.choice.star{border-bottom:2px solid #0000;justify-items:center;gap:2px;min-height:44px;padding:3px 0;display:grid}.choice.star input{opacity:0;width:100%;height:100%;position:absolute;inset:0}.choice.star svg{fill:none;stroke:currentColor;stroke-width:1px}.choice.star svg:not([color]){color:var(--color-gold)}.star-row .star:has(~.star :checked) svg,.star:has(:checked) svg,.star-row:not(:has(:checked)):has(.star:hover) .star:has(~.star:hover) svg,.star-row:not(:has(:checked)) .star:hover svg{fill:currentColor}.star:has(:checked){border-color:var(--color-navy);font-weight:700}.choice.star .count{margin:0;padding:0}.choice.star:focus-within:has(:focus-visible){outline:2px solid var(--color-navy);outline-offset:1px}.fall+.ends{margin-top:0}.group-head{color:var(--color-quiet);padding:8px 0 2px;font-size:13px}.group-head[hidden]{display:none}.facet.untitled>summary{clip-path:inset(50%);width:1px;height:1px;position:absolute;overflow:hidden}.facet-help{color:var(--color-quiet);overflow-wrap:anywhere;margin:-2px 0 4px;font-size:13px;line-height:17px}.boxes.columns-of-2,.boxes.columns-of-3,.buttons.columns-of-1{gap:0 14px;display:grid}.columns-of-1{grid-template-columns:minmax(0,1fr)!important}.columns-of-2{grid-template-columns:repeat(2,minmax(0,1fr))!important}.columns-of-3{grid-template-columns:repeat(3,minmax(0,1fr))!important}.columns-of-1>.more,.columns-of-2>.more,.columns-of-3>.more{grid-column:1/-1}.label-left .choice{flex-direction:row-reverse;justify-content:flex-end}.label-left .choice .name{margin-right:auto}.label-left .choice .count{margin-left:0}.label-below .choice{flex-direction:column;align-items:flex-start;gap:3px}.label-below .choice .count{margin-left:0;padding:0}.label-none .choice .name{clip-path:inset(50%);width:1px;height:1px;position:absolute;overflow:hidden}.label-hover .choice .name{z-index:3;background:var(--color-ink);width:max-content;max-width:160px;color:var(--color-paper);clip-path:inset(50%);pointer-events:none;border-radius:4px;padding:3px 8px;font-size:12.5px;font-weight:500;line-height:16px;text-decoration:none;position:absolute;bottom:calc(100% + 4px);left:50%;translate:-50%}.label-hover .choice:is(:hover,:focus-within) .name{clip-path:none;text-decoration:none}:is(.swatches,.pictures).label-hover{flex-wrap:wrap;display:flex}.swatches.label-hover .choice .count{display:none}@media (hover:none){.label-hover .choice{flex-direction:column;align-items:center;gap:3px}.label-hover .choice .name{clip-path:none;color:inherit;background:0 0;padding:0;position:static;translate:none}}.size-small{--facet-swatch:14px}.size-large{--facet-swatch:34px}.size-small .pic-of{width:40px;height:30px}.size-large .pic-of{width:104px;height:78px}.swatches.size-small{grid-template-columns:repeat(auto-fill,minmax(92px,1fr))}.swatches.size-large .choice{border-radius:20px;min-height:42px}.scrolls{max-height:max(60px, var(--z,240px));overscroll-behavior:contain;padding-right:4px;overflow-y:auto}.within{border:1px solid var(--color-edge);border-radius:var(--facet-corner,0);background:var(--color-paper);width:100%;height:32px;color:var(--color-ink);margin-bottom:6px;padding:0 10px;font-size:14px}.within-none{color:var(--color-quiet);padding:4px 0;font-size:13px}.facet .unseen{display:none!important}.buttons{flex-wrap:wrap;gap:6px;display:flex}.buttons .buttons{margin-top:6px}.buttons .more{flex-basis:100%}.buttons .choice{border:1px solid var(--color-edge);border-radius:var(--facet-corner,16px);background:var(--color-paper);gap:7px;max-width:100%;min-height:30px;padding:3px 12px}.buttons .choice:has(:checked){border:2px solid var(--color-navy);padding:2px 11px;font-weight:600}.buttons .choice.bare{background:0 0;border-style:dashed}.buttons .choice .count{padding:0}.buttons .choice .name{min-width:0}.buttons:is(.columns-of-2,.columns-of-3){display:grid}.buttons:is(.columns-of-2,.columns-of-3) .choice{border-radius:var(--facet-corner,6px);text-align:center;flex-direction:column;justify-content:center;gap:0;min-height:44px;padding:3px 4px;font-weight:600;line-height:17px}.buttons:is(.columns-of-2,.columns-of-3) .choice:has(:checked){background:var(--color-navy);color:var(--color-cream)}.buttons:is(.columns-of-2,.columns-of-3) .choice .count{margin:0;font-size:12px;font-weight:400}.buttons:is(.columns-of-2,.columns-of-3) .choice:has(:checked) .count{color:inherit}:is(.buttons,.pictures) .choice input{opacity:0;width:100%;height:100%;position:absolute;inset:0}:is(.buttons,.pictures) .choice:focus-within:has(:focus-visible){outline:2px solid var(--color-navy);outline-offset:1px}.pictures{grid-template-columns:repeat(2,minmax(0,1fr));gap:8px;display:grid}.pictures .more{grid-column:1/-1}.pictures .choice{border:1px solid var(--color-rule);background:var(--color-paper);text-align:center;flex-direction:column;gap:3px;padding:6px}.pictures .choice:has(:checked){border:2px solid var(--color-navy);padding:5px;font-weight:600}.pictures .choice .count{margin:0;padding:0}.pic-of{object-fit:contain;width:64px;height:48px}.pic-of.none{border:1px dashed var(--color-quiet);display:block}.swatches.label-below{grid-template-columns:repeat(auto-fill,minmax(58px,1fr));align-items:start}.swatches.label-below .choice{text-align:center;border-radius:4px;align-items:center;padding:3px 1px}.swatches.label-below .name{min-width:0;max-width:100%}.swatches.label-none{flex-wrap:wrap;display:flex}.swatches.label-none .choice .count{display:none}.dot.sign{font:600 9.5px/1 var(--font-sans);border-radius:4px;width:auto;min-width:22px;padding:0 3px}.dropdown{border-radius:var(--facet-corner,0);border:1px solid var(--color-edge);background:var(--color-paper) url(\"data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' width='13' height='8'%3E%3Cpath d='M1.5 1.5l5 5 5-5' fill='none' stroke='%231b2740' stroke-width='1.5'/%3E%3C/svg%3E\") right 10px center no-repeat;appearance:none;width:100%;height:34px;color:var(--color-ink);text-overflow:ellipsis;padding:0 30px 0 10px}.many>summary{border-radius:var(--facet-corner,0);border:1px solid var(--color-edge);background:var(--color-paper);align-items:center;height:34px;padding:0 10px;display:flex}.many[open]>summary{margin-bottom:6px}.suggests:not(.asked) .boxes .choice:not(:has(:checked)){display:none}html:not(.scripts) .suggests:not(.asked) .boxes .choice{display:flex}.switch{cursor:pointer;align-items:center;gap:10px;min-height:30px;display:flex;position:relative}.switch input{appearance:none;border:1.5px solid var(--color-quiet);background:var(--color-paper);cursor:pointer;border-radius:11px;flex:none;width:38px;height:22px;position:relative}.switch input:after{content:\"\";background:var(--color-quiet);border-radius:50%;width:14px;height:14px;transition:left .12s;position:absolute;top:2.5px;left:3px}.switch input:checked{background:var(--color-navy);border-color:var(--color-navy)}.switch input:checked:after{background:var(--color-paper);left:17px}.switch .count{color:var(--color-quiet);margin-left:auto;font-size:13px}.switch.bare{color:var(--color-bare)}.strip{grid-template-columns:repeat(auto-fill,minmax(27px,1fr));gap:8px 0;display:grid}.strip .any{grid-column:1/-1}.letter{cursor:pointer;justify-items:center;min-width:26px;font-size:13px;line-height:15px;display:grid;position:relative}.letter svg{border-bottom:1px solid var(--color-edge);width:100%;height:20px;fill:var(--color-mass);margin-bottom:3px}.letter b{text-align:center;border-radius:3px;min-width:20px;font-weight:600}.letter span{color:var(--color-quiet);font-size:11px;line-height:14px}.letter input{opacity:0;cursor:pointer;width:100%;height:100%;position:absolute;inset:0}.letter:has(:checked) b{background:var(--color-navy);color:var(--color-cream);text-underline-offset:3px;text-decoration:underline}.letter:has(:checked) svg{fill:var(--color-navy)}.letter.bare{color:var(--color-bare);cursor:default}.letter.bare b{font-weight:400}.letter:focus-within:has(:focus-visible){outline:2px solid var(--color-navy);outline-offset:1px}.ends.dates{grid-template-columns:minmax(0,1fr);gap:6px}.ends.dates+.facet-help{margin:4px 0 2px}.limb{position:relative}.twig{padding-left:24px}.branch>summary{place-items:center;width:24px;height:24px;display:grid;position:absolute;top:1px;left:-3px}.branch[open]>summary svg{transform:rotate(90deg)}.branch .below{margin-left:16px}.drilled .here{font-weight:700}.drilled .below{border-left:1px solid var(--color-rule);margin-left:14px;padding-top:2px;padding-left:9px;display:flex}.drilled .choice input{opacity:0;cursor:pointer;width:100%;height:100%;position:absolute;inset:0}.drilled .choice:focus-within:has(:focus-visible){outline:2px solid var(--color-navy);outline-offset:1px}@media (max-width:799.9px){:is(.facet-list,.drawer-scroll) .facet{padding:0}:is(.facet-list,.drawer-scroll) .facet:first-child{border-top:0}:is(.facet-list,.drawer-scroll) .facet[open]{padding-bottom:var(--facet-gap,10px)}:is(.facet-list,.drawer-scroll) .facet>summary{min-height:48px}:is(.facet-list,.drawer-scroll) .facet h3{font-size:16px}:is(.facet-list,.drawer-scroll) .facet .sub{font-size:14.5px}:is(.facet-list,.drawer-scroll) .choice{min-height:max(44px, var(--facet-row,44px));gap:13px;padding:2px 4px 2px 0}:is(.facet-list,.drawer-scroll) .choice input{width:max(22px, var(--facet-box,22px));height:max(22px, var(--facet-box,22px));border-radius:min(var(--facet-corner,3px), 30%)}:is(.facet-list,.drawer-scroll) .choice .count{font-size:max(15px, calc(var(--facet-type,14px) - 1px))}:is(.facet-list,.drawer-scroll) .swatches{grid-template-columns:repeat(auto-fill,minmax(150px,1fr))}:is(.facet-list,.drawer-scroll) .swatches .choice{border-radius:var(--facet-corner,22px);gap:11px;min-height:44px;padding:0 14px 0 7px;font-size:16px;line-height:18px}:is(.facet-list,.drawer-scroll) .swatches .dot{width:max(28px, var(--facet-swatch,28px));height:max(28px, var(--facet-swatch,28px))}:is(.facet-list,.drawer-scroll) .more>summary{min-height:44px}:is(.facet-list,.drawer-scroll) .spread{height:40px}:is(.facet-list,.drawer-scroll) .slider{height:4px;margin-bottom:22px}:is(.facet-list,.drawer-scroll) .slider .handle{border-width:2px;width:26px;height:26px;margin-left:-13px;top:-12px}:is(.facet-list,.drawer-scroll) .slider.met .lower{margin-left:-26px}:is(.facet-list,.drawer-scroll) .slider.met .upper{margin-left:0}:is(.facet-list,.drawer-scroll) .slider .handle:after{inset:-10px}:is(.facet-list,.drawer-scroll) .ends label{border-radius:4px;height:44px;padding:0 12px;font-size:15px}:is(.facet-list,.drawer-scroll) .ends input{height:42px;font-size:16px;font-weight:600}:is(.facet-list,.drawer-scroll) .buttons .choice,:is(.facet-list,.drawer-scroll) .switch,:is(.facet-list,.drawer-scroll) .dropdown,:is(.facet-list,.drawer-scroll) .many>summary,:is(.facet-list,.drawer-scroll) .within,:is(.facet-list,.drawer-scroll) .pictures .choice{min-height:44px}:is(.facet-list,.drawer-scroll) .letter{min-width:40px;min-height:52px}:is(.facet-list,.drawer-scroll) .strip{grid-template-columns:repeat(auto-fill,minmax(42px,1fr))}:is(.facet-list,.drawer-scroll) .branch>summary{width:32px;height:44px}:is(.facet-list,.drawer-scroll) .twig{padding-left:34px}}@media (forced-colors:active){.choice input,.switch input{appearance:auto!important}:is(.swatches,.buttons,.pictures,.drilled) .choice input,.letter input{opacity:1!important;width:16px!important;height:16px!important;position:static!important}.dot,.dot svg{forced-color-adjust:none}.choice:has(:checked),.letter:has(:checked),.choice.on{outline:2px solid highlight}.spread path.in,.slider .kept{forced-color-adjust:none}.choice input:before{display:none!important}}.frame{align-content:start;gap:14px;display:grid;position:relative}.frame>:is(.above,.rack,.lone,.apply,.more,.below):not(:has(>:not([hidden]))){display:none}.part-apply .solid-button{border:0;flex-direction:column;width:100%;line-height:1.3}.part-apply small:empty{display:none}.part-apply small{font-size:.86em;font-weight:500}.rack>.part-apply{z-index:5;background:var(--ground);padding:10px 0;position:sticky;bottom:0}.find input{border:1px solid var(--color-edge);border-radius:var(--radius);width:100%;min-width:0;height:38px;color:var(--color-ink);background:var(--ground);padding:0 12px}.part-search{flex:220px;max-width:340px}.part-lone .facet{padding-top:0}.head{flex-wrap:wrap;align-items:center;gap:8px 14px;min-height:34px;display:flex}.part-picks{flex-wrap:wrap;order:1;align-items:center;gap:6px;display:flex}.part-sort{order:2;margin-left:auto}.part-sort select{border-bottom:1px solid var(--color-edge);appearance:none;cursor:pointer;text-overflow:ellipsis;background:linear-gradient(currentColor) 0 0/0 0;max-width:100%;min-height:34px;padding:0 22px 0 2px}.part-sort{position:relative}.part-sort:after{content:\"\";pointer-events:none;border:1.5px solid;border-width:0 1.5px 1.5px 0;width:7px;height:7px;position:absolute;top:13px;right:4px;rotate:45deg}.part-sort option{background:var(--ground);color:var(--color-ink)}.plain-link{text-underline-offset:3px;align-items:center;min-height:24px;text-decoration:underline;display:inline-flex}.solid-button{background:var(--accent);min-height:38px;color:var(--ground);border-radius:var(--radius);cursor:pointer;justify-content:center;align-items:center;padding:4px 18px;font-weight:700;display:inline-flex}.pill{border:1px solid var(--accent);border-radius:var(--radius);align-items:stretch;max-width:100%;min-height:30px;display:inline-flex}.pick{overflow-wrap:anywhere;min-width:0;color:var(--accent);align-items:center;gap:8px;padding:2px 10px;display:inline-flex}.join{color:var(--color-quiet);align-self:center;font-size:.86em}.cross{flex:none}.pick .dot{width:14px;height:14px}.back{display:none}.notices{color:var(--color-quiet);flex-basis:100%;font-size:.92em}.frame .facet{padding:4px 0 var(--facet-gap,10px);border-top:0}.frame .facet h3{font-size:1em;font-weight:700;font-family:var(--bin-sort-heading-font,inherit)}.frame .facet>summary{min-height:28px}.frame .facet .sub{font-size:.86em}.frame .choice{font-size:1em;line-height:1.3}.frame .choice .count,.frame .facet-help,.frame .ends label,.frame .group-head{font-size:.86em}.frame .buttons .choice,.frame .swatches .choice,.frame .pictures .choice,.frame .facet-row .facet{border-radius:var(--radius)}.frame .dropdown{appearance:auto;background-image:none}.frame .swatches{margin:0 0 0 -4px}.frame .on-phone{display:contents}.suggests:not(.asked) .boxes .choice{display:none}.suggests:not(.asked) .boxes .choice:has(:checked){display:flex}.part-above .facet-row,.part-below .facet-row{flex-wrap:wrap;align-items:center;gap:6px 18px;display:flex}.facet-row .facet{padding:0;position:relative}.facet-row .facet>summary{border-bottom:1px solid var(--color-edge);min-height:34px}.facet-row .facet>.facet-body{z-index:20;background:var(--ground);border:1px solid var(--color-edge);border-radius:var(--radius);width:264px;max-width:calc(100cqi - 4px);max-height:60vh;padding:10px 14px 12px;position:absolute;top:38px;left:0;overflow:auto}.part-below .facet-row .facet>.facet-body{top:auto;bottom:38px}.facet-row .facet.untitled>summary{clip-path:none;width:auto;height:auto;position:static}.narrow-by>summary{display:none}.facet-list>.facet:first-child{padding-top:0}.cards{grid-template-columns:repeat(auto-fill, minmax(min(100%, var(--bin-sort-card,150px)), 1fr));gap:18px 20px;display:grid}.card{flex-direction:column;min-width:0;display:flex}.card a{display:block}.pic{aspect-ratio:4/2.7;border:1px solid var(--color-rule);border-radius:var(--radius);background:var(--bin-sort-picture,#fff);place-items:center;display:grid;overflow:hidden}.pic img{object-fit:contain;width:76%;height:84%}.card-name{overflow-wrap:break-word;margin-top:6px;font-size:1.02em;line-height:1.25;display:block}.card a:hover .card-name{text-underline-offset:3px;text-decoration:underline}.card-price{flex-wrap:wrap;align-items:baseline;gap:0 8px;margin-top:auto;padding-top:2px;display:flex}.card-price strong{white-space:nowrap}.card-price small{color:var(--color-quiet);font-size:.86em;font-weight:400}.card-price s{color:var(--color-quiet);font-size:.9em}.card-price .stock{color:var(--color-quiet);margin-left:auto;font-size:.92em}.nothing{justify-items:start;gap:10px;display:grid}.ways-out{gap:8px;width:100%;display:grid}.ways-out li{border-top:1px solid var(--color-rule);flex-wrap:wrap;align-items:center;gap:6px 12px;padding:8px 0;display:flex}.ways-out .solid-button{margin-left:auto}.went-wrong{border:2px solid var(--color-wrong);flex-wrap:wrap;grid-column:1/-1;align-items:center;gap:8px 14px;padding:8px 12px;display:flex}.busy>.products{opacity:.55}.busy>.head:before{content:\"\";background:var(--accent);height:2px;animation:1.2s ease-in-out infinite alternate waiting;position:absolute;top:-6px;left:0;right:0}@keyframes waiting{0%{clip-path:inset(0 70% 0 0)}to{clip-path:inset(0 0 0 70%)}}@container (min-width:560px){.together{grid-template-columns:minmax(150px,min(28%,250px)) minmax(0,1fr);gap:14px 28px}.together>*{grid-column:2}.together>.above,.together>.below{grid-column:1/-1}.together>.rack{grid-area:1/1/span 9}.together:has(>.above>:not([hidden]))>.rack{grid-row:2/span 8}.together:has(>.rack>[hidden]){grid-template-columns:minmax(0,1fr)}.together:has(>.rack>[hidden])>*{grid-column:1}.together>.below{grid-row:12}.frame:not(.together)>.rack .facet-list{grid-template-columns:repeat(auto-fill,minmax(180px,1fr));gap:4px 24px;display:grid}}.narrow>.rack>.part-rack>.narrow-by>summary{border:1px solid var(--color-edge);border-radius:var(--radius);align-items:center;gap:10px;min-height:44px;padding:0 12px;font-weight:700;display:flex}.narrow>.rack>.part-rack>.narrow-by>summary b{color:var(--color-quiet);font-weight:400}@container (max-width:340px){.cards{grid-template-columns:minmax(0,1fr) minmax(0,1fr);gap:14px 10px}.card-price .stock{margin-left:0}}@media (pointer:coarse){.pill,.part-sort select,.facet-row .facet>summary{min-height:44px}.solid-button{min-height:46px}.plain-link,.frame .choice{min-height:44px}}@media (prefers-reduced-motion:reduce){.busy>.head:before{animation:none}}}@layer utilities{.sr-only{clip-path:inset(50%);white-space:nowrap;border-width:0;width:1px;height:1px;margin:-1px;padding:0;position:absolute;overflow:hidden}.static{position:static}.at-x{left:calc(var(--x) * 1%)}.hidden{display:none}}.x{--x:calc(var(--xa) * 100 + var(--xb) * 10 + var(--xc) + var(--xd) / 10 + var(--xe) / 100)}.y{--y:calc(var(--ya) * 100 + var(--yb) * 10 + var(--yc) + var(--yd) / 10 + var(--ye) / 100)}.z{--z:calc(var(--za) * 100px + var(--zb) * 10px + var(--zc) * 1px)}.xa0{--xa:0}.xa1{--xa:1}.xb0{--xb:0}.xb1{--xb:1}.xb2{--xb:2}.xb3{--xb:3}.xb4{--xb:4}.xb5{--xb:5}.xb6{--xb:6}.xb7{--xb:7}.xb8{--xb:8}.xb9{--xb:9}.xc0{--xc:0}.xc1{--xc:1}.xc2{--xc:2}.xc3{--xc:3}.xc4{--xc:4}.xc5{--xc:5}.xc6{--xc:6}.xc7{--xc:7}.xc8{--xc:8}.xc9{--xc:9}.xd0{--xd:0}.xd1{--xd:1}.xd2{--xd:2}.xd3{--xd:3}.xd4{--xd:4}.xd5{--xd:5}.xd6{--xd:6}.xd7{--xd:7}.xd8{--xd:8}.xd9{--xd:9}.xe0{--xe:0}.xe1{--xe:1}.xe2{--xe:2}.xe3{--xe:3}.xe4{--xe:4}.xe5{--xe:5}.xe6{--xe:6}.xe7{--xe:7}.xe8{--xe:8}.xe9{--xe:9}.ya0{--ya:0}.ya1{--ya:1}.yb0{--yb:0}.yb1{--yb:1}.yb2{--yb:2}.yb3{--yb:3}.yb4{--yb:4}.yb5{--yb:5}.yb6{--yb:6}.yb7{--yb:7}.yb8{--yb:8}.yb9{--yb:9}.yc0{--yc:0}.yc1{--yc:1}.yc2{--yc:2}.yc3{--yc:3}.yc4{--yc:4}.yc5{--yc:5}.yc6{--yc:6}.yc7{--yc:7}.yc8{--yc:8}.yc9{--yc:9}.yd0{--yd:0}.yd1{--yd:1}.yd2{--yd:2}.yd3{--yd:3}.yd4{--yd:4}.yd5{--yd:5}.yd6{--yd:6}.yd7{--yd:7}.yd8{--yd:8}.yd9{--yd:9}.ye0{--ye:0}.ye1{--ye:1}.ye2{--ye:2}.ye3{--ye:3}.ye4{--ye:4}.ye5{--ye:5}.ye6{--ye:6}.ye7{--ye:7}.ye8{--ye:8}.ye9{--ye:9}.za0{--za:0}.za1{--za:1}.za2{--za:2}.za3{--za:3}.za4{--za:4}.za5{--za:5}.za6{--za:6}.za7{--za:7}.za8{--za:8}.za9{--za:9}.zb0{--zb:0}.zb1{--zb:1}.zb2{--zb:2}.zb3{--zb:3}.zb4{--zb:4}.zb5{--zb:5}.zb6{--zb:6}.zb7{--zb:7}.zb8{--zb:8}.zb9{--zb:9}.zc0{--zc:0}.zc1{--zc:1}.zc2{--zc:2}.zc3{--zc:3}.zc4{--zc:4}.zc5{--zc:5}.zc6{--zc:6}.zc7{--zc:7}.zc8{--zc:8}.zc9{--zc:9}";
var Idiomorph=function(){"use strict";const e=()=>{};const n={morphStyle:"outerHTML",callbacks:{beforeNodeAdded:e,afterNodeAdded:e,beforeNodeMorphed:e,afterNodeMorphed:e,beforeNodeRemoved:e,afterNodeRemoved:e,beforeAttributeUpdated:e},head:{style:"merge",shouldPreserve:e=>e.getAttribute("im-preserve")==="true",shouldReAppend:e=>e.getAttribute("im-re-append")==="true",shouldRemove:e,afterHeadMorphed:e},restoreFocus:true};function t(t,e,n={}){t=d(t);const r=f(e);const i=u(t,r,n);const o=a(i,()=>{return c(i,t,r,e=>{if(e.morphStyle==="innerHTML"){s(e,t,r);return Array.from(t.childNodes)}else{return l(e,t,r)}})});i.pantry.remove();return o}function l(e,t,n){const r=f(t);s(e,r,n,t,t.nextSibling);return Array.from(r.childNodes)}function a(e,t){if(!e.config.restoreFocus)return t();let n=document.activeElement;if(!(n instanceof HTMLInputElement||n instanceof HTMLTextAreaElement)){return t()}const{id:r,selectionStart:i,selectionEnd:o}=n;const l=t();if(r&&r!==document.activeElement?.getAttribute("id")){n=e.target.querySelector(`[id="${r}"]`);n?.focus()}if(n&&!n.selectionEnd&&o){n.setSelectionRange(i,o)}return l}const s=function(){function e(e,t,n,r=null,i=null){if(t instanceof HTMLTemplateElement&&n instanceof HTMLTemplateElement){t=t.content;n=n.content}r||=t.firstChild;for(const o of n.childNodes){if(r&&r!=i){const a=f(e,o,r,i);if(a){if(a!==r){h(e,r,a)}b(a,o,e);r=a.nextSibling;continue}}if(o instanceof Element){const s=o.getAttribute("id");if(e.persistentIds.has(s)){const c=p(t,s,r,e);b(c,o,e);r=c.nextSibling;continue}}const l=d(t,o,r,e);if(l){r=l.nextSibling}}while(r&&r!=i){const u=r;r=r.nextSibling;m(e,u)}}function d(e,t,n,r){if(r.callbacks.beforeNodeAdded(t)===false)return null;if(r.idMap.has(t)){const i=document.createElement(t.tagName);e.insertBefore(i,n);b(i,t,r);r.callbacks.afterNodeAdded(i);return i}else{const o=document.importNode(t,true);e.insertBefore(o,n);r.callbacks.afterNodeAdded(o);return o}}const f=function(){function e(e,t,n,r){let i=null;let o=t.nextSibling;let l=0;let a=n;while(a&&a!=r){if(c(a,t)){if(s(e,a,t)){return a}if(i===null){if(!e.idMap.has(a)){i=a}}}if(i===null&&o&&c(a,o)){l++;o=o.nextSibling;if(l>=2){i=undefined}}if(e.activeElementAndParents.includes(a))break;a=a.nextSibling}return i||null}function s(e,t,n){let r=e.idMap.get(t);let i=e.idMap.get(n);if(!i||!r)return false;for(const o of r){if(i.has(o)){return true}}return false}function c(e,t){const n=e;const r=t;return n.nodeType===r.nodeType&&n.tagName===r.tagName&&(!n.getAttribute?.("id")||n.getAttribute?.("id")===r.getAttribute?.("id"))}return e}();function m(e,t){if(e.idMap.has(t)){l(e.pantry,t,null)}else{if(e.callbacks.beforeNodeRemoved(t)===false)return;t.parentNode?.removeChild(t);e.callbacks.afterNodeRemoved(t)}}function h(t,e,n){let r=e;while(r&&r!==n){let e=r;r=r.nextSibling;m(t,e)}return r}function p(e,t,n,r){const i=r.target.getAttribute?.("id")===t&&r.target||r.target.querySelector(`[id="${t}"]`)||r.pantry.querySelector(`[id="${t}"]`);o(i,r);l(e,i,n);return i}function o(t,n){const r=t.getAttribute("id");while(t=t.parentNode){let e=n.idMap.get(t);if(e){e.delete(r);if(!e.size){n.idMap.delete(t)}}}}function l(t,n,r){if(t.moveBefore){try{t.moveBefore(n,r)}catch(e){t.insertBefore(n,r)}}else{t.insertBefore(n,r)}}return e}();const b=function(){function e(e,t,n){if(n.ignoreActive&&e===document.activeElement){return null}if(n.callbacks.beforeNodeMorphed(e,t)===false){return e}if(e instanceof HTMLHeadElement&&n.head.ignore){}else if(e instanceof HTMLHeadElement&&n.head.style!=="morph"){m(e,t,n)}else{r(e,t,n);if(!f(e,n)){s(n,e,t)}}n.callbacks.afterNodeMorphed(e,t);return e}function r(e,t,n){let r=t.nodeType;if(r===1){const i=e;const o=t;const l=i.attributes;const a=o.attributes;for(const s of a){if(d(s.name,i,"update",n)){continue}if(i.getAttribute(s.name)!==s.value){i.setAttribute(s.name,s.value)}}for(let e=l.length-1;0<=e;e--){const c=l[e];if(!c)continue;if(!o.hasAttribute(c.name)){if(d(c.name,i,"remove",n)){continue}i.removeAttribute(c.name)}}if(!f(i,n)){u(i,o,n)}}if(r===8||r===3){if(e.nodeValue!==t.nodeValue){e.nodeValue=t.nodeValue}}}function u(n,r,i){if(n instanceof HTMLInputElement&&r instanceof HTMLInputElement&&r.type!=="file"){let e=r.value;let t=n.value;o(n,r,"checked",i);o(n,r,"disabled",i);if(!r.hasAttribute("value")){if(!d("value",n,"remove",i)){n.value="";n.removeAttribute("value")}}else if(t!==e){if(!d("value",n,"update",i)){n.setAttribute("value",e);n.value=e}}}else if(n instanceof HTMLOptionElement&&r instanceof HTMLOptionElement){o(n,r,"selected",i)}else if(n instanceof HTMLTextAreaElement&&r instanceof HTMLTextAreaElement){let e=r.value;let t=n.value;if(d("value",n,"update",i)){return}if(e!==t){n.value=e}if(n.firstChild&&n.firstChild.nodeValue!==e){n.firstChild.nodeValue=e}}}function o(e,t,n,r){const i=t[n],o=e[n];if(i!==o){const l=d(n,e,"update",r);if(!l){e[n]=t[n]}if(i){if(!l){e.setAttribute(n,"")}}else{if(!d(n,e,"remove",r)){e.removeAttribute(n)}}}}function d(e,t,n,r){if(e==="value"&&r.ignoreActiveValue&&t===document.activeElement){return true}return r.callbacks.beforeAttributeUpdated(e,t,n)===false}function f(e,t){return!!t.ignoreActiveValue&&e===document.activeElement&&e!==document.body}return e}();function c(t,e,n,r){if(t.head.block){const i=e.querySelector("head");const o=n.querySelector("head");if(i&&o){const l=m(i,o,t);return Promise.all(l).then(()=>{const e=Object.assign(t,{head:{block:false,ignore:true}});return r(e)})}}return r(t)}function m(e,t,r){let i=[];let o=[];let l=[];let a=[];let s=new Map;for(const n of t.children){s.set(n.outerHTML,n)}for(const u of e.children){let e=s.has(u.outerHTML);let t=r.head.shouldReAppend(u);let n=r.head.shouldPreserve(u);if(e||n){if(t){o.push(u)}else{s.delete(u.outerHTML);l.push(u)}}else{if(r.head.style==="append"){if(t){o.push(u);a.push(u)}}else{if(r.head.shouldRemove(u)!==false){o.push(u)}}}}a.push(...s.values());let c=[];for(const d of a){let n=document.createRange().createContextualFragment(d.outerHTML).firstChild;if(r.callbacks.beforeNodeAdded(n)!==false){if("href"in n&&n.href||"src"in n&&n.src){let t;let e=new Promise(function(e){t=e});n.addEventListener("load",function(){t()});c.push(e)}e.appendChild(n);r.callbacks.afterNodeAdded(n);i.push(n)}}for(const f of o){if(r.callbacks.beforeNodeRemoved(f)!==false){e.removeChild(f);r.callbacks.afterNodeRemoved(f)}}r.head.afterHeadMorphed(e,{added:i,kept:l,removed:o});return c}const u=function(){function e(e,t,n){const{persistentIds:r,idMap:i}=f(e,t);const o=a(n);const l=o.morphStyle||"outerHTML";if(!["innerHTML","outerHTML"].includes(l)){throw`Do not understand how to morph style ${l}`}return{target:e,newContent:t,config:o,morphStyle:l,ignoreActive:o.ignoreActive,ignoreActiveValue:o.ignoreActiveValue,restoreFocus:o.restoreFocus,idMap:i,persistentIds:r,pantry:s(),activeElementAndParents:c(e),callbacks:o.callbacks,head:o.head}}function a(e){let t=Object.assign({},n);Object.assign(t,e);t.callbacks=Object.assign({},n.callbacks,e.callbacks);t.head=Object.assign({},n.head,e.head);return t}function s(){const e=document.createElement("div");e.hidden=true;document.body.insertAdjacentElement("afterend",e);return e}function c(e){let t=[];let n=document.activeElement;if(n?.tagName!=="BODY"&&e.contains(n)){while(n){t.push(n);if(n===e)break;n=n.parentElement}}return t}function u(e){let t=Array.from(e.querySelectorAll("[id]"));if(e.getAttribute?.("id")){t.push(e)}return t}function d(n,e,r,t){for(const i of t){const o=i.getAttribute("id");if(e.has(o)){let t=i;while(t){let e=n.get(t);if(e==null){e=new Set;n.set(t,e)}e.add(o);if(t===r)break;t=t.parentElement}}}}function f(e,t){const n=u(e);const r=u(t);const i=m(n,r);let o=new Map;d(o,i,e,n);const l=t.__idiomorphRoot||t;d(o,i,l,r);return{persistentIds:i,idMap:o}}function m(e,t){let n=new Set;let r=new Map;for(const{id:o,tagName:l}of e){if(r.has(o)){n.add(o)}else{r.set(o,l)}}let i=new Set;for(const{id:o,tagName:l}of t){if(i.has(o)){n.add(o)}else if(r.get(o)===l){i.add(o)}}for(const o of n){i.delete(o)}return i}return e}();const{normalizeElement:d,normalizeParent:f}=function(){const i=new WeakSet;function e(e){if(e instanceof Document){return e.documentElement}else{return e}}function r(e){if(e==null){return document.createElement("div")}else if(typeof e==="string"){return r(l(e))}else if(i.has(e)){return e}else if(e instanceof Node){if(e.parentNode){return new o(e)}else{const t=document.createElement("div");t.append(e);return t}}else{const t=document.createElement("div");for(const n of[...e]){t.append(n)}return t}}class o{constructor(e){this.originalNode=e;this.realParentNode=e.parentNode;this.previousSibling=e.previousSibling;this.nextSibling=e.nextSibling}get childNodes(){const e=[];let t=this.previousSibling?this.previousSibling.nextSibling:this.realParentNode.firstChild;while(t&&t!=this.nextSibling){e.push(t);t=t.nextSibling}return e}querySelectorAll(r){return this.childNodes.reduce((t,e)=>{if(e instanceof Element){if(e.matches(r))t.push(e);const n=e.querySelectorAll(r);for(let e=0;e<n.length;e++){t.push(n[e])}}return t},[])}insertBefore(e,t){return this.realParentNode.insertBefore(e,t)}moveBefore(e,t){return this.realParentNode.moveBefore(e,t)}get __idiomorphRoot(){return this.originalNode}}function l(n){let r=new DOMParser;let e=n.replace(/<svg(\s[^>]*>|>)([\s\S]*?)<\/svg>/gim,"");if(e.match(/<\/html>/)||e.match(/<\/head>/)||e.match(/<\/body>/)){let t=r.parseFromString(n,"text/html");if(e.match(/<\/html>/)){i.add(t);return t}else{let e=t.firstChild;if(e){i.add(e)}return e}}else{let e=r.parseFromString("<body><template>"+n+"</template></body>","text/html");let t=e.body.querySelector("template").content;i.add(t);return t}}return{normalizeElement:e,normalizeParent:r}}();return{morph:t,defaults:n}}();
const slidersIn = (root) => {
  const WAIT = 250; // keys come in bursts: one question for all of them
  const made = new WeakMap(); // by the element they are drawn in
  let asking = null;

  const numberIn = (field, otherwise) => {
    const text = field.value.trim().replace(",", ".");
    return text === "" || Number.isNaN(Number(text)) ? otherwise : Number(text);
  };

  class Slider {
    constructor(range, bar) {
      Object.assign(this, { range, bar, handles: ["from", "to"].map((end) => this.handle(end)) });
      this.kept = Object.assign(document.createElement("i"), { className: "kept" });
      bar.replaceChildren(this.kept, ...this.handles);
      bar.addEventListener("pointerdown", (event) => this.grasp(event));
    }

    handle(end) {
      const handle = Object.assign(document.createElement("i"), { className: `handle ${end === "from" ? "lower" : "upper"}`, tabIndex: 0 });
      handle.setAttribute("role", "slider");
      handle.addEventListener("keydown", (event) => this.key(event, end === "from" ? 0 : 1));
      return handle;
    }

    read() {
      this.anchors = JSON.parse(this.range.dataset.range);
      const [from, to] = this.boxes;
      this.values = [numberIn(from, this.low), numberIn(to, this.high)];
      this.show();
    }

    get boxes() { return this.range.querySelectorAll("input"); }
    get low() { return this.anchors[0][1]; }
    get high() { return this.anchors[this.anchors.length - 1][1]; }

    between(from, to, here) {
      const next = Math.max(1, this.anchors.findIndex((anchor) => anchor[from] >= here));
      const [before, after] = [this.anchors[next - 1], this.anchors[next]];
      const part = after[from] === before[from] ? 1 : (here - before[from]) / (after[from] - before[from]);
      return before[to] + part * (after[to] - before[to]);
    }

    placeOf(value) { return this.between(1, 0, Math.min(this.high, Math.max(this.low, value))); }
    valueAt(place) { return this.between(0, 1, Math.min(100, Math.max(0, place))); }

    show() {
      const { prefix, suffix, label } = this.range.dataset;
      const say = (value) => `${prefix}${this.written(value)}${suffix ? ` ${suffix}` : ""}`;
      const places = this.values.map((value) => this.placeOf(value));
      this.handles.forEach((handle, at) => {
        const value = Math.min(this.high, Math.max(this.low, this.values[at]));
        handle.style.left = `${places[at]}%`;
        handle.style.zIndex = at === 0 && places[0] > 50 ? 2 : 1; // the one that can still be moved lies above
        const said = {
          label: `${label}, ${at ? "to" : "from"}`, valuemin: this.low, valuemax: this.high, valuenow: value,
          valuetext: say(value),
        };
        for (const [name, text] of Object.entries(said)) handle.setAttribute(`aria-${name}`, text);
      });
      const bar = this.bar; // handles that would lie on each other stand side by side: both can be seen and taken
      bar.classList.toggle("met", ((places[1] - places[0]) * bar.clientWidth) / 100 < this.handles[0].offsetWidth);
      Object.assign(this.kept.style, { left: `${places[0]}%`, right: `${100 - places[1]}%` });
      this.range.querySelector(".fall polygon")?.setAttribute("points", `${places[0]},0 ${places[1]},0 100,14 0,14`);
    }

    written(value, grouped = true) {
      const [decimals, point, group] = (this.range.dataset.signs || "|.|").split("|");
      const [whole, part] = Math.abs(value).toFixed(decimals === "" ? 2 : Number(decimals)).split(".");
      const rest = decimals === "" ? (part ?? "").replace(/0+$/, "") : part;
      const parted = grouped ? whole.replace(/\B(?=(\d{3})+$)/g, group) : whole;
      return `${value < 0 ? "-" : ""}${parted}${rest ? point + rest : ""}`;
    }

    get step() { return Number(this.range.dataset.step) || 0; }

    move(at, value, rounded) {
      const [least, most] = at ? [this.values[0], this.high] : [this.low, this.values[1]];
      this.values[at] = Math.min(most, Math.max(least, value));
      const [from, to] = this.boxes;
      from.value = this.values[0] <= this.low ? "" : this.written(rounded(this.values[0]), false);
      to.value = this.values[1] >= this.high ? "" : this.written(rounded(this.values[1]), false);
      this.show();
    }

    stepped(value) {
      if (this.step > 0) return Number((Math.round(value / this.step) * this.step).toFixed(6));
      const span = this.high - this.low;
      return Number(value.toFixed(span > 50 ? 0 : span > 5 ? 1 : 2));
    }

    ask(wait) {
      clearTimeout(asking);
      asking = setTimeout(() => this.boxes[0].dispatchEvent(new Event("change", { bubbles: true })), wait);
    }

    grasp(event) {
      if (event.button) return;
      event.preventDefault();
      const placeOf = (moved) => {
        const box = this.bar.getBoundingClientRect();
        return (100 * (moved.clientX - box.left)) / box.width;
      };
      const touched = this.handles.indexOf(event.target.closest(".handle"));
      const far = this.values.map((value) => Math.abs(this.placeOf(value) - placeOf(event)));
      const at = touched >= 0 ? touched : far[1] < far[0] ? 1 : 0;
      const offset = touched >= 0 ? this.placeOf(this.values[at]) - placeOf(event) : 0; // a handle is held where it was taken
      const before = [...this.values].join();
      const follow = (moved) => this.move(at, this.valueAt(placeOf(moved) + offset), (value) => this.stepped(value));
      const held = new AbortController();
      const over = () => {
        held.abort();
        this.bar.classList.remove("in-hand");
        if (this.values.join() !== before) this.ask(0);
      };
      this.bar.classList.add("in-hand");
      this.bar.setPointerCapture(event.pointerId);
      this.handles[at].focus({ preventScroll: true });
      this.bar.addEventListener("pointermove", follow, { signal: held.signal });
      for (const end of ["pointerup", "pointercancel"]) this.bar.addEventListener(end, over, { signal: held.signal });
      if (touched < 0) follow(event);
    }

    key(event, at) {
      const next = this.step > 0
        ? stepTo(this.step, [this.low, this.high], this.values[at], event.key)
        : goal(JSON.parse(this.range.dataset.stops || "[]"), this.values[at], event.key);
      if (next === null) return;
      event.preventDefault();
      this.move(at, next, (value) => Number(value.toFixed(6)));
      this.ask(WAIT);
    }
  }

  function stepTo(step, [low, high], value, key) {
    const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[key];
    if (key === "Home") return low;
    if (key === "End") return high;
    if (!by) return null;
    const at = value / step;
    const near = 1e-9 * Math.max(1, Math.abs(at));
    const from = by > 0 ? Math.floor(at + near) : Math.ceil(at - near);
    return Math.min(high, Math.max(low, Number(((from + by) * step).toFixed(6))));
  }

  function goal(stops, value, key) {
    const page = Math.max(1, Math.round(stops.length / 10));
    const steps = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: page, PageDown: -page }[key];
    if (!stops.length) return null;
    if (key === "Home") return stops[0];
    if (key === "End") return stops[stops.length - 1];
    if (!steps) return null;
    const near = 1e-9 * Math.max(1, Math.abs(value));
    const above = stops.findIndex((stop) => stop > value + near);
    const at = above < 0 ? stops.length : above;
    const isOn = at > 0 && Math.abs(stops[at - 1] - value) <= near;
    const place = steps > 0 ? at + steps - 1 : (isOn ? at - 1 : at) + steps;
    return stops[Math.min(stops.length - 1, Math.max(0, place))];
  }

  function dress(range) {
    const bar = range.querySelector(".slider");
    const anchors = JSON.parse(range.dataset.range || "[]");
    if (!bar || anchors.length < 2 || !(anchors[anchors.length - 1][1] > anchors[0][1])) return;
    if (!bar.firstChild) made.set(bar, new Slider(range, bar));
    if (!bar.classList.contains("in-hand")) made.get(bar).read();
  }

  return () => root.querySelectorAll("[data-range]").forEach(dress);
};
const facetsIn = (root) => {
  const byId = (id) => root.getElementById(id);
  const slide = slidersIn(root);

  const plain = (text) => text.normalize("NFD").replace(/\p{Mn}/gu, "").toLowerCase();
  const GROUPS = ["begins", "inside", "bare"];
  function find(field) {
    const facet = byId(field.dataset.within);
    const wanted = plain(field.value.trim());
    const found = { begins: 0, inside: 0, bare: 0 };
    for (const choice of facet.querySelectorAll("[data-choices] .choice")) {
      const name = plain(choice.querySelector(".name").textContent);
      const group = !wanted || !name.includes(wanted) ? "" : choice.classList.contains("bare") ? "bare" : name.startsWith(wanted) ? "begins" : "inside";
      choice.classList.toggle("unseen", Boolean(wanted) && !group);
      for (const one of GROUPS) choice.classList.toggle(`found-${one}`, one === group);
      if (group) found[group] += 1;
    }
    const total = found.begins + found.inside + found.bare;
    const more = facet.querySelector(".more");
    if (more && wanted) more.open = true;
    facet.classList.toggle("searched", Boolean(wanted));
    facet.querySelector("[data-suggests]")?.classList.toggle("asked", Boolean(wanted));
    const none = facet.querySelector("[data-within-none]");
    if (none) none.hidden = !wanted || total > 0;
    for (const one of GROUPS) facet.querySelectorAll(`[data-group="${one}"]`).forEach((head) => { head.hidden = !found[one]; });
  }
  root.addEventListener("input", (event) => { if (event.target.matches?.("[data-within]")) find(event.target); });
  root.addEventListener("change", (event) => { if (event.target.matches?.("[data-within]")) event.stopPropagation(); }, true);
  root.addEventListener("change", (event) => {
    if (!event.target.matches?.("[data-all]")) return;
    for (const field of event.target.closest(".facet").querySelectorAll("input")) {
      if (field === event.target) field.checked = true;
      else if (/checkbox|radio/.test(field.type)) field.checked = false;
      else if (!field.matches("[data-within]")) field.value = "";
    }
  }, true);
  root.addEventListener("keydown", (event) => {
    if (!event.target.matches?.("[data-within]")) return;
    if (event.key === "Enter") {
      event.preventDefault();
      byId(event.target.dataset.within).querySelector(".choice:not(.unseen) input:not(:disabled)")?.click();
    } else if (event.key === "Escape" && event.target.value) {
      event.stopPropagation();
      event.target.value = "";
      find(event.target);
    } else if (event.key === "ArrowDown") {
      event.preventDefault();
      byId(event.target.dataset.within).querySelector(".choice:not(.unseen) input:not(:disabled)")?.focus();
    }
  });

  const SHAPES = "[data-facets]";
  let kept = null;

  function keep() {
    const active = root.activeElement?.closest?.(SHAPES) ? root.activeElement : null;
    const handle = active?.closest(".handle");
    kept = {
      opened: {}, typed: {}, scrolled: {}, focused: active?.id ?? "",
      handle: handle && [handle.closest("details").id, handle.classList.contains("upper") ? 1 : 0],
    };
    for (const shape of root.querySelectorAll(SHAPES)) {
      for (const part of shape.querySelectorAll("details[id]")) kept.opened[part.id] = part.open;
      for (const field of shape.querySelectorAll("[data-within]")) if (field.value) kept.typed[field.id] = field.value;
      for (const list of shape.querySelectorAll(".scrolls")) kept.scrolled[list.closest("details.facet").id] = list.scrollTop;
    }
  }

  function restore() {
    if (!kept) return;
    for (const [id, open] of Object.entries(kept.opened)) if (byId(id)) byId(id).open = open;
    for (const [id, text] of Object.entries(kept.typed)) {
      if (!byId(id)) continue;
      byId(id).value = text;
      find(byId(id));
    }
    for (const [id, top] of Object.entries(kept.scrolled)) {
      const list = byId(id)?.querySelector(".scrolls");
      if (list) list.scrollTop = top;
    }
    if (kept.focused && root.activeElement !== byId(kept.focused)) byId(kept.focused)?.focus({ preventScroll: true });
  }

  function dress() {
    slide();
    if (kept?.handle) byId(kept.handle[0])?.querySelectorAll(".handle")[kept.handle[1]]?.focus();
    kept = null;
  }

  return { keep, restore, dress };
};
const HOME = new URL(import.meta.url).origin;
const WAIT = { busy: 300, gone: 30_000 };
const keyOf = (name) => name.replace(/\.(from|to)$/, "");
const AGAIN = new Set([429, 503]); // too often, or not ready yet: they say when to ask again
const KEPT = new Set(["sort", "per"]); // stay where all picks are taken away
const wide = matchMedia("(min-width: 800px)");

class Listing {
  static all = new Map();

  static of(name) {
    if (!Listing.all.has(name)) Listing.all.set(name, new Listing(name));
    return Listing.all.get(name);
  }

  constructor(name) {
    Object.assign(this, { name, elements: new Set(), shown: 0, asked: 0, answer: null, held: null });
    this.pairs = this.inAddress();
    addEventListener("popstate", () => {
      const pairs = this.inAddress();
      if (String(pairs) !== String(this.pairs)) this.edit(() => pairs, { keeps: false });
    });
  }

  join(element) {
    this.elements.add(element);
    if (this.answer) element.draw(this.answer); // and asked anew: it may be placed with another rack or facet by now
    if (this.isJoined) return;
    this.isJoined = true;
    queueMicrotask(() => { // once all elements of the page are there
      this.isJoined = false;
      this.ask();
    });
  }

  leave(element) { this.elements.delete(element); }

  edit(change, { keeps = true } = {}) {
    this.pairs = change(this.held ?? this.pairs);
    this.held = null;
    this.shown = 0;
    this.ask(keeps);
  }

  search(text) {
    this.edit((pairs) => [...pairs.filter(([name]) => name !== "q"), ...(text.trim() ? [["q", text.trim()]] : [])]);
  }

  get waits() { return this.answer?.applies[wide.matches ? "wide" : "phone"] === "button"; }

  apply() { this.edit((pairs) => pairs); }

  async hold(pairs) {
    this.held = pairs;
    const key = ([name, value]) => `${keyOf(name)}=${value}`;
    const [old, now] = [new Set(this.pairs.map(key)), new Set(pairs.map(key))];
    const moved = {};
    for (const [from, to] of [[old, now], [now, old]]) {
      const gone = {};
      for (const text of [...from].filter((one) => !to.has(one))) gone[keyOf(text.split("=")[0])] = (gone[keyOf(text.split("=")[0])] ?? 0) + 1;
      for (const [name, count] of Object.entries(gone)) moved[name] = Math.max(moved[name] ?? 0, count);
    }
    const count = Object.values(moved).reduce((sum, one) => sum + one, 0);
    this.each((element) => element.foretold("", count));
    this.foretelling?.abort();
    this.foretelling = new AbortController();
    try {
      const response = await fetch(this.question(pairs, [["_only", "total"]]), { credentials: "omit", signal: this.foretelling.signal });
      if (response.ok && this.held === pairs) {
        const { words } = await response.json();
        this.each((element) => element.foretold(words, count));
      }
    } catch { /* given up for a newer question, or no line: the button applies all the same */ }
  }

  drop(text) {
    const gone = text.split(" ").map((part) => { const at = part.indexOf("="); return at < 0 ? [part] : [part.slice(0, at), part.slice(at + 1)]; });
    const goes = ([name, value]) => gone.some(([key, one]) => (key === "*" ? !KEPT.has(name) : keyOf(name) === key && (one ?? value) === value));
    this.edit((pairs) => pairs.filter((pair) => !goes(pair)));
  }

  set(key, fields) {
    const has = (field) => field.matches("select, [type=checkbox], [type=radio]");
    const offered = new Set(fields.filter(has).flatMap((field) => (field.options ? [...field.options] : [field]).map((one) => one.value)));
    const one = fields.some((field) => field.matches("select, [type=radio]"));
    const ranges = fields.some((field) => !has(field));
    const picked = fields.filter((field) => field.value && (!field.matches("[type=checkbox], [type=radio]") || field.checked));
    const change = (pairs) => [
      ...pairs.filter(([name, value]) => keyOf(name) !== key || !(one || offered.has(value) || (ranges && value.includes("..")) || name !== key)),
      ...picked.map((field) => [field.name, field.value]),
    ];
    if (this.waits && key !== "sort") this.hold(change(this.held ?? this.pairs));
    else this.edit(change);
  }

  get prefix() { return `${this.name}.`; }

  inAddress() {
    return [...new URLSearchParams(location.search)].filter(([name]) => name.startsWith(this.prefix)).map(([name, value]) => [name.slice(this.prefix.length), value]);
  }

  address(pairs) {
    const others = location.search.slice(1).split("&").filter((part) => part && !part.startsWith(this.prefix));
    const own = new URLSearchParams(pairs.map(([name, value]) => [this.prefix + name, value])).toString();
    const query = [...others, ...(own ? [own] : [])].join("&");
    return location.pathname + (query ? `?${query}` : "") + location.hash;
  }

  keepAddress() {
    const address = this.address(this.pairs);
    if (address !== location.pathname + location.search + location.hash) history.pushState(history.state, "", address);
  }

  get racks() { return [...new Set([...this.elements].map((element) => element.getAttribute("rack")).filter((rack) => rack !== null))]; }

  question(pairs, more = []) {
    const query = new URLSearchParams([...pairs, ...more]);
    this.racks.forEach((rack) => query.append("_rack", rack));
    new Set([...this.elements].flatMap((element) => element.alone)).forEach((facet) => query.append("_facet", facet));
    return `${HOME}/api/shop/v1/embeds/${encodeURIComponent(this.name)}?${query}`;
  }

  async ask(keeps = false) {
    const turn = ++Listing.turns;
    this.asked = turn;
    this.going?.abort();
    this.going = new AbortController();
    const busy = setTimeout(() => this.each((element) => element.busy(true)), WAIT.busy);
    const late = setTimeout((going) => going.abort("late"), WAIT.gone, this.going);
    this.foretelling?.abort();
    try {
      const response = await fetch(this.question(this.pairs, this.shown ? [["shown", this.shown]] : []), { credentials: "omit", signal: this.going.signal });
      const answer = await response.json();
      if (this.asked !== turn) return;
      if (AGAIN.has(response.status)) {
        setTimeout(() => { if (this.asked === turn) this.ask(keeps); }, 1000 * Math.max(1, Number(response.headers.get("Retry-After"))));
        return;
      }
      if (!response.ok) throw new Error(answer.title);
      this.pairs = [...new URLSearchParams(answer.query)];
      this.answer = answer;
      if (keeps) this.keepAddress();
      this.each((element) => element.draw(answer));
      if (this.held) this.hold(this.held);
    } catch (error) {
      if (this.asked === turn) this.failed(error);
    } finally {
      clearTimeout(busy);
      clearTimeout(late);
      if (this.asked === turn) this.each((element) => element.busy(false));
    }
  }

  failed(error) {
    console.warn(`bin-sort "${this.name}": ${error.message ?? error}`);
    if (this.answer) [...this.elements][0]?.warn();
  }

  each(act) { this.elements.forEach(act); }
}
Listing.turns = 0;
const PARTS = ["above", "rack", "apply", "picks", "count", "sort", "products", "more", "below"]; // all of them where a host names none
const OTHERS = ["search"]; // only where a host asks for it
const WITH = { rack: ["above", "rack", "apply", "below"] }; // facets stand together wherever the rack is placed
const HEAD = new Set(["search", "picks", "count", "sort"]);
const ALONE = "facet:"; // before the key of a facet that stands by itself
const TYPED = 300; // letters come in bursts
const sheet = new CSSStyleSheet();
sheet.replaceSync(STYLE);
const policy = globalThis.trustedTypes?.createPolicy("bin-sort", { createHTML: (text) => text });
const made = (tag, className, role) => {
  const part = Object.assign(document.createElement(tag), { className });
  if (role) part.setAttribute("role", role);
  return part;
};

class BinSort extends HTMLElement {
  static observedAttributes = ["listing", "part", "look", "rack"];

  connectedCallback() {
    if (!this.shadowRoot) {
      const root = this.attachShadow({ mode: "open", delegatesFocus: false });
      root.adoptedStyleSheets = [sheet];
      root.append(document.createElement("slot")); // the host's own link, until there is something to show
      this.facets = facetsIn(root);
      root.addEventListener("change", (event) => this.changed(event.target));
      root.addEventListener("click", (event) => this.clicked(event));
      root.addEventListener("input", (event) => this.typing(event.target));
    }
    this.listing = Listing.of(this.getAttribute("listing") ?? "");
    this.listing.join(this);
  }

  disconnectedCallback() {
    this.listing.leave(this);
    this.resized?.disconnect();
  }

  attributeChangedCallback(name, before, now) {
    if (!this.listing || before === now) return;
    this.frame?.remove();
    this.frame = null;
    if (name === "listing") {
      this.listing.leave(this);
      this.connectedCallback();
    } else if (name === "look" && this.listing.answer) this.draw(this.listing.answer);
    else this.listing.join(this); // other racks or facets: asked anew
  }

  get named() {
    const named = (this.getAttribute("part") ?? "").split(/\s+/);
    return named.filter((part) => PARTS.includes(part) || OTHERS.includes(part) || (part.startsWith(ALONE) && part !== ALONE));
  }

  get listed() {
    const named = this.named;
    return [...new Set((named.length ? named : PARTS).flatMap((part) => WITH[part] ?? [part]))];
  }

  get alone() { return this.listed.filter((part) => part.startsWith(ALONE)).map((part) => part.slice(ALONE.length)); }

  get hasApply() {
    if (this.named.includes("apply")) return true;
    if ([...this.listing.elements].some((one) => one.named.includes("apply"))) return false;
    return this.listed.includes("rack") || this.alone.length > 0;
  }

  build() {
    const listed = [...new Set([...this.listed, "apply"])];
    this.frame = made("div", "frame");
    this.holders = {};
    const groups = {};
    const into = (group) => {
      if (!groups[group]) this.frame.append((groups[group] = made("div", group)));
      return groups[group];
    };
    const ends = ["above", "rack", ...listed.filter((part) => part.startsWith(ALONE)), "apply", "below"];
    const order = [...ends.slice(0, -1), ...listed.filter((part) => !ends.includes(part)), "below"];
    for (const part of order.filter((one) => listed.includes(one))) {
      const kind = part.startsWith(ALONE) ? "lone" : part;
      const holder = made("div", `part-${kind}`);
      holder.part = kind;
      this.holders[part] = holder;
      const group = HEAD.has(part) ? "head" : part === "apply" && listed.includes("rack") ? "rack" : kind;
      into(group).append(holder);
    }
    this.frame.classList.toggle("together", "rack" in this.holders && "products" in this.holders);
    this.status = made("p", "sr-only", "status");
    this.frame.append(this.status);
    this.shadowRoot.append(this.frame);
    this.resized?.disconnect();
    this.resized = new ResizeObserver(() => this.fold());
    this.resized.observe(this);
  }

  draw(answer) {
    const isFirst = !this.frame;
    if (isFirst) {
      this.build();
      this.shadowRoot.querySelector("slot")?.remove();
    }
    const typed = this.shadowRoot.activeElement?.matches("input:not([type=checkbox], [type=radio])") ? this.shadowRoot.activeElement : null;
    const text = typed && typed.value !== typed.defaultValue && this.sent !== typed.value ? typed.value : null;
    this.facets.keep();
    this.frame.dataset.look = this.getAttribute("look") ?? "theirs";
    this.frame.style.cssText = "";
    this.frame.style.setProperty("--under", groundOf(this));
    this.frame.style.setProperty("--words", getComputedStyle(this).color);
    const theme = answer.theme[this.frame.dataset.look === "shop" ? "colours" : "measures"]; // type and colours of the page are its own
    Object.entries(theme).forEach(([name, value]) => this.frame.style.setProperty(name, value));
    const waits = this.listing.waits;
    for (const [part, holder] of Object.entries(this.holders)) {
      const own = part === "rack" ? answer.parts[`rack:${this.getAttribute("rack")}`] : undefined;
      const html = part === "apply" && !(waits && this.hasApply) ? "" : own ?? answer.parts[part] ?? "";
      Idiomorph.morph(holder, this.read(html), { morphStyle: "innerHTML", callbacks: CALLBACKS });
      holder.hidden = !html;
    }
    if (isFirst) this.fold();
    if (!this.listing.held) this.settle(typed, text); // what waits for the button stays as it was chosen
    this.facets.restore();
    this.facets.dress();
    this.after(answer);
  }

  read(html) {
    const page = new DOMParser().parseFromString(policy ? policy.createHTML(html) : html, "text/html");
    for (const picture of page.querySelectorAll("img[src^='/']")) picture.src = HOME + picture.getAttribute("src");
    for (const link of page.querySelectorAll("a")) {
      const href = link.getAttribute("href");
      if (href.startsWith("/")) link.href = HOME + href;
      else if (link.matches("[data-drop], [data-shown]")) link.href = this.listing.address([...new URLSearchParams(href)]);
    }
    return [...page.body.childNodes];
  }

  settle(typed, text) {
    for (const field of this.shadowRoot.querySelectorAll("input:not([data-within])")) {
      if (field.matches("[type=checkbox], [type=radio]")) field.checked = field.defaultChecked;
      else field.value = field === typed && text !== null ? text : field.defaultValue;
    }
    for (const list of this.shadowRoot.querySelectorAll("select")) {
      list.selectedIndex = Math.max(0, [...list.options].findIndex((option) => option.defaultSelected));
    }
  }

  after(answer) {
    this.warned?.remove();
    if (!this.acted) return;
    const at = this.acted;
    this.acted = null;
    this.status.textContent = answer.said;
    if (this.shadowRoot.activeElement && !at.shown) return;
    const cards = this.shadowRoot.querySelectorAll(".card a");
    const next = at.shown ? cards[at.shown] : this.shadowRoot.getElementById(at.id) ?? this.shadowRoot.querySelector("a.pick, .nothing a, input:not(:disabled), .card a");
    next?.focus({ preventScroll: !at.shown });
  }

  fold() {
    const rack = this.shadowRoot.querySelector(".narrow-by");
    if (!rack) return;
    const isNarrow = this.frame.classList.contains("together") && this.clientWidth < 560;
    if (this.narrow === isNarrow && rack.dataset.folded) return;
    this.narrow = isNarrow;
    rack.dataset.folded = "yes";
    rack.open = !isNarrow;
    this.frame.classList.toggle("narrow", isNarrow);
  }

  busy(is) { this.frame?.classList.toggle("busy", is); }

  warn() {
    this.warned?.remove();
    this.warned = made("div", "went-wrong", "alert");
    const again = Object.assign(made("button", "solid-button"), { type: "button", textContent: "Try again" });
    again.addEventListener("click", () => this.listing.ask(true));
    this.warned.append(made("span", ""), again);
    this.warned.firstChild.textContent = "The shop cannot be reached just now. Your picks are still here.";
    this.frame.prepend(this.warned);
  }

  changed(field) {
    if (!field.name) return;
    const key = keyOf(field.name);
    this.acted = { id: field.id };
    this.sent = field.value;
    if (key === "q") { this.listing.search(field.value); return; }
    this.listing.set(key, [...this.shadowRoot.querySelectorAll("[name]")].filter((one) => keyOf(one.name) === key && !one.disabled));
  }

  typing(field) {
    clearTimeout(this.typed);
    if (field.name === "q" && field.dataset.typing === "typing") this.typed = setTimeout(() => this.changed(field), TYPED);
  }

  foretold(words, count) {
    for (const part of this.shadowRoot.querySelectorAll("[data-words]")) part.textContent = words || part.textContent;
    for (const part of this.shadowRoot.querySelectorAll("[data-waiting]")) {
      part.textContent = !count ? "" : count === 1 ? part.dataset.one : part.dataset.many.replace("%", count);
    }
  }

  clicked(event) {
    if (event.target.closest?.("[data-apply]")) {
      this.acted = { id: "apply" };
      this.listing.apply();
      return;
    }
    const link = event.target.closest?.("a[data-drop], a[data-shown]");
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey || event.button) return;
    event.preventDefault();
    if (event.detail > 1) return; // the second half of a double click
    if (link.dataset.shown) {
      this.acted = { shown: this.shadowRoot.querySelectorAll(".card").length };
      this.listing.shown = Number(link.dataset.shown);
      this.listing.ask();
    } else {
      this.acted = { id: "" };
      this.listing.drop(link.dataset.drop);
    }
  }
}

const CALLBACKS = {
  beforeNodeMorphed: (old) => !old.matches?.(".slider"),
  beforeAttributeUpdated: (name, node) => {
    if (name === "open" || name === "data-folded") return node.tagName !== "DETAILS";
    return !(name === "value" && node.matches("[data-within]")) && name !== "style";
  },
};

function groundOf(element) {
  for (let node = element; node; node = node.parentElement ?? node.getRootNode().host) {
    const colour = getComputedStyle(node).backgroundColor;
    if (!/^transparent$|^rgba\(.*, ?0\)$|\/ ?0\)$/.test(colour)) return colour; // rgb(0, 0, 0) is black
  }
  return "Canvas";
}

if (!customElements.get("bin-sort")) customElements.define("bin-sort", BinSort);
})();
