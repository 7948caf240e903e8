// Facets in a page of htmx.
(() => {
  const SHAPES = "form[data-facets]";
  const facets = facetsIn(document);

  // Addresses stay short: what is empty is not sent.
  document.addEventListener("htmx:configRequest", (event) => {
    if (!event.target.matches?.(SHAPES)) return;
    const { parameters } = event.detail;
    for (const name of Object.keys(parameters)) if (parameters[name] === "") delete parameters[name];
  });
  document.addEventListener("submit", (event) => {
    if (!event.target.matches(SHAPES)) return;
    for (const field of event.target.querySelectorAll("input, select")) if (field.value === "") field.disabled = true;
  });

  document.addEventListener("htmx:beforeSwap", ({ detail: { target } }) => {
    if (target.querySelector("[data-facets]") || target.matches("[data-facets]")) facets.keep();
  });
  document.addEventListener("htmx:afterSwap", facets.restore);
  document.addEventListener("htmx:afterSettle", facets.dress);
  document.addEventListener("DOMContentLoaded", facets.dress);
})();
