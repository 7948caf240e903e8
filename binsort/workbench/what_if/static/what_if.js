// What if, of many products: what takes its time is asked for beside the page, and can be stopped.
"use strict";

document.addEventListener("click", (event) => {
  const helps = event.target.closest("[data-stop-looking]")?.closest("#helps");
  if (helps) htmx.trigger(helps.querySelector("[hx-get]"), "htmx:abort");
  if (event.target.closest("[data-stop]")) htmx.trigger(document.querySelector("[data-waits]"), "htmx:abort");
});
