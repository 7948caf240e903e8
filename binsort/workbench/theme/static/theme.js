// The look of the facets: beside each colour written as a text a field that picks one; a colour that can be read is taken by its button.
(() => {
  const dress = () => {
    for (const text of document.querySelectorAll("#theme-form input[data-colour]:not([data-dressed])")) {
      text.dataset.dressed = "yes";
      const picker = Object.assign(document.createElement("input"), { type: "color", value: text.value || text.dataset.colour });
      picker.setAttribute("aria-label", text.labels[0].textContent.trim());
      picker.addEventListener("change", (event) => {
        event.stopPropagation();
        write(text, picker.value);
      });
      text.after(picker);
    }
  };
  const write = (text, colour) => {
    text.value = colour;
    text.dispatchEvent(new Event("change", { bubbles: true }));
  };
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("[data-takes]");
    if (button) write(document.getElementById(`id_${button.dataset.takes}`), button.dataset.colour);
  });
  document.addEventListener("DOMContentLoaded", dress);
  document.addEventListener("htmx:afterSettle", dress);
})();
