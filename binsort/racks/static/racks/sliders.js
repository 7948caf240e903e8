// Sliders of ranges, in a page or in the shadow of an element: their handles stand where the bars do, keys go from number to number of the
// catalogue. Without this file the two boxes do all of it.
const slidersIn = (root) => {
  const WAIT = 250; // keys come in bursts: one question for all of them
  const made = new WeakMap(); // by the element they are drawn in
  let asking = null;

  const numberIn = (field, otherwise) => {
    const text = field.value.trim().replace(",", ".");
    return text === "" || Number.isNaN(Number(text)) ? otherwise : Number(text);
  };

  class Slider {
    constructor(range, bar) {
      Object.assign(this, { range, bar, handles: ["from", "to"].map((end) => this.handle(end)) });
      this.kept = Object.assign(document.createElement("i"), { className: "kept" });
      bar.replaceChildren(this.kept, ...this.handles);
      bar.addEventListener("pointerdown", (event) => this.grasp(event));
    }

    handle(end) {
      const handle = Object.assign(document.createElement("i"), { className: `handle ${end === "from" ? "lower" : "upper"}`, tabIndex: 0 });
      handle.setAttribute("role", "slider");
      handle.addEventListener("keydown", (event) => this.key(event, end === "from" ? 0 : 1));
      return handle;
    }

    // What the range says by now: its axis, and what is kept of it.
    read() {
      this.anchors = JSON.parse(this.range.dataset.range);
      const [from, to] = this.boxes;
      this.values = [numberIn(from, this.low), numberIn(to, this.high)];
      this.show();
    }

    get boxes() { return this.range.querySelectorAll("input"); }
    get low() { return this.anchors[0][1]; }
    get high() { return this.anchors[this.anchors.length - 1][1]; }

    // The axis runs straight from anchor to anchor.
    between(from, to, here) {
      const next = Math.max(1, this.anchors.findIndex((anchor) => anchor[from] >= here));
      const [before, after] = [this.anchors[next - 1], this.anchors[next]];
      const part = after[from] === before[from] ? 1 : (here - before[from]) / (after[from] - before[from]);
      return before[to] + part * (after[to] - before[to]);
    }

    placeOf(value) { return this.between(1, 0, Math.min(this.high, Math.max(this.low, value))); }
    valueAt(place) { return this.between(0, 1, Math.min(100, Math.max(0, place))); }

    show() {
      const { prefix, suffix, label } = this.range.dataset;
      const say = (value) => `${prefix}${this.written(value)}${suffix ? ` ${suffix}` : ""}`;
      const places = this.values.map((value) => this.placeOf(value));
      this.handles.forEach((handle, at) => {
        const value = Math.min(this.high, Math.max(this.low, this.values[at]));
        handle.style.left = `${places[at]}%`;
        handle.style.zIndex = at === 0 && places[0] > 50 ? 2 : 1; // the one that can still be moved lies above
        const said = {
          label: `${label}, ${at ? "to" : "from"}`, valuemin: this.low, valuemax: this.high, valuenow: value,
          valuetext: say(value),
        };
        for (const [name, text] of Object.entries(said)) handle.setAttribute(`aria-${name}`, text);
      });
      const bar = this.bar; // handles that would lie on each other stand side by side: both can be seen and taken
      bar.classList.toggle("met", ((places[1] - places[0]) * bar.clientWidth) / 100 < this.handles[0].offsetWidth);
      Object.assign(this.kept.style, { left: `${places[0]}%`, right: `${100 - places[1]}%` });
      // The part that is kept falls from its cuts on the axis to the two boxes below.
      this.range.querySelector(".fall polygon")?.setAttribute("points", `${places[0]},0 ${places[1]},0 100,14 0,14`);
    }

    // A number as the facet writes it: decimals, decimal sign, what stands between thousands.
    written(value, grouped = true) {
      const [decimals, point, group] = (this.range.dataset.signs || "|.|").split("|");
      const [whole, part] = Math.abs(value).toFixed(decimals === "" ? 2 : Number(decimals)).split(".");
      const rest = decimals === "" ? (part ?? "").replace(/0+$/, "") : part;
      const parted = grouped ? whole.replace(/\B(?=(\d{3})+$)/g, group) : whole;
      return `${value < 0 ? "-" : ""}${parted}${rest ? point + rest : ""}`;
    }

    get step() { return Number(this.range.dataset.step) || 0; }

    move(at, value, rounded) {
      const [least, most] = at ? [this.values[0], this.high] : [this.low, this.values[1]];
      this.values[at] = Math.min(most, Math.max(least, value));
      const [from, to] = this.boxes;
      from.value = this.values[0] <= this.low ? "" : this.written(rounded(this.values[0]), false);
      to.value = this.values[1] >= this.high ? "" : this.written(rounded(this.values[1]), false);
      this.show();
    }

    stepped(value) {
      if (this.step > 0) return Number((Math.round(value / this.step) * this.step).toFixed(6));
      const span = this.high - this.low;
      return Number(value.toFixed(span > 50 ? 0 : span > 5 ? 1 : 2));
    }

    ask(wait) {
      clearTimeout(asking);
      asking = setTimeout(() => this.boxes[0].dispatchEvent(new Event("change", { bubbles: true })), wait);
    }

    grasp(event) {
      if (event.button) return;
      event.preventDefault();
      const placeOf = (moved) => {
        const box = this.bar.getBoundingClientRect();
        return (100 * (moved.clientX - box.left)) / box.width;
      };
      const touched = this.handles.indexOf(event.target.closest(".handle"));
      const far = this.values.map((value) => Math.abs(this.placeOf(value) - placeOf(event)));
      const at = touched >= 0 ? touched : far[1] < far[0] ? 1 : 0;
      const offset = touched >= 0 ? this.placeOf(this.values[at]) - placeOf(event) : 0; // a handle is held where it was taken
      const before = [...this.values].join();
      const follow = (moved) => this.move(at, this.valueAt(placeOf(moved) + offset), (value) => this.stepped(value));
      const held = new AbortController();
      const over = () => {
        held.abort();
        this.bar.classList.remove("in-hand");
        if (this.values.join() !== before) this.ask(0);
      };
      this.bar.classList.add("in-hand");
      this.bar.setPointerCapture(event.pointerId);
      this.handles[at].focus({ preventScroll: true });
      this.bar.addEventListener("pointermove", follow, { signal: held.signal });
      for (const end of ["pointerup", "pointercancel"]) this.bar.addEventListener(end, over, { signal: held.signal });
      if (touched < 0) follow(event);
    }

    key(event, at) {
      const next = this.step > 0
        ? stepTo(this.step, [this.low, this.high], this.values[at], event.key)
        : goal(JSON.parse(this.range.dataset.stops || "[]"), this.values[at], event.key);
      if (next === null) return;
      event.preventDefault();
      this.move(at, next, (value) => Number(value.toFixed(6)));
      this.ask(WAIT);
    }
  }

  // Where a key leads in steps: to the next multiple, ten of them on, or an end.
  function stepTo(step, [low, high], value, key) {
    const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[key];
    if (key === "Home") return low;
    if (key === "End") return high;
    if (!by) return null;
    const at = value / step;
    const near = 1e-9 * Math.max(1, Math.abs(at));
    const from = by > 0 ? Math.floor(at + near) : Math.ceil(at - near);
    return Math.min(high, Math.max(low, Number(((from + by) * step).toFixed(6))));
  }

  // Where a key leads from a number: the next one of the catalogue, a tenth of them on, or an end.
  function goal(stops, value, key) {
    const page = Math.max(1, Math.round(stops.length / 10));
    const steps = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: page, PageDown: -page }[key];
    if (!stops.length) return null;
    if (key === "Home") return stops[0];
    if (key === "End") return stops[stops.length - 1];
    if (!steps) return null;
    const near = 1e-9 * Math.max(1, Math.abs(value));
    const above = stops.findIndex((stop) => stop > value + near);
    const at = above < 0 ? stops.length : above;
    const isOn = at > 0 && Math.abs(stops[at - 1] - value) <= near;
    const place = steps > 0 ? at + steps - 1 : (isOn ? at - 1 : at) + steps;
    return stops[Math.min(stops.length - 1, Math.max(0, place))];
  }

  function dress(range) {
    const bar = range.querySelector(".slider");
    const anchors = JSON.parse(range.dataset.range || "[]");
    if (!bar || anchors.length < 2 || !(anchors[anchors.length - 1][1] > anchors[0][1])) return;
    if (!bar.firstChild) made.set(bar, new Slider(range, bar));
    if (!bar.classList.contains("in-hand")) made.get(bar).read();
  }

  return () => root.querySelectorAll("[data-range]").forEach(dress);
};
