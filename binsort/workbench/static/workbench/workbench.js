// The tool can be read and its forms sent without this file. It moves shelves, keeps the place, and knows the keys.
(() => {
  const { byId, say, warn } = tool;

  // -- what is put into order: shelves of a rack, bins of a facet; by drag, by keyboard
  const sorted = () => document.querySelector("[data-sorts]");
  function order() {
    return [...sorted().children].map((item) => item.dataset.key);
  }

  // One order on its way at a time. Where shelves were moved meanwhile, its answer is of yesterday: the newest order follows it.
  let scroll = 0;
  let focused = null;
  let typedIn = null; // a field without a name of its own in the page
  let waiting = null;
  let moved = false;
  let sending = false;
  async function keepOrder(focus) {
    clearTimeout(waiting);
    if (sending) return;
    sending = true;
    let page = "";
    do {
      moved = false;
      const list = sorted();
      const form = new FormData();
      for (const key of order()) form.append(list.dataset.sorts, key);
      form.append("edition", list.dataset.edition);
      if (list.dataset.rack) form.append("rack", list.dataset.rack);
      form.append("next", location.pathname + location.search);
      const answer = await tool.send(list.dataset.order, form, { "HX-Request": "true" });
      if (!answer?.ok) {
        say("The order could not be kept. The page shows what is kept.");
        location.reload();
        return;
      }
      page = await answer.text();
      if (page.includes('role="alert"')) break; // somebody else changed it: shown, not overwritten
      list.dataset.edition = page.match(/data-edition="(\d+)"/)?.[1] ?? list.dataset.edition;
    } while (moved);
    clearTimeout(waiting);
    sending = false;
    scroll = document.querySelector("#page main").scrollTop;
    const here = focus ?? document.activeElement?.id;
    tool.swap(page);
    document.querySelector("#page main").scrollTop = scroll;
    if (here) byId(here)?.focus();
  }

  function keepNow() {
    moved = true;
    keepOrder();
  }

  // -- a facet dropped on another rack goes there
  const dropRacks = () => document.querySelector(".drop-racks");
  function moveTo(rack, item) {
    const form = byId("move-to-rack");
    form.action = form.dataset.address.replace("-key-", item.dataset.key);
    form.elements.rack.value = rack.dataset.rack;
    form.requestSubmit();
  }

  function keepOrderSoon(focus) {
    moved = true;
    clearTimeout(waiting);
    waiting = setTimeout(() => keepOrder(focus), 350);
  }

  document.addEventListener("keydown", (event) => {
    const grip = event.target.closest?.(".grip");
    if (!grip || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
    event.preventDefault();
    const shelf = grip.closest("[data-key]");
    const other = event.key === "ArrowUp" ? shelf.previousElementSibling : shelf.nextElementSibling;
    if (!other) return;
    if (event.key === "ArrowUp") other.before(shelf);
    else other.after(shelf);
    grip.focus();
    const keys = order();
    say(`${shelf.getAttribute("aria-label")} is ${keys.indexOf(shelf.dataset.key) + 1} of ${keys.length}`);
    keepOrderSoon(grip.id);
  });

  // -- keys of the whole tool
  const typing = (target) => target.matches("input:not([type=radio]):not([type=checkbox]), textarea, select");

  document.addEventListener("keydown", (event) => {
    const control = event.ctrlKey || event.metaKey;
    if (control && event.key.toLowerCase() === "z" && !typing(event.target)) {
      const form = document.querySelector(event.shiftKey ? "[data-redo]" : "[data-undo]");
      if (form) {
        event.preventDefault();
        form.requestSubmit();
      }
      return;
    }
    if (control || event.altKey || typing(event.target)) return;
    if (event.key === "/") {
      event.preventDefault();
      byId("jump")?.focus();
    } else if (event.key === "?") byId("keys").showModal();
    else if (event.key === "a") byId("add-facet")?.click();
    else if (event.key === "w") (event.target.closest?.("tr, li")?.querySelector("[data-why]") ?? document.querySelector("[data-why]"))?.click();
  });

  // -- jump: arrows and Enter through what was found
  document.addEventListener("keydown", (event) => {
    const box = event.target.closest?.(".jump");
    if (!box) return;
    const links = [...box.querySelectorAll("a")];
    const here = links.indexOf(document.activeElement);
    if (event.key === "Escape") {
      byId("jump").value = "";
      byId("jump-targets").replaceChildren();
      byId("jump").blur();
    } else if (event.key === "ArrowDown" && links.length) {
      event.preventDefault();
      links[Math.min(here + 1, links.length - 1)].focus();
    } else if (event.key === "ArrowUp" && links.length) {
      event.preventDefault();
      if (here <= 0) byId("jump").focus();
      else links[here - 1].focus();
    } else if (event.key === "Enter" && event.target.id === "jump" && links.length) links[0].click();
  });
  document.addEventListener("focusout", (event) => {
    const box = event.target.closest?.(".jump");
    if (box && !box.contains(event.relatedTarget)) byId("jump-targets").replaceChildren();
  });

  // -- the place is kept over a change: scroll and focus
  const mean = (address) => new URL(address, location).pathname.replace(/\d+/g, "");
  function placeOf(element, form) {
    const cell = element?.closest?.("td[data-field]");
    if (cell) return { product: cell.parentElement.dataset.product, field: cell.dataset.field };
    return { id: element?.id ?? "", name: element?.name ?? "", action: mean(form.action) };
  }
  function elementAt(place) {
    if (place.product) return document.querySelector(`tr[data-product="${CSS.escape(place.product)}"] td[data-field="${CSS.escape(place.field)}"]`);
    if (place.id && byId(place.id)) return byId(place.id);
    const alike = (form) => mean(form.action) === place.action && form.checkVisibility();
    const form = [...document.querySelectorAll("form[method=post]")].find(alike);
    return form?.querySelector(place.name ? `[name="${CSS.escape(place.name)}"]:not([type=hidden])` : "button:not([disabled])");
  }
  function goBackTo(element) {
    if (!element || element.disabled || !element.checkVisibility({ visibilityProperty: true })) element = document.querySelector("#page .notice") ?? document.querySelector("#page h1");
    if (element && !element.matches("a, button, input, select, textarea, summary, [tabindex]")) element.tabIndex = -1;
    element?.focus({ preventScroll: true });
  }
  document.addEventListener("submit", (event) => {
    if (event.target.method !== "post" || event.defaultPrevented) return;
    if (event.target.matches(".keeps-place")) sessionStorage.setItem("scroll", String(document.querySelector("main")?.scrollTop ?? 0));
    const from = event.target.contains(document.activeElement) ? document.activeElement : event.submitter ?? document.activeElement;
    sessionStorage.setItem("place", JSON.stringify(placeOf(from === document.body ? null : from, event.target)));
  });

  document.addEventListener("htmx:beforeSwap", (event) => {
    if (event.detail.target.id === "page") {
      tool.bare();
      scroll = document.querySelector("#page main")?.scrollTop ?? 0;
      const active = document.activeElement;
      focused = active?.id;
      typedIn = active?.form?.method === "post" && active.name ? placeOf(active, active.form) : null;
    }
    if (event.detail.xhr.status === 422) event.detail.shouldSwap = true;
  });
  // What takes the place of an element that went: one whose name goes on from its own, or that its own goes on from.
  function heirOf(id) {
    const longer = document.querySelector(`:is(a, button)[id^="${CSS.escape(id)}-"]`);
    if (longer) return longer;
    while (id.includes("-")) {
      id = id.slice(0, id.lastIndexOf("-"));
      if (byId(id)?.matches("a, button")) return byId(id);
    }
    return null;
  }
  document.addEventListener("htmx:afterSettle", (event) => {
    const main = document.querySelector("#page main");
    if (main && (event.detail.target ?? event.target).id === "page") {
      main.scrollTop = scroll;
      const again = typedIn && document.activeElement === document.body ? elementAt(typedIn) : null;
      if (again) again.focus({ preventScroll: true });
      else if (focused && !byId(focused)) (heirOf(focused) ?? byId("page")).focus({ preventScroll: true });
    }
    prepare();
  });
  document.addEventListener("htmx:responseError", (event) => {
    const refused = event.detail.xhr.status === 403;
    warn(refused ? "You may look at this, not do it. Nothing was changed." : "That did not work. Nothing was changed; try again, or load the page anew.");
  });
  document.addEventListener("htmx:sendError", () => warn("The server cannot be reached. Nothing was changed; try again."));

  // Who may only look cannot get into a form that changes something; the server refuses it as well.
  function keepOut() {
    if (!("looksOnly" in document.body.dataset)) return;
    document.querySelectorAll("#page form[method=post]:not(.for-anybody)").forEach((form) => { form.inert = true; });
    document.querySelectorAll("#page .grip").forEach((grip) => { grip.disabled = true; });
  }

  function prepare() {
    keepOut();
    if (sorted() && "looksOnly" in document.body.dataset) return;
    if (sorted() && !Sortable.get(sorted())) {
      new Sortable(sorted(), {
        ...tool.dragging(),
        group: "facets",
        onStart: () => dropRacks()?.classList.add("shown"),
        onEnd: (event) => {
          dropRacks()?.classList.remove("shown");
          if (event.to === event.from && event.oldIndex !== event.newIndex) keepNow();
        },
      });
      document.querySelectorAll(".drop-rack").forEach((rack) => new Sortable(rack, { group: "facets", onAdd: (event) => moveTo(rack, event.item) }));
    }
  }

  // A button copies the text of a field, or of what it names.
  document.addEventListener("click", async (event) => {
    const copies = event.target.closest?.("[data-copies]");
    if (!copies) return;
    const source = byId(copies.dataset.copies);
    source.select?.();
    if (!source.select) getSelection().selectAllChildren(source);
    await navigator.clipboard?.writeText(source.value ?? source.textContent).catch(() => document.execCommand("copy"));
    say("Copied");
    copies.textContent = "Copied";
  });

  // How many findings there are is told once the page stands; nothing else of it takes notice.
  async function tellNumber() {
    const place = byId("checkup-number");
    const answer = place && (await fetch(place.dataset.number).catch(() => null));
    if (answer?.ok && !answer.redirected) place.innerHTML = await answer.text();
  }

  document.addEventListener("DOMContentLoaded", () => {
    prepare();
    tellNumber();
    const kept = sessionStorage.getItem("scroll");
    sessionStorage.removeItem("scroll");
    const main = document.querySelector("#page main");
    if (kept && main && !location.hash) main.scrollTop = Number(kept);
    const place = sessionStorage.getItem("place");
    sessionStorage.removeItem("place");
    if (place && !location.hash && document.activeElement === document.body) goBackTo(elementAt(JSON.parse(place)));
  });
})();
