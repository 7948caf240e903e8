// Why? A product's link dropped on the bench, from this page or from another, asks about that product.
(() => {
  const PRODUCT = /\/(?:catalogue\/products|shop\/p)\/(.+?)\/?(?:[?#]|$)/;
  const asked = (event) => event.target.closest?.("#page") && document.querySelector("[data-why]");
  const isLink = (event) => event.dataTransfer?.types.includes("text/uri-list");
  const mark = (on) => document.querySelector("[data-why]")?.classList.toggle("over", on);

  document.addEventListener("dragover", (event) => {
    if (!asked(event) || !isLink(event)) return;
    event.preventDefault();
    event.dataTransfer.dropEffect = "link";
    mark(true);
  });
  document.addEventListener("dragleave", (event) => event.relatedTarget ?? mark(false));
  document.addEventListener("dragend", () => mark(false));
  document.addEventListener("drop", (event) => {
    const form = asked(event), product = isLink(event) && event.dataTransfer.getData("text/uri-list").match(PRODUCT);
    mark(false);
    if (!form || !product) return;
    event.preventDefault();
    form.querySelector("input[name=why]").value = decodeURIComponent(product[1]);
    form.requestSubmit();
  });
})();
