// The category tree by drag and by keyboard; without this file the same is done by the buttons under "Change".
(() => {
  const { byId } = tool;
  const page = () => document.querySelector("[data-tree]");

  let turn = 0;
  async function send(entries, focus) {
    const mine = ++turn;
    const answer = await tool.send(page().dataset.tree, entries, tool.fragment());
    if (mine !== turn) return; // a later move is on its way: its answer has this one
    if (!answer?.ok) { location.reload(); return; }
    tool.swap(await answer.text());
    prepare();
    byId(focus)?.focus();
    tool.say(document.querySelector("#page .notice span")?.textContent ?? "");
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
        ...tool.dragging(), group: "tree", fallbackOnBody: true, swapThreshold: 0.6,
        onEnd: (event) => {
          if (event.from === event.to && event.oldIndex === event.newIndex) return;
          send({ key: event.item.dataset.key, parent: event.to.dataset.parent, place: String(event.newIndex) }, event.item.querySelector(".grip").id);
        },
      });
    }
  }
  document.addEventListener("DOMContentLoaded", prepare);
})();
