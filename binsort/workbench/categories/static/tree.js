// The category tree by drag and by keyboard; without this file the same is done by the buttons under "Change".
(() => {
  const byId = (id) => document.getElementById(id);
  const token = () => JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
  const page = () => document.querySelector("[data-tree]");

  async function send(entries, focus) {
    const form = new FormData();
    for (const [name, value] of Object.entries(entries)) form.append(name, value);
    const answer = await fetch(page().dataset.tree, { method: "POST", body: form, headers: { "X-CSRFToken": token(), "HX-Request": "true", "HX-Current-URL": location.href } }).catch(() => null);
    if (!answer?.ok) { location.reload(); return; }
    htmx.swap("#page", await answer.text(), { swapStyle: "outerHTML" });
    prepare();
    byId(focus)?.focus();
    byId("said").textContent = document.querySelector("#page .notice span")?.textContent ?? "";
  }
  document.addEventListener("keydown", (event) => {
    const grip = event.target.closest?.(".tree .grip");
    const way = { ArrowUp: "up", ArrowDown: "down", ArrowRight: "in", ArrowLeft: "out" }[event.key];
    if (!grip || !way) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    send({ key: grip.closest("[data-key]").dataset.key, way }, grip.id);
  }, true);
  function prepare() {
    for (const list of document.querySelectorAll(".tree, .tree ol")) {
      if (Sortable.get(list)) continue;
      new Sortable(list, {
        group: "tree", handle: ".grip", fallbackOnBody: true, swapThreshold: 0.6, ghostClass: "ghost",
        animation: matchMedia("(prefers-reduced-motion: reduce)").matches ? 0 : 150,
        onEnd: (event) => {
          if (event.from === event.to && event.oldIndex === event.newIndex) return;
          send({ key: event.item.dataset.key, parent: event.to.dataset.parent, place: String(event.newIndex) }, event.item.querySelector(".grip").id);
        },
      });
    }
  }
  document.addEventListener("click", (event) => document.querySelectorAll("details.pop[open]").forEach((box) => { if (!box.contains(event.target)) box.open = false; }));
  document.addEventListener("DOMContentLoaded", prepare);
})();
