// The drawer of narrow screens, a long facet at full height in it, and the device's Back, which closes either. Works by links without scripts.
(() => {
  const root = document.documentElement;
  const byId = (id) => document.getElementById(id);
  const wide = window.matchMedia("(min-width: 800px)");
  const OPEN = "drawer-is-open";
  const LONG = 20; // choices from which on an opened facet takes the whole height
  let steps = 0; // entries of the history that stand for what is open: the drawer, a facet in it

  // On wide screens what to narrow by stands at the side, unless it is set to open from a button.
  const stands = () => wide.matches && (byId("narrow")?.dataset.wide ?? "open") === "open";

  const isOpen = () => root.classList.contains(OPEN);
  const full = () => document.querySelector(".facet.full");

  function open(event) {
    if (stands()) return;
    event.preventDefault();
    root.classList.add(OPEN);
    remember();
    dress();
    document.querySelector(".drawer-closer")?.focus();
  }

  function remember() {
    steps += 1;
    history.pushState({ drawer: steps }, "", location.href);
  }

  // By a button, a key or a link: the history goes back as if by the device.
  function leave(event) {
    event?.preventDefault();
    if (steps) history.go(full() && !event?.currentTarget?.matches?.("[data-drawer-close]") ? -1 : -steps);
    else shut();
  }

  function shut() {
    shutFull();
    root.classList.remove(OPEN);
    steps = 0;
    dress();
    (wide.matches ? byId("wide-opener") : byId("drawer-opener"))?.focus({ preventScroll: true });
  }

  function shutFull() {
    const facet = full();
    if (!facet) return;
    facet.classList.remove("full");
    facet.open = false;
    facet.querySelector("summary").focus({ preventScroll: true });
  }

  // Going back: a facet first, then the drawer, then the page; what was picked in the drawer is an entry of its own.
  window.addEventListener("popstate", (event) => {
    event.stopImmediatePropagation();
    const address = byId("narrow")?.dataset.address;
    const here = location.pathname + location.search;
    if (isOpen()) {
      const left = event.state?.drawer ?? 0;
      if (left) { steps = left; shutFull(); return; }
      shut();
      if (address && address !== here) history.pushState({}, "", address);
    } else if (address && address !== here && !(event.state?.drawer)) location.reload();
  });

  function dress() {
    const open = isOpen() && !stands();
    const drawer = byId("drawer");
    if (!drawer) return;
    for (const part of document.querySelectorAll(".masthead, .departments, .title, .results, .foot, .foot-bar, .skip")) part.inert = open;
    if (open) {
      drawer.setAttribute("role", "dialog");
      drawer.setAttribute("aria-modal", "true");
    } else {
      drawer.removeAttribute("role");
      drawer.removeAttribute("aria-modal");
    }
  }

  document.addEventListener("toggle", (event) => {
    const facet = event.target;
    if (!facet.matches?.("#drawer .facet") || wide.matches || !isOpen()) return;
    if (facet.open && facet.querySelectorAll(".choice").length > LONG && !facet.classList.contains("full")) {
      facet.classList.add("full");
      remember();
      facet.querySelector(".more")?.setAttribute("open", "");
    } else if (!facet.open && facet.classList.contains("full")) {
      facet.open = true;
      history.back();
    }
  }, true);

  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape" && isOpen()) leave(event);
  });
  document.addEventListener("click", (event) => {
    if (event.target.closest?.("[data-drawer-open]")) open(event);
    else if (event.target.closest?.("[data-drawer-close]") && isOpen()) leave({ preventDefault: () => event.preventDefault(), currentTarget: event.target.closest("a") });
  });
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (event.target.id === "narrow" && isOpen() && (wide.matches ? event.target.dataset.applies : event.target.dataset.appliesOnPhones) === "button") leave();
  });
  wide.addEventListener("change", () => {
    root.classList.remove(OPEN);
    steps = 0;
    dress();
  });

  // On a phone facets start shut, but for the first two and those with picks; what the shopper opened stays.
  function prepare() {
    dress();
    if (wide.matches) return;
    document.querySelectorAll("#drawer .facet:not([data-met])").forEach((facet, place) => {
      facet.dataset.met = "";
      const wanted = place < 2 || facet.hasAttribute("data-open-on-phone") || facet.querySelector("input:checked");
      if (!wanted || facet.querySelectorAll(".choice").length > LONG) facet.open = false;
    });
  }
  document.addEventListener("DOMContentLoaded", prepare);
  document.addEventListener("htmx:afterSettle", prepare);
})();
