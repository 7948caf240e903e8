// The value bench: values are dragged onto bins, or merged, parted and left out by keys; bins get names and swatches.
(() => {
  const { byId, say } = tool;
  const SVG = "http://www.w3.org/2000/svg";
  const START = 5; // pixels a press moves before it is a drag
  const form = () => byId("values");
  const ticked = () => [...form().querySelectorAll("input[name=value]:checked")];
  const valueAt = (element) => element?.closest?.("[data-value]")?.dataset.value;

  // -- sending: the page comes back as the server has it; scroll and focus stay
  async function act(name, values, more = {}, focus = "") {
    const data = new FormData();
    data.append("act", name);
    data.append("edition", form().dataset.edition);
    for (const value of values) data.append("value", value);
    for (const [key, given] of Object.entries(more)) for (const one of [given].flat()) data.append(key, one);
    const busy = setTimeout(() => byId("busy").classList.add("htmx-request"), 300);
    const answer = await tool.send(form().getAttribute("action"), data, tool.fragment());
    clearTimeout(busy);
    byId("busy").classList.remove("htmx-request");
    if (!answer?.ok) {
      tool.warn("That could not be kept. Nothing was changed; try again, or load the page anew.");
      return;
    }
    const scroll = document.querySelector("#page main").scrollTop;
    const replace = answer.headers.get("HX-Replace-Url");
    if (replace) history.replaceState(history.state, "", replace);
    tool.swap(await answer.text());
    document.querySelector("#page main").scrollTop = scroll;
    const wanted = values.length ? document.querySelector(`[data-value="${CSS.escape(values[0])}"] input`) : null;
    (byId(focus) ?? wanted ?? byId("find-value"))?.focus({ preventScroll: true });
  }

  // -- what is selected: ticked values, else the one in focus
  function chosen() {
    const values = ticked().map((input) => input.value);
    const here = valueAt(document.activeElement);
    return values.length ? values : here ? [here] : [];
  }
  function showSelected() {
    const foot = document.querySelector("[data-selected]");
    if (!foot) return;
    const rows = ticked();
    foot.classList.toggle("some", rows.length > 0);
    const products = rows.reduce((sum, input) => sum + Number(input.closest(".raw").querySelector("b").textContent.replace(/,/g, "")), 0);
    foot.querySelector("[data-count]").textContent = rows.length ? `${rows.length} value${rows.length === 1 ? "" : "s"}, ${products.toLocaleString("en-GB")} products` : "";
    const names = new Set(rows.map((input) => input.value));
    document.querySelectorAll(".streams path[data-from]").forEach((path) => path.classList.toggle("lit", names.has(path.dataset.from)));
  }
  document.addEventListener("change", (event) => {
    if (event.target.matches?.("#values input[name=value]")) showSelected();
    const name = event.target.closest?.("[data-rename]");
    if (name && name.value.trim() !== name.dataset.rename) act("rename", [], { bin: name.dataset.rename, label: name.value }, name.id);
  });

  // -- keys on a value, and on a bin's name
  document.addEventListener("keydown", (event) => {
    const name = event.target.closest?.("[data-rename]");
    if (name && event.key === "Enter") { event.preventDefault(); name.blur(); }
    if (name && event.key === "Escape") { name.value = name.dataset.rename; name.blur(); }
    const row = event.target.closest?.("[data-value]");
    if (!row || event.ctrlKey || event.metaKey || event.altKey) return;
    const rows = [...document.querySelectorAll("[data-value] input")];
    const here = rows.indexOf(event.target);
    const key = event.key.toLowerCase();
    if (key === "arrowdown" || key === "arrowup") {
      event.preventDefault();
      const next = rows[here + (key === "arrowdown" ? 1 : -1)];
      next?.focus();
      if (event.shiftKey && next) { event.target.checked = next.checked = true; showSelected(); }
    } else if (key === "m" && byId("merge-into")) { event.preventDefault(); openMerge(chosen()); }
    else if (key === "x") { event.preventDefault(); act(row.classList.contains("left-out") ? "put_back" : "leave_out", chosen()); }
    else if (key === "b" && byId("new-bin")) { event.preventDefault(); act("part", chosen()); }
    else if (key === "escape") { ticked().forEach((input) => { input.checked = false; }); showSelected(); }
  });

  // -- merge into: the likeliest bin stands first
  let merging = [];
  function openMerge(values, fresh = false) {
    if (!values.length) { say("Tick a value first."); return; }
    merging = values;
    const box = byId("merge-into"), find = byId("merge-find");
    find.value = "";
    box.dataset.fresh = fresh ? "true" : "";
    box.showModal();
    filter();
    find.focus();
  }
  // How alike two words are: the share of pairs of letters they have in common.
  function alike(one, other) {
    const pairs = (text) => [...text].slice(1).map((letter, place) => text[place] + letter);
    const first = pairs(one), second = pairs(other);
    const shared = first.filter((pair) => second.includes(pair)).length;
    return first.length && second.length ? 2 * shared / (first.length + second.length) : 0;
  }
  const SHOWN = 60; // bins that are listed at once
  function filter() {
    const list = document.querySelector("#merge-into [data-choices]");
    if (filter.of !== list) [filter.of, filter.listed] = [list, JSON.parse(list.dataset.names)];
    const typed = byId("merge-find").value.trim().toLowerCase(), value = merging[0].toLowerCase();
    const score = (words) => {
      if (typed) return words.startsWith(typed) ? 2 : words.includes(typed) ? 1 : -1;
      return words === value ? -.5 : alike(words, value);
    };
    const ranked = filter.listed.map(([label, words]) => [score(words.toLowerCase()), label, words]).filter(([points]) => points > -1);
    ranked.sort((one, other) => other[0] - one[0]);
    list.replaceChildren(...ranked.slice(0, SHOWN).map(([, label, words], place) => {
      const item = document.createElement("li"), button = document.createElement("button");
      item.classList.toggle("first", place === 0);
      button.type = "button";
      button.dataset.label = label;
      button.textContent = words;
      item.append(button);
      return item;
    }));
  }
  function choose(label) {
    byId("merge-into").close();
    const into = label ?? byId("merge-find").value.trim();
    if (!into) return;
    if (label === null) act("gather", merging, { label: into });
    else act("merge", merging, { into });
  }
  document.addEventListener("input", (event) => { if (event.target.id === "merge-find") filter(); });
  document.addEventListener("keydown", (event) => {
    if (event.target.id !== "merge-find" || event.key !== "Enter") return;
    event.preventDefault();
    const first = document.querySelector("#merge-into .first button");
    const fresh = byId("merge-into").dataset.fresh && byId("merge-find").value.trim();
    choose(fresh || !first ? null : first.dataset.label);
  });
  document.addEventListener("click", (event) => {
    const choice = event.target.closest?.("#merge-into [data-label]");
    if (choice) choose(choice.dataset.label);
    if (event.target.closest?.("[data-merge]")) openMerge(chosen());
    if (event.target.closest?.("[data-new-bin]")) openMerge(chosen(), true);
  });

  // -- dragging
  let drag = null, frame = 0;
  document.addEventListener("pointerdown", (event) => {
    const row = event.target.closest?.(".raw[data-value]");
    if (!row || event.button || event.target.matches("input")) return;
    drag = { row, x: event.clientX, y: event.clientY, on: false };
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    if (!drag.on && Math.hypot(event.clientX - drag.x, event.clientY - drag.y) < START) return;
    if (!drag.on) begin(event);
    drag.at = { x: event.clientX, y: event.clientY };
    if (!frame) frame = requestAnimationFrame(follow);
  });
  function begin(event) {
    drag.on = true;
    drag.row.setPointerCapture(event.pointerId); // and bins are found by where they stand: asking the page is slow among thousands
    const list = form().querySelector(".targets"), top = list.getBoundingClientRect().top;
    drag.list = list;
    drag.places = [...list.querySelectorAll(".target")].map((target) => {
      const box = target.getBoundingClientRect();
      return { target, top: box.top - top, bottom: box.bottom - top };
    });
    const selected = ticked().map((input) => input.value);
    drag.values = selected.includes(drag.row.dataset.value) ? selected : [drag.row.dataset.value];
    drag.row.classList.add("moving");
    drag.tag = document.createElement("div");
    drag.tag.className = "merge-tag";
    drag.band = document.createElementNS(SVG, "svg"); // over the page, so that the thousands of ribbons under it are not painted again
    drag.band.setAttribute("class", "drawn-band");
    drag.band.append(document.createElementNS(SVG, "path"));
    document.body.append(drag.band, drag.tag);
    getSelection()?.removeAllRanges();
  }
  const within = (x, y, box) => x >= box.left && x <= box.right && y >= box.top && y <= box.bottom;
  function targetAt(x, y) {
    const box = drag.list.getBoundingClientRect(), down = y - box.top;
    if (!within(x, y, box)) return undefined;
    let low = 0, high = drag.places.length - 1;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (drag.places[middle].bottom < down) low = middle + 1;
      else high = middle;
    }
    return drag.places[low]?.top <= down && down <= drag.places[low].bottom ? drag.places[low].target : undefined;
  }
  function follow() {
    frame = 0;
    if (!drag?.on) return;
    const { x, y } = drag.at;
    const target = targetAt(x, y), raws = form().querySelector(".raws").getBoundingClientRect();
    if (target !== drag.target) {
      drag.target?.classList.remove("over");
      target?.classList.add("over");
      drag.target = target;
    }
    drag.ground = !target && within(x, y, form().getBoundingClientRect()) && !within(x, y, raws);
    const many = drag.values.length > 1 ? ` ${drag.values.length} values` : "";
    drag.tag.textContent = target?.matches("[data-bin-none]") ? `Leave out${many}` : target ? `Merge${many}` : drag.ground ? `Own bin${many}` : drag.values[0];
    drag.tag.style.transform = `translate(${x + 12}px, ${y + 10}px)`;
    drag.tag.style.left = drag.tag.style.top = "0";
    const from = drag.row.getBoundingClientRect(), main = document.querySelector("#page main"), edge = main.getBoundingClientRect();
    const [sx, sy] = [from.right, from.top + from.height / 2];
    drag.band.firstChild.setAttribute("d", `M${sx} ${sy}C${(sx + x) / 2} ${sy} ${(sx + x) / 2} ${y} ${x} ${y}`);
    if (y > edge.bottom - 40) main.scrollTop += 12;
    else if (y < edge.top + 40) main.scrollTop -= 12;
  }
  function end(event) {
    const was = drag;
    drag = null;
    if (!was?.on) return;
    was.tag.remove();
    was.band.remove();
    was.row.classList.remove("moving");
    was.target?.classList.remove("over");
    const swallow = (click) => { click.preventDefault(); click.stopPropagation(); };
    document.addEventListener("click", swallow, { capture: true, once: true });
    setTimeout(() => document.removeEventListener("click", swallow, { capture: true }), 50);
    if (event.type === "pointercancel") return;
    if (was.target?.matches("[data-bin-none]")) act("leave_out", was.values);
    else if (was.target && byId("new-bin")) act("merge", was.values, { into: was.target.dataset.bin });
    else if (was.ground && byId("new-bin")) act("part", was.values);
  }
  document.addEventListener("pointerup", end);
  document.addEventListener("pointercancel", end);
  document.addEventListener("keydown", (event) => { if (event.key === "Escape" && drag?.on) end({ type: "pointercancel" }); });

  // -- swatches
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("[data-swatch]");
    if (!button) return;
    const box = byId("swatch-box");
    box.dataset.bin = button.dataset.swatch;
    box.querySelector("[data-title]").textContent = button.dataset.swatch;
    const colours = button.dataset.colours.split(",").filter(Boolean);
    box.querySelectorAll("input[type=color]").forEach((input, place) => { input.value = colours[place] ?? "#ffffff"; });
    const count = box.querySelector(`[name=count][value="${Math.max(1, colours.length)}"]`);
    if (count) count.checked = true;
    showColours(String(Math.max(1, colours.length)));
    box.showModal();
  });
  function showColours(count) {
    const box = byId("swatch-box");
    box.dataset.count = count;
    box.querySelectorAll("input[type=color]").forEach((input, place) => { input.hidden = place >= Number(count); });
  }
  document.addEventListener("change", (event) => {
    if (event.target.matches?.("#swatch-box [name=count]")) showColours(event.target.value);
    if (event.target.id === "swatch-file" && event.target.files.length) {
      const box = byId("swatch-box");
      box.close();
      act("colour", [], { bin: box.dataset.bin, way: "file", file: [...event.target.files] });
    }
  });
  document.addEventListener("click", (event) => {
    const keep = event.target.closest?.("#swatch-box [data-way]");
    if (!keep) return;
    const box = byId("swatch-box");
    box.close();
    const way = keep.dataset.way;
    act("colour", [], {
      bin: box.dataset.bin, way, count: box.dataset.count, text: byId("swatch-text")?.value ?? "", image: byId("swatch-image").value,
      colour: [...box.querySelectorAll("input[type=color]")].map((input) => input.value),
    });
  });

  document.addEventListener("DOMContentLoaded", showSelected);
  document.addEventListener("htmx:afterSettle", showSelected);
})();
