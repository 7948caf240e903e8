// Facets work without this file, in a page or in the shadow of an element. It finds within long lists, moves sliders, and keeps what the
// shopper opened while an answer takes the place of what was there.
const facetsIn = (root) => {
  const byId = (id) => root.getElementById(id);
  const slide = slidersIn(root);

  // -- finding within a list: it only hides, and is never sent
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
  // All: takes every pick of its facet away, and is what stands there with none.
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

  // -- over an answer: what is open, what was typed to find, the handle in use
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
    // What stood in a part that was shut for a moment could not be focused.
    if (kept.focused && root.activeElement !== byId(kept.focused)) byId(kept.focused)?.focus({ preventScroll: true });
  }

  function dress() {
    slide();
    if (kept?.handle) byId(kept.handle[0])?.querySelectorAll(".handle")[kept.handle[1]]?.focus();
    kept = null;
  }

  return { keep, restore, dress };
};
