// Pointing at the number in a text: besides a click, a drag over it.
(() => {
  const LEAST = 4; // pixels, below which it is a click
  let from = null, band = null;
  document.addEventListener("pointerdown", (event) => {
    const text = event.target.closest?.("[data-pointing]");
    if (text && event.button === 0) from = { text, x: event.clientX, target: event.target };
  });
  document.addEventListener("pointermove", (event) => {
    if (!from || Math.abs(event.clientX - from.x) < LEAST) return;
    event.preventDefault();
    if (!band) {
      band = document.createElement("span");
      band.className = "dragged";
      from.text.append(band);
    }
    const left = from.text.getBoundingClientRect().left, ends = [from.x, event.clientX].map((x) => x - left);
    band.style.left = `${Math.min(...ends)}px`;
    band.style.width = `${Math.abs(ends[1] - ends[0])}px`;
  });
  document.addEventListener("pointerup", (event) => {
    if (!from) return;
    const { text, x, target } = from, ends = [x, event.clientX].sort((one, other) => one - other);
    band?.remove();
    [from, band] = [null, null];
    if (ends[1] - ends[0] < LEAST) return;
    const covered = (button) => { const box = button.getBoundingClientRect(); return Math.min(ends[1], box.right) - Math.max(ends[0], box.left); };
    const numbers = [...text.querySelectorAll("button")].filter((button) => covered(button) > 0);
    if (!numbers.length) return;
    const most = numbers.reduce((best, one) => (covered(one) > covered(best) ? one : best));
    if (target !== event.target || target !== most) most.click();
  });
  document.addEventListener("dragstart", (event) => event.target.closest?.("[data-pointing]") && event.preventDefault());
})();
