// The working drawing: each setting is tied to the part that it changes; the level line and the upright line are dragged or nudged.
(() => {
  const { byId, say } = tool;
  const SVG = "http://www.w3.org/2000/svg";
  // The part of the drawing that a setting changes.
  const PARTS = {
    title: "h3", help: ".facet-help, h3", label: ".choice", open: ".chevron", open_on_phone: ".chevron", search: "[data-within], .chevron", counts: ".choice .count",
    more: "#level-line, .more > summary, .choice:last-of-type", limit: "#level-line, .more > summary, .choice:last-of-type", columns: "#upright-line, [data-choices]",
  };
  function part(callout, side) {
    for (const selector of (callout.dataset.part ?? PARTS[callout.dataset.tie] ?? "h3").split(", ")) {
      const found = [...document.querySelectorAll(`#drawing ${selector}`)].filter((one) => one.checkVisibility());
      const edge = (one) => { const box = one.getBoundingClientRect(); return box.top * 4 + (side === "right" ? -box.right : box.left); };
      if (found.length) return found.reduce((best, one) => (edge(one) < edge(best) ? one : best));
    }
    return null;
  }
  function tie() {
    const ties = document.querySelector("[data-ties]"), working = byId("working");
    if (!ties || !working) return;
    ties.replaceChildren();
    const box = working.getBoundingClientRect(), sheet = byId("drawing").getBoundingClientRect();
    if (sheet.left < box.left + 60) return; // one under the other
    const used = { left: 0, right: 0 };
    for (const callout of working.querySelectorAll("[data-tie]")) {
      const own = callout.getBoundingClientRect();
      const side = own.left < sheet.left ? "left" : "right";
      const target = part(callout, side);
      if (!target) continue;
      const to = target.getBoundingClientRect();
      const lane = 5 + 3 * (used[side]++ % 8);
      const isHandle = target.matches("[role=slider]"); // of the level line or the upright one: it sits on the edge
      const middle = to.top + to.height / 2;
      const y1 = own.bottom - 14 - box.top, y2 = (isHandle ? middle : Math.min(sheet.bottom, Math.max(sheet.top, middle))) - box.top;
      const x1 = (side === "left" ? own.right : own.left) - box.left;
      const x2 = isHandle ? to.right - 7 - box.left : side === "left" ? Math.max(sheet.left + 6, to.left - 6) - box.left : Math.min(sheet.right - 6, to.right + 6) - box.left;
      const bend = side === "left" ? x1 + lane : x1 - lane;
      const path = document.createElementNS(SVG, "path");
      path.setAttribute("d", `M${x1} ${y1}H${bend}V${y2}H${x2}`);
      const dot = document.createElementNS(SVG, "circle");
      dot.setAttribute("cx", x2);
      dot.setAttribute("cy", y2);
      dot.setAttribute("r", 2.6);
      ties.append(path, dot);
    }
  }

  // -- the level line: how many choices before the rest; the upright line: how many columns
  const choices = () => [...document.querySelectorAll("#drawing .facet > :not(summary) .choice, #drawing .facet > .choice")].filter((one) => !one.classList.contains("any"));
  function set(name, value) {
    const field = document.querySelector(`#drawing-form [name=${name}]`);
    if (field?.type === "radio") {
      const radio = document.querySelector(`#drawing-form [name=${name}][value="${value}"]`);
      if (!radio || radio.checked) return;
      radio.checked = true;
      radio.dispatchEvent(new Event("change", { bubbles: true }));
    } else if (field && field.value !== String(value)) {
      field.value = value;
      field.dispatchEvent(new Event("change", { bubbles: true }));
    }
  }
  function line(kind, words, now, least, most) {
    const mark = document.createElement("div");
    mark.className = `${kind}-line`;
    const button = document.createElement("button");
    button.type = "button";
    button.id = `${kind}-line`;
    button.setAttribute("role", "slider");
    button.setAttribute("aria-label", words);
    button.setAttribute("aria-valuenow", now);
    button.setAttribute("aria-valuemin", least);
    button.setAttribute("aria-valuemax", most);
    mark.append(button);
    byId("drawing").append(mark);
    return mark;
  }
  function bottomOf(count) {
    const box = byId("drawing").getBoundingClientRect();
    const listed = choices().slice(0, count);
    return Math.max(...listed.map((one) => one.getBoundingClientRect().bottom)) - box.top + 1;
  }
  function prepare() {
    if (!byId("drawing")) return;
    document.querySelectorAll(".level-line, .upright-line").forEach((old) => old.remove());
    const form = byId("drawing-form"), all = choices().length;
    const limit = form.querySelector("[name=limit]"), columns = form.querySelector("[name=columns]:checked");
    const cut = form.querySelector("[name=more]:checked")?.value !== "all";
    if (limit && all > 1 && cut) {
      const shown = Math.min(Number(limit.value), all);
      line("level", "Choices before the rest", limit.value, 1, all).style.top = `${bottomOf(shown)}px`;
    }
    if (columns && all > 1) {
      const mark = line("upright", "Columns", columns.value, 1, 3);
      const list = document.querySelector("#drawing [data-choices]").getBoundingClientRect(), box = byId("drawing").getBoundingClientRect();
      const count = Number(columns.value) || (document.querySelector("#drawing .swatches, #drawing .pictures") ? 2 : 1);
      mark.style.left = `${list.left - box.left + list.width / count}px`;
    }
    tie();
  }
  document.addEventListener("keydown", (event) => {
    const way = { ArrowUp: -1, ArrowLeft: -1, ArrowDown: 1, ArrowRight: 1 }[event.key];
    if (!way || !event.target.matches?.("#level-line, #upright-line")) return;
    event.preventDefault();
    const now = Number(event.target.getAttribute("aria-valuenow")), most = Number(event.target.getAttribute("aria-valuemax"));
    const level = event.target.id === "level-line";
    const next = Math.min(most, Math.max(1, (now || 1) + (level ? way : -way)));
    event.target.setAttribute("aria-valuenow", next);
    if (level) event.target.parentElement.style.top = `${bottomOf(next)}px`;
    say(level ? `${next} before the rest` : `${next} columns`);
    clearTimeout(prepare.timer);
    prepare.timer = setTimeout(() => set(level ? "limit" : "columns", next), 350);
  });
  let drag = null;
  document.addEventListener("pointerdown", (event) => {
    if (!event.target.matches?.("#level-line, #upright-line")) return;
    event.target.setPointerCapture(event.pointerId);
    drag = { level: event.target.id === "level-line", mark: event.target.parentElement, value: null };
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    const box = byId("drawing").getBoundingClientRect();
    if (drag.level) {
      const listed = choices(), y = event.clientY;
      const count = Math.max(1, listed.filter((one) => one.getBoundingClientRect().bottom <= y + 8).length);
      drag.value = count;
      drag.mark.style.top = `${bottomOf(count)}px`;
    } else {
      const share = (event.clientX - box.left) / box.width;
      drag.value = share > .75 ? 1 : share > .42 ? 2 : 3;
      drag.mark.style.left = `${event.clientX - box.left}px`;
    }
  });
  document.addEventListener("pointerup", () => {
    if (drag?.value) set(drag.level ? "limit" : "columns", drag.value);
    drag = null;
  });

  document.addEventListener("DOMContentLoaded", () => setTimeout(prepare, 60));
  document.addEventListener("htmx:afterSettle", () => setTimeout(prepare, 60));
  addEventListener("resize", prepare);
})();
