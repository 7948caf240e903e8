// What all scripts of the tool share: finding, saying, warning, asking the server, and boxes that open.
const tool = {
  byId: (id) => document.getElementById(id),
  say: (text) => { tool.byId("said").textContent = text; },

  warn(text) {
    document.querySelector(".notice.went-wrong")?.remove();
    const notice = document.createElement("div");
    notice.className = "notice question went-wrong";
    notice.setAttribute("role", "alert");
    notice.textContent = text;
    document.querySelector("#page .head")?.after(notice);
  },

  // Dragging leaves style attributes behind. Copying an element with one, as swaps and drags do, is refused by the pages' policy.
  bare: () => document.querySelectorAll("#page [style]").forEach((part) => part.removeAttribute("style")),
  swap(html) {
    tool.bare();
    htmx.swap("#page", html, { swapStyle: "outerHTML" });
  },
  dragging: () => ({
    handle: ".grip",
    animation: matchMedia("(prefers-reduced-motion: reduce)").matches ? 0 : 150,
    ghostClass: "ghost",
    onChoose: tool.bare,
  }),

  // Sends a form, or names with their values; gives the answer, or null where the server cannot be reached.
  send(address, entries, headers = {}) {
    const form = entries instanceof FormData ? entries : new FormData();
    if (form !== entries) for (const [name, value] of Object.entries(entries)) form.append(name, value);
    const token = JSON.parse(document.body.getAttribute("hx-headers"))["X-CSRFToken"];
    return fetch(address, { method: "POST", body: form, headers: { "X-CSRFToken": token, ...headers } }).catch(() => null);
  },

  ask: (address, options = {}) => fetch(address, options).catch(() => null),
  text: (answer) => answer.text().catch(() => null),
  fragment: () => ({ "HX-Request": "true", "HX-Current-URL": location.href }),
};

// -- boxes that open: one at a time; a click elsewhere and Escape close them
(() => {
  const open = () => document.querySelectorAll("details.pop[open]");
  document.addEventListener("toggle", (event) => {
    if (event.target.matches?.("details.pop") && event.target.open) open().forEach((other) => { if (other !== event.target) other.open = false; });
  }, true);
  document.addEventListener("click", (event) => open().forEach((box) => { if (!box.contains(event.target)) box.open = false; }));
  document.addEventListener("keydown", (event) => {
    if (event.key === "Escape") open().forEach((box) => { box.open = false; box.querySelector("summary").focus(); });
  });
})();
