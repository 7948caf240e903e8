// The cells of the catalogue sheet: where each stands, and moving between them by keyboard and mouse.
const sheet = {
  table: () => document.querySelector("table.sheet"),
  cells: (row) => [...row.querySelectorAll("td.cell")],
  rows: () => [...sheet.table().tBodies[0].rows],

  beside(cell, across, down) {
    const row = sheet.rows()[sheet.rows().indexOf(cell.parentElement) + down];
    return row && sheet.cells(row)[sheet.cells(cell.parentElement).indexOf(cell) + across];
  },

  go(cell) {
    if (!cell) return;
    sheet.table().querySelectorAll("td.cell[tabindex='0']").forEach((other) => { other.tabIndex = -1; });
    cell.tabIndex = 0;
    cell.focus();
    cell.scrollIntoView({ block: "nearest", inline: "nearest" });
  },
};

(() => {
  const { go, beside } = sheet;
  const ways = { ArrowUp: [0, -1], ArrowDown: [0, 1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] };
  const tick = (row, on) => { row.querySelector("input[name=product]").checked = on; };

  document.addEventListener("keydown", (event) => {
    const cell = event.target.closest?.("td.cell");
    if (!cell || sheet.editing() || !sheet.table()) return;
    if (ways[event.key]) {
      event.preventDefault();
      const to = beside(cell, ...ways[event.key]);
      if (event.shiftKey && to && event.key.startsWith("Arrow") && to.parentElement !== cell.parentElement) {
        for (const row of [cell.parentElement, to.parentElement]) tick(row, true);
        sheet.selected();
      }
      go(to);
    } else if (event.key === " ") {
      event.preventDefault();
      tick(cell.parentElement, !cell.parentElement.querySelector("input[name=product]").checked);
      sheet.selected();
    } else if (event.key === "Enter" || event.key === "F2") {
      event.preventDefault();
      sheet.edit(cell);
    } else if (event.key === "Delete") {
      event.preventDefault();
      sheet.edit(cell, "");
    } else if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey && !"/?".includes(event.key)) {
      event.preventDefault();
      event.stopImmediatePropagation();
      sheet.edit(cell, event.key);
    }
  }, true);
  document.addEventListener("dblclick", (event) => { const cell = event.target.closest("td.cell"); if (cell && !sheet.editing()) sheet.edit(cell); });
  document.addEventListener("click", (event) => {
    const cell = event.target.closest("td.cell");
    if (!cell || sheet.editing()) return;
    if (cell === document.activeElement || cell.querySelector(".lack")) sheet.edit(cell);
    else go(cell);
  });
})();
