// Ranges by hand: their ends are dragged or nudged over the axis; counts follow at once, and what is let go is written into the list below.
(() => {
  const { say } = tool;
  const { compare, float, rounded } = rangeNumbers;
  const REST = 420; // milliseconds without a key after which a nudged end is kept
  let drag = null, timer = 0;
  const bench = () => rangeBench.now();
  const place = (button) => [Number(button.closest("[data-lane]").dataset.lane), Number(button.dataset.end)];

  function set(button, text) {
    const [range, end] = place(button), own = bench().hand[range], other = own[1 - end];
    if (text === own[end] || (other !== null && compare(...(end ? [other, text] : [text, other])) >= 0)) return;
    own[end] = text;
    bench().cuts = [...new Set(bench().hand.flatMap(([low, high]) => [low, high]).filter((one) => one !== null))].sort(compare);
    bench().draw();
    const [left, right] = [own[0] === null ? 0 : 100 * bench().axis.share(float(own[0])), own[1] === null ? 100 : 100 * bench().axis.share(float(own[1]))];
    const lane = button.closest("[data-lane]");
    Object.assign(lane.style, { left: `${left}%`, width: `${right - left}%` });
    const words = own[2] || bench().say(own[0], own[1], false), count = bench().line.count(...bench().slice([own[0], own[1], false]));
    lane.querySelector("b").textContent = `${words}: ${count.toLocaleString("en-GB")}`;
    button.setAttribute("aria-valuenow", bench().typed(text));
    clearTimeout(say.timer);
    say.timer = setTimeout(() => say(`${words}: ${count}`), 300);
  }
  function keep(button) {
    const [range, end] = place(button);
    const field = document.querySelectorAll(`#bin-rows [name=${end ? "to" : "from"}]`)[range];
    field.value = bench().typed(bench().hand[range][end]);
    field.dispatchEvent(new Event("change", { bubbles: true }));
  }

  document.addEventListener("pointerdown", (event) => {
    const button = event.target.closest?.("[data-lane] button");
    if (!button || event.button || !bench()?.line) return;
    button.setPointerCapture(event.pointerId);
    button.focus();
    drag = { button, from: bench().hand[place(button)[0]][place(button)[1]] };
    event.preventDefault();
  });
  let frame = 0;
  document.addEventListener("pointermove", (event) => {
    if (!drag) return;
    drag.x = event.clientX;
    frame ||= requestAnimationFrame(follow);
  });
  function follow() {
    frame = 0;
    if (drag?.x === undefined) return;
    const box = bench().plot.getBoundingClientRect();
    const value = bench().axis.value(Math.min(1, Math.max(0, (drag.x - box.left) / box.width)));
    set(drag.button, rounded(value, bench().dates ? 1 : rangeBench.pixelStep(value, box.width)));
  }
  function letGo(event) {
    if (!drag) return;
    follow();
    const { button, from } = drag, [range, end] = place(button);
    drag = null;
    if (event.type === "pointercancel") set(button, from);
    else if (bench().hand[range][end] !== from) keep(button);
  }
  document.addEventListener("pointerup", letGo);
  document.addEventListener("pointercancel", letGo);

  document.addEventListener("keydown", (event) => {
    const button = event.target.closest?.("[data-lane] button");
    const way = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1 }[event.key];
    if (!button || !way || !bench()?.line) return;
    event.preventDefault();
    const [range, end] = place(button), now = float(bench().hand[range][end]);
    const step = bench().step(now) * (event.shiftKey ? 10 : 1);
    set(button, rounded(now + way * step, Math.min(step, bench().step(now + way * step))));
    clearTimeout(timer);
    timer = setTimeout(() => keep(button), REST);
  });
})();
