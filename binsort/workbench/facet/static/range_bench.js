// The range bench: flags are dragged, nudged and added; all counts, bars, ribbons and compartments follow at once, exact, from the
// numbers that the page holds. When the hand rests the cuts are sent, and the page comes back as the server has it.
(() => {
  const { byId, say } = tool;
  const { Line, Axis, compare, float, nice, rounded } = rangeNumbers;
  const OFF = 54; // pixels above or below the flags at which a flag let go is taken out
  const ROWS = 4; // of flags above each other
  const REST = 420; // milliseconds without a key after which nudged cuts are sent
  const SVG = "http://www.w3.org/2000/svg";
  let bench = null; // what is on the page now
  let waiting = null; // cuts that are not sent yet, kept over an answer that comes meanwhile
  let sending = false;
  let timer = 0;
  const lines = new Map(); // of this page's listing, by address

  // -- days are whole numbers inside, and written as ISO 8601 says
  const DAY = 86400000, FIRST = 719163; // the ordinal of 1 January 1970
  const ordinal = (iso) => Math.round(Date.parse(`${iso}T00:00Z`) / DAY) + FIRST;
  const iso = (day) => new Date((day - FIRST) * DAY).toISOString().slice(0, 10);

  class Bench {
    constructor(root) {
      this.root = root;
      Object.assign(this, JSON.parse(root.dataset.bench));
      this.axis = new Axis(this.axis);
      this.cuts = this.dates ? this.cuts.map((text) => String(ordinal(text))) : this.cuts;
      this.hand = this.hand.map(([low, high, label]) => [...[low, high].map((text) => (text === "" ? null : this.dates ? String(ordinal(text)) : text)), label]);
      this.plot = root.querySelector("[data-plot]");
      this.flags = root.querySelector("[data-flags]");
      this.line = lines.get(root.dataset.numbers);
      if (this.line?.entries !== this.entries) this.line = null; // the catalogue has changed since
      if (this.line) {
        root.dataset.ready = "true";
        this.drawFlags();
      } else this.load();
    }

    async load() {
      const answer = await tool.ask(this.root.dataset.numbers);
      const data = answer?.ok ? await answer.json().catch(() => null) : null;
      if (!data) return;
      this.line = new Line(data);
      lines.clear();
      lines.set(this.root.dataset.numbers, this.line);
      this.root.dataset.ready = "true";
      this.drawFlags();
      if (waiting) this.draw();
    }

    typed(text) { return this.dates ? iso(Number(text)) : text; }
    step(value) {
      const share = this.axis.share(value);
      const span = this.axis.value(Math.min(1, share + .005)) - this.axis.value(Math.max(0, share - .005));
      return Math.max(this.finest, this.dates ? Math.max(1, Math.round(span)) : nice(Math.abs(span)));
    }

    // -- ranges of the cuts, as the way bins are made says
    ranges() {
      const cuts = this.cuts;
      if (this.shape === "ranges") return this.hand.map(([low, high]) => [low, high, false]);
      if (this.shape === "at_least") return cuts.map((cut) => [cut, null, false]);
      if (this.shape === "at_most") return cuts.map((cut) => [null, cut, true]);
      if (this.closed && cuts.length > 1) return cuts.slice(1).map((cut, place) => [cuts[place], cut, place === cuts.length - 2]);
      return [null, ...cuts].map((low, place) => [low, cuts[place] ?? null, false]);
    }
    slice([low, high, inclusive]) {
      const start = low === null ? 0 : this.line.rank(low);
      return [start, Math.max(start, high === null ? this.line.numbers.length : this.line.rank(high, inclusive))];
    }

    // -- drawing
    draw() {
      if (!this.line) return;
      const ranges = this.ranges();
      const slices = ranges.map((range) => this.slice(range));
      const counts = slices.map((slice) => this.line.count(...slice));
      const unbinned = this.total - this.line.countAny(slices);
      const least = ranges.map((_, place) => this.least[Math.min(place, this.least.length - 2)]);
      if (unbinned) least.push(this.least[this.least.length - 1]);
      const widths = sharedWidths(unbinned ? [...counts, unbinned] : counts, least);
      this.drawCompartments(ranges, counts, unbinned, widths);
      this.drawBars();
      this.drawFlags();
      const held = document.activeElement?.closest?.("[data-cut]");
      if (held) this.sayCut([...this.flags.querySelectorAll("[data-cut]")].indexOf(held));
    }

    drawCompartments(ranges, counts, unbinned, widths) {
      const list = this.root.querySelector("[data-compartments]");
      const ribbons = this.root.querySelector("[data-ribbons]");
      const items = [...list.children].filter((item) => !item.classList.contains("un"));
      while (items.length < ranges.length) {
        const item = items[items.length - 1].cloneNode(true);
        items[items.length - 1].after(item);
        items.push(item);
      }
      while (items.length > ranges.length) items.pop().remove();
      while (ribbons.children.length < ranges.length) ribbons.append(document.createElementNS(SVG, "path"));
      while (ribbons.children.length > ranges.length) ribbons.lastChild.remove();
      const binned = counts.reduce((sum, count) => sum + count, 0) || 1;
      let left = 0;
      ranges.forEach(([low, high, inclusive], place) => {
        const item = items[place], width = widths[place];
        item.style.left = `${left}%`;
        item.style.width = `${width}%`;
        item.querySelector(".mass b").textContent = counts[place].toLocaleString("en-GB");
        item.querySelector(".words b").textContent = this.hand[place]?.[2] || this.say(low, high, inclusive);
        item.querySelector(".words .n").textContent = `${Math.round(100 * counts[place] / binned)}%`;
        const a = low === null ? 0 : 1000 * this.axis.share(float(low));
        const b = high === null ? 1000 : 1000 * this.axis.share(float(high));
        const c = 10 * left, d = 10 * (left + width);
        ribbons.children[place].setAttribute("d", `M${a} 0C${a} 55 ${c} 45 ${c} 100L${d} 100C${d} 45 ${b} 55 ${b} 0z`);
        left += width;
      });
      let none = list.querySelector(".un");
      if (!none && unbinned) {
        none = items[0].cloneNode(true);
        none.classList.add("un");
        none.querySelector(".words b").textContent = "Unbinned";
        none.querySelector(".words .n").textContent = "";
        list.append(none);
      }
      if (none) {
        none.hidden = !unbinned;
        none.style.left = `${left}%`;
        none.style.width = `${100 - left}%`;
        none.querySelector(".mass b").textContent = unbinned.toLocaleString("en-GB");
      }
    }

    // Edges stand evenly; one next to a cut gives way to it, so that no bar straddles a cut.
    drawBars() {
      const edges = this.cuts.map((cut) => [this.axis.share(float(cut)), this.line.rank(cut)]);
      const cutShares = edges.map(([share]) => share);
      for (let place = 0; place <= this.bars; place++) {
        const share = place / this.bars;
        const clear = cutShares.every((other) => Math.abs(share - other) >= .5 / this.bars);
        if (!clear && place && place < this.bars) continue;
        edges.push([share, !place ? 0 : place === this.bars ? this.line.numbers.length : this.rankOf(this.axis.value(share))]);
      }
      edges.sort((one, other) => one[0] - other[0] || one[1] - other[1]);
      const bars = [];
      for (let place = 1; place < edges.length; place++) {
        const [[left, start], [right, stop]] = [edges[place - 1], edges[place]];
        const count = right > left && stop > start ? this.line.count(start, stop) : 0;
        if (count) bars.push([left, right, count / ((right - left) * this.bars)]);
      }
      const highest = Math.max(...bars.map(([, , density]) => density), 0) || 1;
      const path = bars.map(([left, right, density]) => {
        const height = Math.max(1.2, 100 * density / highest), width = Math.max(1, 1000 * (right - left) - 1.6);
        return `M${(1000 * left + .8).toFixed(2)} 100v${(-height).toFixed(2)}h${width.toFixed(2)}v${height.toFixed(2)}z`;
      });
      this.root.querySelector("[data-bars]").setAttribute("d", path.join(""));
    }
    rankOf(value) {
      let low = 0, high = this.line.floats.length;
      while (low < high) {
        const middle = (low + high) >> 1;
        if (this.line.floats[middle] < value) low = middle + 1;
        else high = middle;
      }
      return low;
    }

    drawFlags() {
      const items = [...this.flags.querySelectorAll("[data-cut]")];
      const ends = Array(ROWS).fill(-100);
      this.cuts.forEach((cut, place) => {
        const item = items[place];
        if (!item) return;
        const share = 100 * this.axis.share(float(cut));
        const wide = 100 * (item.offsetWidth + 6) / Math.max(200, this.flags.clientWidth);
        const free = ends.findIndex((end) => end <= share);
        const row = free < 0 ? ends.indexOf(Math.min(...ends)) : free;
        ends[row] = share + wide;
        item.style.left = `${share}%`;
        item.classList.remove("row-0", "row-1", "row-2", "row-3");
        item.classList.add(`row-${row}`);
        item.classList.toggle("flip", share > 94);
        const input = item.querySelector("input");
        if (input !== document.activeElement) input.value = this.typed(cut);
        const mark = item.querySelector("button");
        mark.setAttribute("aria-valuenow", this.typed(cut));
        mark.setAttribute("aria-valuetext", this.number(cut));
      });
    }

    sayCut(place) {
      if (place < 0 || place >= this.cuts.length) return;
      const ranges = this.ranges();
      const text = ranges.map((range) => `${this.say(...range)}: ${this.line.count(...this.slice(range))}`).join(", ");
      clearTimeout(this.saying);
      this.saying = setTimeout(() => say(text), 300);
    }

    // -- words, as the server will say them
    number(text) {
      const words = this.words, value = float(text);
      if (words.written === "days") return new Intl.DateTimeFormat(words.locale, { day: "numeric", month: "short", year: "numeric", timeZone: "UTC" }).format((value - FIRST) * DAY);
      if (words.written === "age") return `${value} day${value === 1 ? "" : "s"}`;
      const digits = words.decimals === null ? { maximumFractionDigits: 12 } : { minimumFractionDigits: words.decimals, maximumFractionDigits: words.decimals };
      const options = { useGrouping: words.grouped, ...digits };
      if (words.currency) Object.assign(options, { style: "currency", currency: words.currency }, Number.isInteger(value) ? { minimumFractionDigits: 0, maximumFractionDigits: 0 } : { minimumFractionDigits: 2, maximumFractionDigits: 2 });
      const written = new Intl.NumberFormat(words.locale, options).format(value);
      return words.currency ? written : `${words.prefix}${written}${words.suffix}`;
    }
    say(low, high, inclusive) {
      const words = this.words;
      if (words.written === "days") {
        if (low === null) return high === null ? "any day" : `before ${this.number(high)}`;
        return high === null ? `${this.number(low)} and later` : `${this.number(low)}–${this.number(String(Number(high) - 1))}`;
      }
      if (words.written === "age") {
        if (low === null) return high === null ? "any" : `in the last ${this.number(inclusive ? high : String(Number(high) - 1))}`;
        return high === null ? `${this.number(low)} ago and longer` : `${low} to ${this.number(String(Number(high) - 1))} ago`;
      }
      if (low === null) return high === null ? "any range" : (inclusive ? words.upto : words.under).replace("%", this.number(high));
      if (high === null) return words.over.replace("%", this.number(low));
      const first = this.number(low);
      return `${words.suffix && first.endsWith(words.suffix) ? first.slice(0, -words.suffix.length) : first}${words.between}${this.number(high)}`;
    }

    // -- changing
    set(place, text) {
      const below = this.cuts[place - 1], above = this.cuts[place + 1];
      if ((below !== undefined && compare(text, below) <= 0) || (above !== undefined && compare(text, above) >= 0) || text === this.cuts[place]) return false;
      this.cuts[place] = text;
      this.draw();
      return true;
    }
    add(text, typed = false) {
      if (this.cuts.some((cut) => compare(cut, text) === 0)) return;
      this.cuts = [...this.cuts, text].sort(compare);
      keep(this.cuts, this.cuts.indexOf(text), this, typed);
    }
    remove(place) {
      const cuts = this.cuts.filter((_, other) => other !== place);
      this.cuts = cuts;
      keep(cuts, Math.min(place, cuts.length - 1), this);
    }
    // Where a cut is worth most: in the middle of the fullest range, at a round number.
    best() {
      const edges = [this.axis.low, ...this.cuts.map(float), this.axis.high];
      let widest = 0, at = (this.axis.low + this.axis.high) / 2;
      for (let place = 1; place < edges.length; place++) {
        const start = this.rankOf(edges[place - 1]), stop = this.rankOf(edges[place]);
        const count = this.line ? this.line.count(start, Math.min(stop, this.line.numbers.length)) : 0;
        if (count > widest) [widest, at] = [count, this.axis.value((this.axis.share(edges[place - 1]) + this.axis.share(edges[place])) / 2)];
      }
      return rounded(at, this.dates ? 1 : this.step(at));
    }
  }

  // Compartments share a board by mass, none narrower than its words need.
  function sharedWidths(masses, least) {
    const together = least.reduce((sum, width) => sum + width, 0);
    const whole = masses.reduce((sum, mass) => sum + mass, 0);
    if (together >= 100 || !whole) return least.map((width) => 100 * width / (together || 1));
    const held = new Set();
    for (;;) {
      let room = 100, mass = 0;
      masses.forEach((one, place) => { if (held.has(place)) room -= least[place]; else mass += one; });
      const narrow = masses.map((_, place) => place).filter((place) => !held.has(place) && mass && room * masses[place] / mass < least[place]);
      if (!narrow.length) return masses.map((one, place) => (held.has(place) ? least[place] : room * one / mass));
      narrow.forEach((place) => held.add(place));
    }
  }

  // -- keeping: one set of cuts on its way at a time; what is moved meanwhile follows
  function keep(cuts, place, of, typed = false) {
    waiting = { cuts: cuts.map((cut) => of.typed(cut)), at: place >= 0 ? of.typed(cuts[place]) : "", typed };
    send();
  }
  function keepSoon(cuts, place, of) {
    clearTimeout(timer);
    timer = setTimeout(() => keep(cuts, place, of), REST);
  }
  async function send() {
    if (sending || !waiting) return;
    clearTimeout(timer);
    sending = true;
    const sent = waiting;
    waiting = null;
    const form = new FormData();
    form.append("act", "cuts");
    form.append("edition", bench.root.dataset.edition);
    form.append("at", sent.at);
    for (const cut of sent.cuts) form.append("cut", cut);
    const busy = setTimeout(() => byId("busy").classList.add("htmx-request"), 300);
    const answer = await tool.send(bench.root.dataset.act, form, tool.fragment());
    clearTimeout(busy);
    byId("busy").classList.remove("htmx-request");
    sending = false;
    if (!answer?.ok) {
      tool.warn("The cuts could not be kept. Nothing was changed; try again, or load the page anew.");
      return;
    }
    const page = await answer.text();
    if (waiting || drag) { // the hand went on: what it did is kept on top of this
      bench.root.dataset.edition = page.match(/data-edition="(\d+)"/)?.[1] ?? bench.root.dataset.edition;
      if (!drag) send();
      return;
    }
    const main = document.querySelector("#page main");
    const scroll = main?.scrollTop ?? 0;
    const replace = answer.headers.get("HX-Replace-Url");
    if (replace) history.replaceState(history.state, "", replace);
    tool.swap(page);
    document.querySelector("#page main").scrollTop = scroll;
    goTo(sent);
  }

  // The cut in hand stays in hand; a new one can be typed over at once.
  function goTo({ at, typed }) {
    const field = [...document.querySelectorAll("[data-cut] input")].find((input) => input.value === at);
    const mark = field?.closest("[data-cut]").querySelector(".flag-mark");
    (typed ? field : mark ?? document.querySelector("[data-cut] .flag-mark") ?? byId("add-cut"))?.focus({ preventScroll: true });
    if (typed) field?.select();
  }

  // -- by hand
  let drag = null;
  const placeOf = (element) => [...bench.flags.querySelectorAll("[data-cut]")].indexOf(element.closest("[data-cut]"));

  document.addEventListener("pointerdown", (event) => {
    const mark = event.target.closest?.("[data-cut] .flag-mark");
    if (!mark || !bench || event.button) return;
    clearTimeout(timer);
    mark.setPointerCapture(event.pointerId);
    mark.focus();
    drag = { mark, place: placeOf(mark), from: bench.cuts[placeOf(mark)], top: event.clientY, x: event.clientX, off: false };
    event.preventDefault();
  });
  let frame = 0;
  document.addEventListener("pointermove", (event) => {
    if (!drag || !bench?.line) return;
    drag.at = { x: event.clientX, y: event.clientY };
    if (!frame) frame = requestAnimationFrame(follow);
  });
  function follow() {
    frame = 0;
    if (!drag?.at) return;
    const box = bench.plot.getBoundingClientRect();
    drag.off = drag.at.y < box.top - 100 - OFF || drag.at.y > box.bottom + OFF + 90;
    drag.mark.closest("[data-cut]").classList.toggle("off", drag.off);
    const value = bench.axis.value(Math.min(1, Math.max(0, (drag.at.x - box.left) / box.width)));
    bench.set(drag.place, rounded(value, bench.dates ? 1 : pixelStep(value, box.width)));
  }
  // The round step that one pixel is worth.
  function pixelStep(value, width) {
    const share = bench.axis.share(value);
    const span = Math.abs(bench.axis.value(Math.min(1, share + 1 / width)) - bench.axis.value(Math.max(0, share - 1 / width)));
    return Math.max(bench.finest, nice(1.4 * span));
  }
  function letGo(event) {
    if (!drag) return;
    const { place, from, off } = drag;
    if (drag.at) follow();
    drag = null;
    if (event.type === "pointercancel") {
      bench.cuts[place] = from;
      bench.draw();
    } else if (off) bench.remove(place);
    else if (bench.cuts[place] !== from) keep(bench.cuts, place, bench);
    else { around(place); if (waiting) send(); }
  }
  document.addEventListener("pointerup", letGo);
  document.addEventListener("pointercancel", letGo);

  document.addEventListener("dblclick", (event) => {
    const plot = event.target.closest?.("[data-plot]");
    if (!plot || !bench || !canAdd()) return;
    const box = plot.getBoundingClientRect();
    const value = bench.axis.value((event.clientX - box.left) / box.width);
    bench.add(rounded(value, bench.dates ? 1 : pixelStep(value, box.width / 4)));
  });

  // -- by keys
  const canAdd = () => Boolean(byId("add-cut"));
  document.addEventListener("keydown", (event) => {
    const mark = event.target.closest?.("[data-cut] .flag-mark");
    if (mark && bench?.line) {
      const place = placeOf(mark), cut = float(bench.cuts[place]);
      const way = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
      if (way) {
        event.preventDefault();
        const step = bench.step(cut) * (event.shiftKey ? 10 : 1);
        if (bench.set(place, rounded(cut + way * step, Math.min(step, bench.step(cut + way * step))))) keepSoon(bench.cuts, place, bench);
      } else if (event.key === "Delete" || event.key === "Backspace") {
        event.preventDefault();
        clearTimeout(timer);
        bench.remove(place);
      }
    }
    if (event.key === "c" && bench && canAdd() && !event.ctrlKey && !event.metaKey && !event.altKey && !event.target.matches("input, select, textarea")) {
      event.preventDefault();
      bench.add(bench.best(), true);
    }
  });
  document.addEventListener("click", (event) => {
    if (event.target.closest?.("[data-add-cut]") && bench) bench.add(bench.best(), true);
  });
  // A figure typed beside a flag is sent by Enter, or on leaving it.
  document.addEventListener("change", (event) => {
    if (event.target.matches?.("[data-cut] input")) {
      const texts = [...bench.flags.querySelectorAll("[data-cut] input")].map((input) => input.value);
      waiting = { cuts: texts, at: event.target.value, typed: false };
      send();
    }
  });
  document.addEventListener("submit", (event) => {
    if (event.target.matches?.("[data-cuts]")) {
      event.preventDefault();
      event.stopPropagation();
      document.activeElement?.blur?.();
    }
  }, true);

  // -- the neighbours of the cut in hand
  async function around(place) {
    if (place < 0 || !byId("around")) return;
    const address = new URL(location);
    address.searchParams.set("at", bench.typed(bench.cuts[place]));
    const answer = await tool.ask(address, { headers: { "HX-Request": "true" } });
    if (!answer?.ok || drag || sending || waiting) return;
    const page = new DOMParser().parseFromString(await answer.text(), "text/html");
    const fresh = page.getElementById("around");
    if (fresh) byId("around")?.replaceChildren(...fresh.childNodes);
    const boundary = page.querySelector(".boundary");
    if (boundary) {
      document.querySelector(".boundary")?.replaceWith(boundary);
      htmx.process(document.querySelector(".boundary"));
    }
    bench.flags.querySelectorAll("[data-cut]").forEach((item, other) => item.classList.toggle("near", other === place));
  }
  document.addEventListener("focusin", (event) => {
    const mark = event.target.closest?.("[data-cut] .flag-mark");
    const place = mark && bench ? placeOf(mark) : -1;
    if (place >= 0 && !drag && !mark.closest("[data-cut]").classList.contains("near")) around(place);
  });

  globalThis.rangeBench = { now: () => bench, pixelStep };

  function prepare() {
    const root = byId("range-bench");
    if (!root) bench = null;
    else if (bench?.root !== root) bench = new Bench(root);
  }
  document.addEventListener("DOMContentLoaded", prepare);
  document.addEventListener("htmx:afterSettle", prepare);
})();
