// Show when: draws the ties between shelves, makes them by drag and by T, and lets bins be clicked that a rule waits for.
(() => {
  const { byId, say } = tool;
  const SVG = "http://www.w3.org/2000/svg";
  const LANE = 12;
  const rack = () => document.querySelector(".rack.ruling");
  const shelfOf = (key) => byId(`shelf-${key}`);

  function send(key, values) {
    const list = document.querySelector(".shelves");
    const base = { edition: list.dataset.edition, rack: list.dataset.rack, next: location.pathname + location.search };
    htmx.ajax("POST", `/racks/facets/${key}/when/`, { values: { ...base, ...values }, target: "#page", swap: "outerHTML" });
  }

  // -- drawing
  function part(name, attributes) {
    const element = document.createElementNS(SVG, name);
    for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, value);
    return element;
  }

  const middle = (key, top) => {
    const words = shelfOf(key)?.querySelector(".lab h2")?.getBoundingClientRect();
    return words && words.height ? words.top + words.height / 2 - top : null;
  };

  // Shorter ties stand nearer to the shelves; those that would touch get lanes of their own.
  function lanes(ties) {
    const taken = [];
    for (const tie of [...ties].sort((one, other) => Math.abs(one.from - one.to) - Math.abs(other.from - other.to))) {
      const [low, high] = [Math.min(tie.from, tie.to) - 6, Math.max(tie.from, tie.to) + 6];
      let lane = 0;
      while ((taken[lane] ?? []).some(([start, end]) => start < high && low < end)) lane += 1;
      (taken[lane] ??= []).push([low, high]);
      tie.lane = lane;
    }
  }

  function draw() {
    const room = rack();
    document.querySelector(".rule-ties")?.remove();
    if (!room || matchMedia("(width < 760px)").matches) return;
    const top = room.getBoundingClientRect().top;
    const open = document.querySelector(".rule-card")?.closest(".shelf")?.dataset.key;
    const ties = room.dataset.ties.split(";").map((text) => text.trim()).filter(Boolean).map((text) => {
      const [start, end, holds] = text.split(/\s+/);
      return { start, end, holds: holds === "1", from: middle(start, top), to: middle(end, top) };
    }).filter((tie) => tie.from !== null && tie.to !== null);
    // A circle that was refused: the ties in it in amber, the one that would close it dashed.
    const around = byId("rule-card")?.dataset.circle?.split(" ") ?? [];
    around.slice(1).forEach((start, place) => {
      const end = around[place];
      const there = ties.find((tie) => tie.start === start && tie.end === end);
      if (there) there.refused = true;
      else if (middle(start, top) !== null && middle(end, top) !== null) ties.push({ start, end, refused: true, proposed: true, from: middle(start, top), to: middle(end, top) });
    });
    lanes(ties);
    const drawn = part("svg", { class: "rule-ties", width: 66, height: room.scrollHeight, "aria-hidden": "true" });
    for (const tie of ties) {
      const focused = tie.start === open || tie.end === open;
      const x = Math.max(5, 36 - LANE * tie.lane);
      const group = part("g", { class: `tie${tie.holds ? " holds" : ""}${tie.refused ? " refused" : ""}${tie.proposed ? " proposed" : ""}${ties.length > 6 && open && !focused ? " faint" : ""}` });
      const offset = tie.to > tie.from ? 5 : -5;
      group.append(
        part("path", { d: `M44 ${tie.from + offset}H${x}V${tie.to - offset}H50` }),
        part("circle", { cx: 48, cy: tie.from + offset, r: 3.5 }),
        part("path", { class: "bar", d: `M51 ${tie.to - offset - 5}v10` }),
      );
      drawn.append(group);
    }
    room.prepend(drawn);
    awaited();
  }

  // -- bins that the open rule waits for
  function awaited() {
    const card = byId("rule-card");
    if (!card) return;
    for (const box of card.querySelectorAll("input[name^=bins_]:checked")) {
      const facet = card.elements[box.name.replace("bins", "facet")].value;
      byId(`v-${facet}-${box.value}`)?.classList.add("waited-for");
    }
  }
  document.addEventListener("click", (event) => {
    const bin = event.target.closest?.(".shelf.awaited a[id^='v-']");
    if (!bin || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    const facet = bin.closest(".shelf").dataset.key;
    send(document.querySelector(".rule-card").closest(".shelf").dataset.key, { bin: `${facet}:${bin.id.slice(facet.length + 3)}` });
  }, true);

  // -- a tie by drag: from the dot of the one that is waited for to the shelf that is to wait
  let dragged = null;
  document.addEventListener("pointerdown", (event) => {
    const dot = event.target.closest?.(".tie-dot");
    if (!dot || !rack()) return;
    event.preventDefault();
    dot.setPointerCapture(event.pointerId);
    const box = rack().getBoundingClientRect();
    dragged = { key: dot.dataset.tieFrom, box, line: part("path", { class: "dragged" }), from: middle(dot.dataset.tieFrom, box.top) };
    document.querySelector(".rule-ties").append(dragged.line);
  });
  const under = (event) => document.elementsFromPoint(event.clientX, event.clientY).map((one) => one.closest(".shelf")).find(Boolean);
  document.addEventListener("pointermove", (event) => {
    if (!dragged) return;
    dragged.line.setAttribute("d", `M48 ${dragged.from}H8V${event.clientY - dragged.box.top}H52`);
    document.querySelectorAll(".shelf.takes").forEach((shelf) => shelf.classList.remove("takes"));
    const shelf = under(event);
    if (shelf && shelf.dataset.key !== dragged.key) shelf.classList.add("takes");
  });
  document.addEventListener("pointerup", (event) => {
    if (!dragged) return;
    const { key, line } = dragged;
    dragged = null;
    line.remove();
    const shelf = under(event);
    if (shelf && shelf.dataset.key !== key) send(shelf.dataset.key, { tie: key });
  });
  document.addEventListener("pointercancel", () => { dragged?.line.remove(); dragged = null; });

  // -- by keyboard: T ties the shelf in hand, Delete on its rule unties it
  document.addEventListener("keydown", (event) => {
    const shelf = event.target.closest?.(".shelf");
    if (!shelf || !rack() || event.ctrlKey || event.metaKey || event.altKey) return;
    const inField = event.target.matches("input:not([type=radio]):not([type=checkbox]), textarea, select");
    if (event.key.toLowerCase() === "t" && !inField) {
      event.preventDefault();
      if (shelf.querySelector(".rule-card")) byId("add-line")?.click();
      else byId(`rule-${shelf.dataset.key}`)?.click();
    } else if (event.key === "Delete" && event.target.id === `rule-${shelf.dataset.key}`) {
      event.preventDefault();
      say(`${shelf.getAttribute("aria-label")} waits for nothing`);
      send(shelf.dataset.key, { lines: "0", every: "any" });
    }
  });

  document.addEventListener("DOMContentLoaded", draw);
  document.addEventListener("htmx:afterSettle", draw);
  addEventListener("resize", draw);
  document.fonts?.ready.then(draw);
})();
