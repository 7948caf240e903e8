// The shop works without this file. With it the form stays in the page: a pick is sent, the answer is laid over the form part by part.
// Links that take a pick away or add one are edits of the form, so what was clicked last is never undone by an older link.
(() => {
  const root = document.documentElement;
  const byId = (id) => document.getElementById(id);
  const form = () => byId("narrow");
  const wide = window.matchMedia("(min-width: 800px)");

  // -- laying an answer over the form: what is the shopper's own stays as it is
  htmx.defineExtension("over", {
    isInlineSwap: (style) => style === "over",
    handleSwap: (style, target, fragment) => style === "over" && Idiomorph.morph(target, fragment.children, { morphStyle: "outerHTML" }),
  });
  Idiomorph.defaults.ignoreActiveValue = true;
  Idiomorph.defaults.callbacks.beforeNodeMorphed = (old) => !old.matches?.(".slider, #suggestions, .why-line");
  Idiomorph.defaults.callbacks.beforeAttributeUpdated = (name, node) => {
    if (name === "open") return node.tagName !== "DETAILS";
    if (name === "value") return !node.matches("[data-within]");
    return !["style", "inert", "aria-modal", "aria-expanded", "aria-activedescendant"].includes(name) && !(name === "role" && node.id === "drawer");
  };

  // -- which facets are opened that stood shut is counted, each once on a page, as a sum and nothing more
  const unfolded = new Set();
  document.addEventListener("click", (event) => {
    const facet = event.target.closest("#narrow details.facet > summary")?.parentElement;
    if (!facet || facet.open || unfolded.has(facet.id)) return;
    unfolded.add(facet.id);
    navigator.sendBeacon?.(form().dataset.unfolded, new URLSearchParams({ facet: facet.id.replace(/^facet-/, "") }));
  });

  let sent = {}; // what was in the boxes when the last question was asked
  let place = null; // what the shopper touched, and where it stood
  let before = null; // what had the focus
  let touched = ""; // the facet that was changed last

  document.addEventListener("htmx:configRequest", (event) => {
    if (event.target.id !== "narrow") return;
    sent = Object.fromEntries([...form().querySelectorAll("input:not([type=checkbox], [type=radio])")].map((field) => [field.id, field.value]));
  });

  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.detail.target.id !== "narrow") return;
    const part = document.activeElement?.closest?.("#narrow [id]");
    before = part?.id ?? null;
    const anchor = (place && byId(place)) || part;
    place = anchor?.id ? { id: anchor.id, top: anchor.getBoundingClientRect().top } : null;
  });

  document.addEventListener("htmx:afterSwap", (event) => {
    if (event.detail.target.id !== "narrow") return;
    settle();
    keepPlace();
    keepAddress();
    keepFocus();
    sayChange();
    place = null;
  });

  // The form is what the address says, but for what is being typed at this moment.
  function settle() {
    for (const field of form().querySelectorAll("input")) {
      if (field.matches("[type=checkbox], [type=radio]")) field.checked = field.defaultChecked;
      else if (field.matches("[data-within]") || field.type === "hidden") continue;
      else if (field !== document.activeElement || field.value === sent[field.id]) field.value = field.defaultValue;
    }
    for (const list of form().querySelectorAll("select")) {
      const chosen = [...list.options].findIndex((option) => option.defaultSelected);
      list.selectedIndex = Math.max(0, chosen);
    }
  }

  // What was touched stays under the hand: in the page, and in the drawer.
  function keepPlace() {
    const shape = form();
    if (shape.dataset.after === "scroll" && !root.classList.contains("drawer-is-open")) {
      byId("results").scrollIntoView({ block: "start" });
      return;
    }
    const part = place && byId(place.id);
    if (!part) return;
    const scroll = part.closest("#drawer-scroll, .scrolls");
    const inDrawer = scroll && getComputedStyle(scroll).overflowY !== "visible" ? scroll : null;
    const moved = () => part.getBoundingClientRect().top - place.top;
    if (inDrawer) inDrawer.scrollTop += moved();
    else if (Math.abs(moved()) > 0.5) {
      shape.style.minHeight = "";
      window.scrollBy({ top: moved(), behavior: "instant" });
      if (Math.abs(moved()) > 0.5) { // the page has become too short to stand where it stood
        shape.style.minHeight = `${shape.offsetHeight + Math.abs(moved()) + 1}px`;
        window.scrollBy({ top: moved(), behavior: "instant" });
      }
    }
  }

  function keepAddress() {
    const address = form().dataset.address;
    if (address === location.pathname + location.search) return;
    if (root.classList.contains("drawer-is-open")) history.replaceState(history.state, "", address);
    else history.pushState({}, "", address);
  }

  function keepFocus() {
    if (document.activeElement && document.activeElement !== document.body) return;
    const lost = before && byId(before);
    const near = lost ?? document.querySelector(root.classList.contains("drawer-is-open") ? ".drawer-closer" : ".bar .pick, #nothing a") ?? byId("results");
    near.focus({ preventScroll: true });
    if (document.activeElement === document.body) byId("results").focus({ preventScroll: true });
  }

  function sayChange() {
    const words = byId("last-change");
    const pill = touched && document.querySelector(`#drawer-back-${CSS.escape(touched)}`);
    if (words) words.textContent = pill ? pill.getAttribute("aria-label").trim() : "";
  }

  // -- when a pick applies: at once, or by the button; here, or on another listing
  document.addEventListener("change", (event) => {
    const shape = event.target.form;
    if (shape?.id !== "narrow") return;
    touched = (event.target.name ?? "").replace(/\.(from|to)$/, "");
    place = event.target.closest(".choice, .letter, .switch, .twig, .ends label, .range")?.querySelector("input[id]")?.id ?? event.target.id;
    if (event.target.id === "in-q") event.stopPropagation(); // a search is sent by Enter or chosen
    else if (event.target.id === "sort") return;
    else if ((wide.matches ? shape.dataset.applies : shape.dataset.appliesOnPhones) === "button") {
      event.stopPropagation();
      shape.classList.add("is-unsent");
      foretell(shape);
    } else if ("elsewhere" in shape.dataset) shape.requestSubmit();
  }, true);

  // -- what the button that applies would show, and how many changes wait for it
  let foretelling = null;
  async function foretell(shape) {
    const fields = [...shape.elements].filter((field) => field.name && field.type !== "hidden" && field.id !== "sort" && field.id !== "in-q");
    const changed = (field) => (/checkbox|radio/.test(field.type) ? field.checked !== field.defaultChecked && (field.type !== "radio" || field.checked)
      : field.tagName === "SELECT" ? !field.options[field.selectedIndex]?.defaultSelected && field.value !== "" : field.value !== field.defaultValue);
    const count = fields.filter(changed).length;
    for (const words of shape.querySelectorAll("[data-waiting]")) {
      words.textContent = !count ? "" : count === 1 ? words.dataset.one : words.dataset.many.replace("%", count);
    }
    foretelling?.abort();
    foretelling = new AbortController();
    const query = new URLSearchParams([...new FormData(shape)].filter(([, value]) => value !== ""));
    try {
      const answer = await fetch(`${shape.getAttribute("action")}?${query}`, { headers: { "X-Only": "total" }, signal: foretelling.signal });
      if (!answer.ok) return;
      const { words } = await answer.json();
      for (const place of document.querySelectorAll("[data-applies-words]")) place.textContent = words;
    } catch { /* given up for a newer question, or no line: the button applies all the same */ }
  }

  // The page's own category goes along to another listing unless one of its facet is picked by hand.
  document.addEventListener("formdata", (event) => {
    for (const field of event.target.querySelectorAll("[data-carried]")) {
      const values = event.formData.getAll(field.name);
      if (values.length < 2) continue;
      values.splice(values.indexOf(field.value), 1);
      event.formData.delete(field.name);
      values.forEach((value) => event.formData.append(field.name, value));
    }
  });

  // -- links that edit the form
  const valued = (text) => { const at = text.indexOf("="); return at < 0 ? [text, null] : [text.slice(0, at), text.slice(at + 1)]; };
  const fieldsOf = (key) => [...form().elements].filter((field) => field.name === key);
  const boxesOf = (key) => ["from", "to"].map((end) => fieldsOf(`${key}.${end}`)[0]).filter(Boolean);
  const KEPT = new Set(["category", "per", "sort"]);

  function drop(text) {
    if (text === "*") {
      const keys = new Set([...form().elements].map((field) => field.name.replace(/\.(from|to)$/, "")).filter((name) => name && !KEPT.has(name)));
      keys.forEach(drop);
      return;
    }
    const [key, value] = valued(text);
    let met = false;
    for (const field of fieldsOf(key)) {
      if (value !== null && field.value !== value) continue;
      if (field.type === "hidden") { field.remove(); boxesOf(key).forEach((box) => { box.value = ""; }); }
      else if (field.type === "checkbox" || field.type === "radio") { met ||= field.checked; field.checked = false; continue; }
      else field.value = "";
      met = true;
    }
    if (!met) boxesOf(key).forEach((box) => { box.value = ""; });
  }

  function pick(text) {
    const [key, value] = valued(text);
    const field = fieldsOf(key).find((one) => one.value === value && /checkbox|radio/.test(one.type));
    if (field) { field.disabled = false; field.checked = true; return; }
    const ends = value.includes("..") ? value.split("..") : null;
    const boxes = boxesOf(key);
    if (ends && boxes.length === 2) { boxes.forEach((box, at) => { box.value = ends[at]; }); return; }
    const list = fieldsOf(key).find((one) => one.tagName === "SELECT");
    if (list) { list.value = value; return; }
    const hidden = Object.assign(document.createElement("input"), { type: "hidden", name: key, value });
    form().prepend(hidden);
  }

  document.addEventListener("click", (event) => {
    const link = event.target.closest?.("a");
    if (!link) return;
    if (event.ctrlKey || event.metaKey || event.shiftKey || event.button) { // another tab or window: the browser's own
      event.stopPropagation();
      return;
    }
    if (!form() || "elsewhere" in form().dataset || !(link.dataset.drop || link.dataset.pick)) return;
    event.preventDefault();
    if (event.detail > 1 || link.classList.contains("going")) return; // the second half of a double click
    link.classList.add("going");
    link.closest(".pill")?.classList.toggle("going", link.matches(".back"));
    (link.dataset.drop ?? "").split(" ").filter(Boolean).forEach(drop);
    if (link.dataset.pick) pick(link.dataset.pick);
    touched = valued(link.dataset.pick ?? "")[0];
    place = null;
    htmx.trigger(form(), "submit");
  }, true);

  // -- what went wrong is said in view; the picks stay as they are, and it can be tried once more
  function warn(text, sender) {
    calm();
    const notice = Object.assign(document.createElement("div"), { className: "went-wrong" });
    notice.setAttribute("role", "alert");
    const isBasket = sender?.id === "to-basket";
    const rest = isBasket ? "It was not put into the basket: press the button again." : "Your picks are still here.";
    notice.append(Object.assign(document.createElement("p"), { textContent: `${text} ${rest}` }));
    if (!isBasket) {
      const again = Object.assign(document.createElement("button"), { type: "button", className: "line-button", textContent: "Try again" });
      again.addEventListener("click", () => { calm(); if (form()) htmx.trigger(form(), "submit"); });
      notice.append(again);
    }
    document.body.append(notice);
    document.querySelectorAll(".going").forEach((part) => part.classList.remove("going"));
  }
  const calm = () => document.querySelector(".went-wrong")?.remove();
  document.addEventListener("htmx:responseError", (event) => warn("That did not work.", event.detail.elt));
  document.addEventListener("htmx:timeout", (event) => warn("The shop takes too long to answer.", event.detail.elt));
  document.addEventListener("htmx:sendError", (event) => warn("The shop cannot be reached just now.", event.detail.elt));
  document.addEventListener("htmx:afterOnLoad", calm);
  htmx.config.timeout = 30_000;
})();
