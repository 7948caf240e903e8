// The catalogue sheet by keyboard and mouse: moving, selecting, filling cells, and what a change of many would do.
(() => {
  const byId = (id) => document.getElementById(id);
  const say = (text) => { byId("said").textContent = text; };
  const token = () => JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
  const sheet = () => document.querySelector("table.sheet");
  const cells = (row) => [...row.querySelectorAll("td.cell")];
  const rows = () => [...sheet().tBodies[0].rows];
  let editing = null; // {cell, box, input, place}
  let asked = 0;

  // -- moving
  function go(cell) {
    if (!cell) return;
    sheet().querySelectorAll("td.cell[tabindex='0']").forEach((other) => { other.tabIndex = -1; });
    cell.tabIndex = 0;
    cell.focus();
    cell.scrollIntoView({ block: "nearest", inline: "nearest" });
  }
  const beside = (cell, across, down) => {
    const row = rows()[rows().indexOf(cell.parentElement) + down];
    return row && cells(row)[cells(cell.parentElement).indexOf(cell) + across];
  };
  const ways = { ArrowUp: [0, -1], ArrowDown: [0, 1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] };

  document.addEventListener("keydown", (event) => {
    const cell = event.target.closest?.("td.cell");
    if (!cell || editing || !sheet()) return;
    if (ways[event.key]) {
      event.preventDefault();
      const to = beside(cell, ...ways[event.key]);
      if (event.shiftKey && to && event.key.startsWith("Arrow") && to.parentElement !== cell.parentElement) {
        for (const row of [cell.parentElement, to.parentElement]) row.querySelector("input[name=product]").checked = true;
        selected();
      }
      go(to);
    } else if (event.key === " ") {
      event.preventDefault();
      const box = cell.parentElement.querySelector("input[name=product]");
      box.checked = !box.checked;
      selected();
    } else if (event.key === "Enter" || event.key === "F2") {
      event.preventDefault();
      edit(cell);
    } else if (event.key === "Delete") {
      event.preventDefault();
      edit(cell, "");
    } else if (event.key.length === 1 && !event.ctrlKey && !event.metaKey && !event.altKey && !"/?".includes(event.key)) {
      event.preventDefault();
      event.stopImmediatePropagation();
      edit(cell, event.key);
    }
  }, true);
  document.addEventListener("dblclick", (event) => { const cell = event.target.closest("td.cell"); if (cell && !editing) edit(cell); });
  document.addEventListener("click", (event) => {
    const cell = event.target.closest("td.cell");
    if (!cell || editing) return;
    if (cell === document.activeElement || cell.querySelector(".lack")) edit(cell);
    else go(cell);
  });

  // -- filling a cell
  function edit(cell, typed) {
    if (cell.classList.contains("varies")) {
      say("Its variants differ. Open the product to change them.");
      location.href = cell.parentElement.querySelector("th a").href;
      return;
    }
    const head = sheet().querySelector(`th[data-key="${CSS.escape(cell.dataset.field)}"]`);
    const unit = head?.querySelector(".col-name .q")?.textContent ?? "";
    const box = document.createElement("div");
    box.className = "editor";
    box.innerHTML = '<div class="editor-frame"><input autocomplete="off" role="combobox" aria-expanded="true" aria-controls="hanging"><span class="q"></span></div><div class="hanging" id="hanging"></div>';
    const input = box.querySelector("input");
    input.setAttribute("aria-label", `${head?.querySelector(".col-name a, .col-name span")?.textContent ?? ""} of ${cell.parentElement.querySelector("b").textContent}`);
    if (cell.classList.contains("number")) box.querySelector(".q").textContent = unit;
    input.value = typed ?? cell.dataset.text;
    document.body.append(box);
    editing = { cell, box, input, at: -1, seen: cell.dataset.text };
    place();
    input.focus();
    if (typed === undefined) input.select();
    input.addEventListener("input", suggestSoon);
    input.addEventListener("keydown", keys);
    input.addEventListener("blur", () => setTimeout(() => { if (editing?.box === box && !box.contains(document.activeElement)) keep(null); }, 120));
    box.addEventListener("mousedown", (event) => { const item = event.target.closest("li"); if (item) { event.preventDefault(); choose(item); keep("down"); } });
    suggest();
  }
  function place() {
    const at = editing.cell.getBoundingClientRect();
    Object.assign(editing.box.style, { left: `${Math.max(4, Math.min(at.left, innerWidth - Math.max(at.width, 240)))}px`, top: `${at.top + 4}px`, width: `${Math.max(at.width, 120)}px` });
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
    const first = mine.input.value === mine.seen ? "" : mine.input.value;
    const query = new URLSearchParams({ product: mine.cell.parentElement.dataset.product, field: mine.cell.dataset.field, typed: first });
    const answer = await fetch(`${sheet().dataset.suggest}?${query}`, { signal: asking.signal }).catch(() => null);
    if (editing !== mine || turn !== asked || !answer?.ok) return;
    mine.box.querySelector(".hanging").innerHTML = await answer.text();
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
    else if (event.key === "Enter") { event.preventDefault(); keep("down"); }
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
    if (input.value.trim() === seen && !consents.length) { const to = way && next(cell, way); leave(!way); if (to) go(to); return; }
    asked += 1; // suggestions that are still on their way come too late, and do not hold up what is kept
    stopAsking();
    input.readOnly = true;
    const form = new FormData();
    const entries = { product: cell.parentElement.dataset.product, field: cell.dataset.field, text: input.value, seen };
    for (const [name, value] of Object.entries(entries)) form.append(name, value);
    for (const consent of consents) form.append(consent, "1");
    const answer = await fetch(sheet().dataset.cell, { method: "POST", body: form, headers: { "X-CSRFToken": token() } }).catch(() => null);
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
    refreshHead();
    selected();
  }
  function answered(answer, way, consents) {
    if (answer === "theirs") { leave(true); location.reload(); return; }
    if (answer === "leave") { leave(true); return; }
    editing.box.classList.remove("refused");
    keep(way, [...consents, answer]);
  }
  let waiting = null;
  function refreshHead() {
    clearTimeout(waiting);
    waiting = setTimeout(async () => {
      const answer = await fetch(sheet().dataset.head + location.search, { headers: { "HX-Request": "true", "HX-Current-URL": location.href } }).catch(() => null);
      if (!answer?.ok || !sheet()) return;
      const holder = document.createElement("template");
      holder.innerHTML = `<table>${(await answer.text()).replace(/<div id="catalogue-undo"[\s\S]*<\/form>\s*<\/div>/, (part) => { byId("catalogue-undo").outerHTML = part; return ""; })}</table>`;
      byId("sheet-head").replaceWith(holder.content.querySelector("thead"));
      htmx.process(byId("sheet-head"));
      selected();
    }, 250);
  }

  // -- selecting, and changing many
  const ticks = () => [...document.querySelectorAll("input[name=product]")];
  let previewing = null;
  function selected() {
    const bar = byId("bulk");
    if (!bar) return;
    const every = byId("bulk-every").value === "1";
    const count = every ? Number(bar.dataset.total) : ticks().filter((box) => box.checked).length;
    ticks().forEach((box) => box.closest("tr").classList.toggle("selected", box.checked));
    bar.classList.toggle("shown", count > 0);
    byId("bulk-count").textContent = `${count.toLocaleString("en-GB")} product${count === 1 ? "" : "s"} selected`;
    const all = byId("select-page");
    if (all) { all.checked = count > 0 && ticks().every((box) => box.checked); all.indeterminate = count > 0 && !all.checked; }
    byId("bulk-do").textContent = `${bar.way.value === "set" ? "Set on" : "Change"} ${count.toLocaleString("en-GB")} product${count === 1 ? "" : "s"}`;
    const chosen = bar.field.selectedOptions[0];
    byId("bulk-unit").textContent = chosen?.dataset.unit ?? "";
    bar.querySelectorAll(".when-replace").forEach((part) => { part.hidden = bar.way.value !== "replace"; });
    clearTimeout(previewing);
    previewing = setTimeout(preview, 180);
  }
  async function preview() {
    const bar = byId("bulk");
    if (!bar?.classList.contains("shown")) return;
    const form = new FormData(bar);
    form.append("preview", "1");
    const answer = await fetch(bar.dataset.preview, { method: "POST", body: form, headers: { "X-CSRFToken": token() } }).catch(() => null);
    if (answer?.ok && byId("effect")) {
      byId("effect").innerHTML = await answer.text();
      const changes = byId("effect").querySelector("[data-changes]")?.dataset.changes;
      byId("bulk-do").disabled = !Number(changes ?? 0);
      if (changes) byId("bulk-do").textContent = `${bar.way.value === "set" ? "Set on" : "Change"} ${Number(changes).toLocaleString("en-GB")} product${changes === "1" ? "" : "s"}`;
    }
  }
  async function knownValues() {
    const bar = byId("bulk"), first = ticks()[0];
    if (!bar || !first) return;
    const answer = await fetch(`${sheet().dataset.suggest}?${new URLSearchParams({ product: first.value, field: bar.field.value, typed: "" })}`).catch(() => null);
    if (!answer?.ok) return;
    const holder = document.createElement("div");
    holder.innerHTML = await answer.text();
    byId("bulk-values").replaceChildren(...[...holder.querySelectorAll("li")].map((item) => new Option(item.dataset.text, item.dataset.text)));
  }
  let last = null;
  document.addEventListener("click", (event) => {
    const box = event.target;
    if (box.matches?.("input[name=product]")) {
      if (event.shiftKey && last) {
        const all = ticks(), [from, to] = [all.indexOf(last), all.indexOf(box)].sort((one, other) => one - other);
        all.slice(from, to + 1).forEach((other) => { other.checked = box.checked; });
      }
      last = box;
      byId("bulk-every").value = "";
      selected();
    } else if (box.id === "select-page") {
      ticks().forEach((other) => { other.checked = box.checked; });
      byId("bulk-every").value = "";
      selected();
    } else if (box.id === "select-every" || box.id === "select-none") {
      ticks().forEach((other) => { other.checked = box.id === "select-every"; });
      byId("bulk-every").value = box.id === "select-every" ? "1" : "";
      selected();
    }
  });
  document.addEventListener("input", (event) => {
    if (event.target.closest("#bulk")) selected();
    if (event.target.name === "field" && event.target.closest("#bulk")) knownValues();
  });
  document.addEventListener("submit", (event) => {
    if (event.submitter?.id !== "bulk-delete") return;
    const count = byId("bulk-count").textContent.replace(" selected", "");
    if (!confirm(`Delete ${count}? Undo brings them back.`)) event.preventDefault();
  });
  document.addEventListener("focusin", (event) => { if (event.target.closest?.("#bulk") && !byId("bulk-values").children.length) knownValues(); });
  document.addEventListener("toggle", (event) => {
    if (event.target.matches?.("details.pop") && event.target.open) document.querySelectorAll("details.pop[open]").forEach((other) => { if (other !== event.target) other.open = false; });
  }, true);
  document.addEventListener("click", (event) => document.querySelectorAll("details.pop[open]").forEach((box) => { if (!box.contains(event.target)) box.open = false; }));
  document.addEventListener("keydown", (event) => { if (event.key === "Escape") document.querySelectorAll("details.pop[open]").forEach((box) => { box.open = false; box.querySelector("summary").focus(); }); });
  document.addEventListener("DOMContentLoaded", selected);
  document.addEventListener("htmx:afterSettle", selected);
})();
