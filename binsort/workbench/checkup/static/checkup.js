// The checkup by keyboard: up and down from finding to finding, Enter mends, O opens, L leaves as it is.
"use strict";

(() => {
  const page = document.querySelector("[data-checkup]");
  if (!page) return;
  const PLACE = "checkup-row";
  const rows = [...page.querySelectorAll("[data-finding]")];
  rows.forEach((row, place) => (row.tabIndex = place ? -1 : 0));

  const go = (row) => {
    rows.forEach((one) => (one.tabIndex = one === row ? 0 : -1));
    row.focus();
    row.scrollIntoView({ block: "nearest" });
  };
  const press = (row, wanted) => row.querySelector(wanted)?.click();

  page.addEventListener("keydown", (event) => {
    const row = event.target.closest("[data-finding]");
    if (!row || event.target !== row || event.ctrlKey || event.metaKey || event.altKey) return;
    const place = rows.indexOf(row);
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) {
      if (rows[place + step]) go(rows[place + step]);
    } else if (event.key === "Enter") press(row, "[data-mend]:not(:disabled)");
    else if (event.key.toLowerCase() === "o") press(row, "[data-open]");
    else if (event.key.toLowerCase() === "l") {
      press(row, "[data-leave] summary");
      row.querySelector("[data-leave] input[name=reason]")?.focus();
    } else return;
    event.preventDefault();
  });

  // What is mended leaves the list: the next finding takes its place, and the hand is there.
  page.addEventListener("submit", (event) => {
    const row = event.target.closest("[data-finding]");
    if (row) sessionStorage.setItem(PLACE, rows.indexOf(row));
  });
  const before = sessionStorage.getItem(PLACE);
  sessionStorage.removeItem(PLACE);
  if (before !== null && rows.length) go(rows[Math.min(Number(before), rows.length - 1)]);
})();
