// Suggestions while somebody types: bins and products of this listing. Without this file Enter searches all the same.
(() => {
  const field = () => document.getElementById("in-q");
  const list = () => document.getElementById("suggestions");
  const options = () => [...list().querySelectorAll("[role=option]")];
  const WAIT = 120;
  const FOLLOW = 250; // letters come in bursts
  let waiting = null;
  let asked = null;

  async function suggest() {
    asked?.abort();
    const text = field().value.trim();
    if (text.length < 2) { shut(); return; }
    asked = new AbortController();
    const query = new URLSearchParams([...new FormData(field().form)].filter(([name, value]) => value !== "" && name !== "q" && name !== "category"));
    query.set("q", text);
    if (field().dataset.listing) query.set("category", field().dataset.listing);
    if (field().dataset.tag) query.set("_tag", field().dataset.tag);
    try {
      const answer = await fetch(`${field().dataset.suggest}?${query}`, { signal: asked.signal });
      if (!answer.ok || field().value.trim() !== text) return;
      list().innerHTML = await answer.text();
      list().hidden = !list().firstElementChild;
      field().setAttribute("aria-expanded", String(!list().hidden));
      field().removeAttribute("aria-activedescendant");
    } catch { /* given up for a newer question, or no line: Enter still searches */ }
  }

  function shut() {
    asked?.abort();
    clearTimeout(waiting);
    if (!list()) return;
    list().hidden = true;
    list().replaceChildren();
    field().setAttribute("aria-expanded", "false");
    field().removeAttribute("aria-activedescendant");
  }

  function go(by) {
    const all = options();
    const at = all.findIndex((option) => option.id === field().getAttribute("aria-activedescendant"));
    const next = all[(at + by + all.length + (at < 0 && by < 0 ? 1 : 0)) % all.length];
    all.forEach((option) => option.classList.toggle("active", option === next));
    all.forEach((option) => option.setAttribute("aria-selected", String(option === next)));
    if (next) field().setAttribute("aria-activedescendant", next.id);
  }

  document.addEventListener("input", (event) => {
    if (event.target.id !== "in-q") return;
    clearTimeout(waiting);
    if (event.target.dataset.typing === "typing" && field().form.hasAttribute("hx-get")) {
      waiting = setTimeout(() => htmx.trigger(field().form, "submit"), FOLLOW); // results follow; nothing lies over them
      return;
    }
    waiting = setTimeout(suggest, WAIT);
    if (event.target.value === "") shut();
  });
  document.addEventListener("search", (event) => { // the field's own cross
    if (event.target.id === "in-q" && event.target.value === "" && event.target.defaultValue !== "") htmx.trigger(event.target.form, "submit");
  }, true);
  document.addEventListener("keydown", (event) => {
    if (event.target.id !== "in-q") return;
    const isOpen = !list().hidden;
    if (isOpen && (event.key === "ArrowDown" || event.key === "ArrowUp")) {
      event.preventDefault();
      go(event.key === "ArrowDown" ? 1 : -1);
    } else if (event.key === "Escape" && isOpen) {
      event.preventDefault();
      event.stopImmediatePropagation();
      shut();
    } else if (event.key === "Enter") {
      const chosen = isOpen && document.getElementById(field().getAttribute("aria-activedescendant"));
      if (chosen) { event.preventDefault(); chosen.click(); }
    }
  });
  document.addEventListener("submit", shut, true);
  document.addEventListener("click", (event) => {
    const option = event.target.closest?.("#suggestions a");
    if (option && option.id === "suggested-all" && field().form.hasAttribute("hx-get") && !event.ctrlKey && !event.metaKey) {
      event.preventDefault();
      htmx.trigger(field().form, "submit");
    }
    if (!event.target.closest?.("#find") || option) shut();
  });
})();
