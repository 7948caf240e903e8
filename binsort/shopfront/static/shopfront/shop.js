// The shop works without this file. It keeps what the shopper opened, draws sliders, and runs the drawer.
(() => {
  const root = document.documentElement;
  const byId = (id) => document.getElementById(id);

  // -- what stays as it was over a swap: open facets, scroll of the drawer, the slider handle in use
  let kept = null;

  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.detail.target.id !== "listing") return;
    const opened = {};
    for (const part of event.detail.target.querySelectorAll("details[id]")) opened[part.id] = part.open;
    const handle = document.activeElement?.closest?.(".noUi-handle");
    kept = {
      opened,
      scroll: document.querySelector(".drawer-scroll")?.scrollTop ?? 0,
      focused: document.activeElement?.id,
      handle: handle && [handle.closest("details").id, handle.classList.contains("noUi-handle-upper") ? 1 : 0],
    };
  });

  document.addEventListener("htmx:afterSwap", (event) => {
    if (!kept || event.detail.target.id !== "listing") return;
    for (const [id, open] of Object.entries(kept.opened)) {
      const part = byId(id);
      if (part) part.open = open;
    }
    const scroll = document.querySelector(".drawer-scroll");
    if (scroll) scroll.scrollTop = kept.scroll;
  });

  document.addEventListener("htmx:afterSettle", () => {
    prepare();
    if (!kept) return;
    if (kept.handle) byId(kept.handle[0])?.querySelectorAll(".noUi-handle")[kept.handle[1]]?.focus();
    // A pick that took itself away: stay close to where it was.
    else if (kept.focused && !byId(kept.focused)) byId("listing")?.focus({ preventScroll: true });
    kept = null;
  });

  // What went wrong is said where the products are; the picks stay as they were.
  function warn(text) {
    document.querySelector(".went-wrong")?.remove();
    const notice = document.createElement("p");
    notice.className = "went-wrong";
    notice.setAttribute("role", "alert");
    notice.textContent = text;
    document.querySelector(".results")?.prepend(notice);
  }
  document.addEventListener("htmx:responseError", () => warn("That did not work. Please try again, or load the page anew."));
  document.addEventListener("htmx:sendError", () => warn("The shop cannot be reached just now. Please try again."));

  // Addresses stay short: what is empty is not sent.
  document.addEventListener("htmx:configRequest", (event) => {
    const { parameters } = event.detail;
    for (const name of Object.keys(parameters)) {
      if (parameters[name] === "") delete parameters[name];
    }
    if (event.target.matches("a")) for (const name of Object.keys(parameters)) delete parameters[name];
  });

  document.addEventListener("submit", (event) => {
    for (const field of event.target.querySelectorAll("input, select")) if (field.value === "") field.disabled = true;
  });

  // -- range sliders
  const rounded = (value, span) => {
    const places = span > 50 ? 0 : span > 5 ? 1 : 2;
    return Number(value.toFixed(places));
  };

  let sliding = null;
  function slide(range) {
    const bar = range.querySelector(".slider");
    const [from, to] = range.querySelectorAll("input");
    if (!bar || bar.noUiSlider || !range.dataset.range) return;
    const anchors = JSON.parse(range.dataset.range);
    const low = anchors[0][1];
    const high = anchors[anchors.length - 1][1];
    if (!(high > low)) return;
    const spread = Object.fromEntries(anchors.map(([at, value], place) => [place === 0 ? "min" : place === anchors.length - 1 ? "max" : `${at}%`, value]));
    const { prefix, suffix, label } = range.dataset;
    const say = { to: (value) => `${prefix}${rounded(value, high - low)}${suffix ? ` ${suffix}` : ""}` };
    noUiSlider.create(bar, {
      range: spread,
      start: [from.value === "" ? low : Number(from.value), to.value === "" ? high : Number(to.value)],
      connect: true,
      keyboardSupport: true,
      ariaFormat: say,
      handleAttributes: [{ "aria-label": `${label}, from` }, { "aria-label": `${label}, to` }],
    });
    const write = ([start, end]) => {
      from.value = start <= low ? "" : rounded(start, high - low);
      to.value = end >= high ? "" : rounded(end, high - low);
    };
    bar.noUiSlider.on("slide", (_, __, values) => write(values));
    bar.noUiSlider.on("change", (_, __, values) => {
      write(values);
      clearTimeout(sliding); // keys come in bursts: one question for all of them
      sliding = setTimeout(() => from.dispatchEvent(new Event("change", { bubbles: true })), 150);
    });
  }

  // -- the drawer of narrow screens
  const wide = window.matchMedia("(min-width: 800px)");
  let opener = null;

  function openDrawer(event) {
    event.preventDefault();
    opener = event.currentTarget.id || null;
    root.classList.add("drawer-is-open");
    dressDrawer();
    document.querySelector(".drawer-closer")?.focus();
  }

  function closeDrawer(event) {
    event?.preventDefault();
    root.classList.remove("drawer-is-open");
    dressDrawer();
    document.querySelector(".drawer-opener")?.focus();
  }

  function dressDrawer() {
    const open = root.classList.contains("drawer-is-open") && !wide.matches;
    const drawer = byId("drawer");
    if (!drawer) return;
    for (const part of document.querySelectorAll(".masthead, .departments, .title, .drawer-opener, .results, .foot")) part.inert = open;
    if (open) {
      drawer.setAttribute("role", "dialog");
      drawer.setAttribute("aria-modal", "true");
    } else {
      drawer.removeAttribute("role");
      drawer.removeAttribute("aria-modal");
    }
  }

  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && root.classList.contains("drawer-is-open")) closeDrawer(event);
  });
  wide.addEventListener("change", () => {
    root.classList.remove("drawer-is-open");
    dressDrawer();
  });

  function prepare() {
    document.querySelectorAll("[data-range]").forEach(slide);
    for (const link of document.querySelectorAll("[data-drawer-open]")) link.onclick = openDrawer;
    for (const link of document.querySelectorAll("[data-drawer-close]")) link.onclick = closeDrawer;
    if (!wide.matches) {
      // On a phone facets start shut, but for the first two and those with picks.
      document.querySelectorAll(".facet").forEach((facet, place) => {
        if (!kept && place > 1 && !facet.querySelector("input:checked")) facet.open = facet.dataset.seen ? facet.open : false;
        facet.dataset.seen = "1";
      });
    }
    dressDrawer();
  }

  document.addEventListener("DOMContentLoaded", prepare);
})();
