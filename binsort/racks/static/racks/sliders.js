// Sliders of ranges: their handles stand where the bars do, keys go from number to number of the catalogue.
// Without this file the two boxes do all of it.
(() => {
  const WAIT = 250; // keys come in bursts: one question for all of them
  let asking = null;

  const plain = (value, span) => {
    const places = span > 50 ? 0 : span > 5 ? 1 : 2;
    return Number(value.toFixed(places));
  };
  const numberIn = (field, otherwise) => (field.value.trim() === "" || Number.isNaN(Number(field.value)) ? otherwise : Number(field.value));

  function dress(range) {
    const bar = range.querySelector(".slider");
    if (!bar || !range.dataset.range) return;
    const anchors = JSON.parse(range.dataset.range);
    const low = anchors[0][1];
    const high = anchors[anchors.length - 1][1];
    if (!(high > low)) return;
    const [from, to] = range.querySelectorAll("input");
    const spread = Object.fromEntries(
      anchors.map(([at, value], place) => [place === 0 ? "min" : place === anchors.length - 1 ? "max" : `${at}%`, value]),
    );
    const start = [numberIn(from, low), numberIn(to, high)];
    if (bar.noUiSlider) {
      if (!bar.classList.contains("in-hand")) bar.noUiSlider.updateOptions({ range: spread, start }, false);
      return;
    }
    make(range, bar, { spread, start });
  }

  function make(range, bar, { spread, start }) {
    const { prefix, suffix, label } = range.dataset;
    const say = { to: (value) => `${prefix}${Number(value.toFixed(2))}${suffix ? ` ${suffix}` : ""}` };
    noUiSlider.create(bar, {
      range: spread,
      start,
      connect: true,
      keyboardSupport: false,
      ariaFormat: say,
      handleAttributes: [{ "aria-label": `${label}, from` }, { "aria-label": `${label}, to` }],
    });
    const slider = bar.noUiSlider;
    const boxes = () => range.querySelectorAll("input");
    const ends = () => [slider.options.range.min, slider.options.range.max].map((end) => (Array.isArray(end) ? end[0] : end));
    const stepped = (value) => {
      const step = Number(range.dataset.step);
      const [low, high] = ends();
      return step > 0 ? Math.round(value / step) * step : plain(value, high - low);
    };
    const write = ([first, last], rounded) => {
      const [low, high] = ends();
      const [from, to] = boxes();
      from.value = first <= low ? "" : rounded(first);
      to.value = last >= high ? "" : rounded(last);
    };
    const ask = (wait) => {
      clearTimeout(asking);
      asking = setTimeout(() => boxes()[0].dispatchEvent(new Event("change", { bubbles: true })), wait);
    };
    slider.on("start", () => bar.classList.add("in-hand"));
    slider.on("end", () => bar.classList.remove("in-hand"));
    slider.on("slide", (_, __, values) => write(values, stepped));
    slider.on("change", (_, __, values) => {
      write(values, stepped);
      ask(0);
    });
    slider.on("update", () => fall(range, slider.getPositions()));
    bar.querySelectorAll(".noUi-handle").forEach((handle, place) => {
      handle.tabIndex = 0; // the library's own keys go by hundredths of the axis
      handle.addEventListener("keydown", (event) => {
        const next = goal(JSON.parse(range.dataset.stops || "[]"), slider.get(true)[place], event.key);
        if (next === null) return;
        event.preventDefault();
        slider.setHandle(place, next, false, true);
        write(slider.get(true), (value) => Number(value.toFixed(6)));
        ask(WAIT);
      });
    });
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

  // The part that is kept falls from its cuts on the axis to the two boxes below.
  function fall(range, [left, right]) {
    range.querySelector(".fall polygon")?.setAttribute("points", `${left},0 ${right},0 100,14 0,14`);
  }

  const prepare = () => document.querySelectorAll("[data-range]").forEach(dress);
  document.addEventListener("DOMContentLoaded", prepare);
  document.addEventListener("htmx:afterSettle", prepare);
})();
