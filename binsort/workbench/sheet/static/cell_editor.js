// Filling a cell of the sheet: what is typed, what is suggested, and what the server says to it.
(() => {
  const { go, beside, cells, rows } = sheet;
  const { say } = tool;
  let editing = null; // {cell, box, input, place}
  let asked = 0;

  function edit(cell, typed) {
    if (cell.classList.contains("varies")) {
      say("Its variants differ. Open the product to change them.");
      location.href = cell.parentElement.querySelector("th a").href;
      return;
    }
    const head = sheet.table().querySelector(`th[data-key="${CSS.escape(cell.dataset.field)}"]`);
    const unit = head?.querySelector(".col-name .hint")?.textContent ?? "";
    const box = document.createElement("div");
    box.className = "editor";
    const many = Boolean(head?.dataset.many);
    box.innerHTML = '<div class="editor-frame"><span class="parts"></span><input autocomplete="off" role="combobox" aria-expanded="true" aria-controls="hanging"><span class="hint"></span></div><div class="hanging" id="hanging"></div>';
    const input = box.querySelector("input");
    input.setAttribute("aria-label", `${head?.querySelector(".col-name a, .col-name span")?.textContent ?? ""} of ${cell.parentElement.querySelector("b").textContent}`);
    if (cell.classList.contains("number")) box.querySelector(".hint").textContent = unit;
    const seen = cell.dataset.text;
    input.value = typed ?? (many ? "" : seen);
    document.body.append(box);
    editing = { cell, box, input, at: -1, seen, parts: many ? (typed === "" ? [] : parted(seen)) : null };
    drawParts();
    place();
    input.focus();
    if (typed === undefined) input.select();
    input.addEventListener("input", suggestSoon);
    input.addEventListener("keydown", keys);
    input.addEventListener("blur", () => setTimeout(() => { if (editing?.box === box && !box.contains(document.activeElement)) keep(null); }, 120));
    box.addEventListener("mousedown", (event) => {
      const item = event.target.closest("li"), chip = event.target.closest("[data-part]");
      if (!item && !chip) return;
      event.preventDefault();
      if (chip) takeAway(Number(chip.dataset.part));
      else if (editing.parts) add(item.dataset.text);
      else { choose(item); keep("down"); }
    });
    suggest();
  }

  // Several values are chips; what is typed behind them is one more.
  const parted = (text) => text.split(" | ").filter(Boolean);
  const whole = () => (editing.parts ? [...editing.parts, editing.input.value.trim()].filter(Boolean).join(" | ") : editing.input.value);
  function drawParts() {
    const holder = editing.box.querySelector(".parts");
    holder.replaceChildren(...(editing.parts ?? []).map((text, at) => {
      const chip = document.createElement("button");
      Object.assign(chip, { type: "button", className: "one-value", tabIndex: -1 });
      chip.dataset.part = at;
      chip.setAttribute("aria-label", `${text}: take away`);
      chip.title = text;
      chip.append(Object.assign(document.createElement("span"), { textContent: text.split(" > ").pop(), dir: "auto" }), Object.assign(document.createElement("i"), { textContent: "×" }));
      return chip;
    }));
  }
  function add(text) {
    for (const part of parted(text)) if (!editing.parts.includes(part)) editing.parts.push(part);
    editing.input.value = "";
    tool.say(`${text} added. ${editing.parts.length} in all.`);
    changedParts();
  }
  function takeAway(at) {
    const [gone] = editing.parts.splice(at, 1);
    tool.say(`${gone} taken away.`);
    changedParts();
  }
  function changedParts() {
    drawParts();
    editing.at = -1;
    place();
    editing.input.focus();
    suggest();
  }
  function place() {
    const at = editing.cell.getBoundingClientRect();
    Object.assign(editing.box.style, { left: `${Math.max(4, Math.min(at.left, innerWidth - Math.max(at.width, 240)))}px`, top: `${at.top + 4}px`, width: `${Math.max(at.width, editing.parts ? 260 : 120)}px` });
    editing.box.classList.toggle("upwards", at.top > innerHeight * 0.62);
    editing.box.classList.toggle("leftwards", at.left > innerWidth * 0.62);
  }
  addEventListener("resize", () => editing && place());
  document.addEventListener("scroll", (event) => { if (editing && !editing.box.contains(event.target)) place(); }, true);

  let typing = null, asking = null; // one request when typing stops; an older one is given up
  function suggestSoon() {
    clearTimeout(typing);
    typing = setTimeout(suggest, 150);
  }
  function stopAsking() {
    clearTimeout(typing);
    asking?.abort();
  }
  async function suggest() {
    stopAsking();
    if (!editing) return;
    const mine = editing, turn = ++asked;
    asking = new AbortController();
    const first = !mine.parts && mine.input.value === mine.seen ? "" : mine.input.value;
    const query = new URLSearchParams({ product: mine.cell.parentElement.dataset.product, field: mine.cell.dataset.field, typed: first });
    const answer = await tool.ask(`${sheet.table().dataset.suggest}?${query}`, { signal: asking.signal });
    const found = answer?.ok ? await tool.text(answer) : null; // given up, it may end in the middle
    if (editing !== mine || turn !== asked || found === null) return;
    mine.box.querySelector(".hanging").innerHTML = found;
    for (const item of mine.parts ? items() : []) if (parted(item.dataset.text).every((part) => mine.parts.includes(part))) item.remove();
    mine.at = -1;
  }
  const items = () => [...editing.box.querySelectorAll("li")];
  function point(to) {
    const all = items();
    if (!all.length) return;
    editing.at = (to + all.length + 1) % (all.length + 1) === all.length ? -1 : (to + all.length + 1) % (all.length + 1);
    all.forEach((item, at) => item.setAttribute("aria-selected", String(at === editing.at)));
    const item = all[editing.at];
    editing.input.setAttribute("aria-activedescendant", item?.id ?? "");
    if (item) editing.chosen = item.dataset.text;
    else delete editing.chosen;
    if (item) editing.input.value = item.dataset.text;
  }
  function choose(item) { editing.input.value = item.dataset.text; }
  function keys(event) {
    event.stopPropagation();
    if (event.key === "ArrowDown") { event.preventDefault(); point(editing.at + 1); }
    else if (event.key === "ArrowUp") { event.preventDefault(); point(editing.at - 1); }
    else if (event.key === "Enter" && editing.parts && editing.at >= 0) { event.preventDefault(); add(editing.input.value); }
    else if (event.key === "Enter") { event.preventDefault(); keep("down"); }
    else if (event.key === "Backspace" && editing.parts?.length && !editing.input.value) { event.preventDefault(); takeAway(editing.parts.length - 1); }
    else if (event.key === "Tab") { event.preventDefault(); keep(event.shiftKey ? "left" : "right"); }
    else if (event.key === "Escape") { event.preventDefault(); leave(true); }
  }
  function leave(focus) {
    if (!editing) return;
    const { cell, box } = editing;
    editing = null;
    box.remove();
    if (focus) go(cell);
  }
  function next(cell, way) {
    if (way !== "down") return beside(cell, way === "left" ? -1 : 1, 0) ?? cell;
    const column = cells(cell.parentElement).indexOf(cell);
    const below = rows().slice(rows().indexOf(cell.parentElement) + 1).map((row) => cells(row)[column]);
    return (cell.dataset.filling && below.find((other) => other.querySelector(".lack"))) || below[0] || cell;
  }

  async function keep(way, consents = []) {
    const { cell, input, box, seen } = editing;
    const text = whole();
    if (text.trim() === seen && !consents.length) { const to = way && next(cell, way); leave(!way); if (to) go(to); return; }
    asked += 1; // suggestions that are still on their way come too late, and do not hold up what is kept
    stopAsking();
    input.readOnly = true;
    const form = new FormData();
    const entries = { product: cell.parentElement.dataset.product, field: cell.dataset.field, text, seen };
    for (const [name, value] of Object.entries(entries)) form.append(name, value);
    for (const head of sheet.table().querySelectorAll("th[data-key]")) form.append("column", head.dataset.key);
    for (const consent of consents) form.append(consent, "1");
    const answer = await tool.send(sheet.table().dataset.cell, form);
    input.readOnly = false;
    if (editing?.box !== box) return;
    if (!answer?.ok) {
      box.classList.add("refused");
      box.querySelector(".hanging").innerHTML = answer ? await answer.text() : "<p role='alert'>The server cannot be reached. What you typed is still here: press Enter to try again.</p>";
      for (const button of box.querySelectorAll("[data-answer]")) button.addEventListener("click", () => answered(button.dataset.answer, way, consents));
      input.focus();
      return;
    }
    const column = cells(cell.parentElement).indexOf(cell);
    const wasLacking = Boolean(cell.querySelector(".lack"));
    const old = cell.parentElement;
    const ticked = old.querySelector("input[name=product]").checked;
    const holder = document.createElement("tbody");
    holder.innerHTML = await answer.text();
    const row = holder.rows[0];
    old.replaceWith(row);
    row.querySelector("input[name=product]").checked = ticked;
    const here = cells(row)[column];
    if (wasLacking) here.dataset.filling = "1";
    leave(false);
    say("Kept.");
    const to = way ? next(here, way) : here;
    go(to);
    if (way === "down" && to !== here && to.querySelector(".lack")) edit(to);
    sheet.refreshHead();
    sheet.selected();
  }
  function answered(answer, way, consents) {
    if (answer === "theirs") { leave(true); location.reload(); return; }
    if (answer === "leave") { leave(true); return; }
    editing.box.classList.remove("refused");
    keep(way, [...consents, answer]);
  }

  // "#fill" in the address: the first cell that lacks what is asked for is open, ready to be filled
  function fill() {
    if (location.hash !== "#fill" || !sheet.table()) return;
    const key = new URLSearchParams(location.search).get("missing");
    const cell = key && sheet.table().querySelector(`td.cell[data-field="${CSS.escape(key)}"]:has(.lack)`);
    history.replaceState(history.state, "", location.pathname + location.search);
    if (!cell) return;
    cell.dataset.filling = "1";
    go(cell);
    edit(cell);
  }
  document.addEventListener("DOMContentLoaded", fill);

  sheet.edit = edit;
  sheet.editing = () => editing;
})();
