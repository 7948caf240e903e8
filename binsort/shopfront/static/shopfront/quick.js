// A quick look: where the shop has it so a product opens over the listing; its own page is one link away. Without this file, in another tab,
// or where it cannot be fetched, its page opens.
(() => {
  let asked = null;

  function box() {
    let dialog = document.getElementById("quick");
    if (dialog) return dialog;
    dialog = Object.assign(document.createElement("dialog"), { id: "quick", className: "quick" });
    dialog.setAttribute("aria-labelledby", "quick-name");
    dialog.addEventListener("click", (event) => { if (event.target === dialog || event.target.closest("[data-shut]")) dialog.close(); });
    dialog.addEventListener("close", () => { asked?.abort(); dialog.replaceChildren(); });
    document.body.append(dialog);
    return dialog;
  }

  async function look(address) {
    asked?.abort();
    const turn = (asked = new AbortController());
    try {
      const answer = await fetch(address, { signal: turn.signal });
      const page = new DOMParser().parseFromString(await answer.text(), "text/html");
      const product = answer.ok && page.querySelector("article.product");
      if (!product || asked !== turn) throw new Error("no product");
      show(product, address);
    } catch (error) {
      if (error.name !== "AbortError") location.href = address;
    }
  }

  function show(product, address) {
    const dialog = box();
    product.querySelectorAll(".trail, .basket, input[name=panel]").forEach((part) => part.remove());
    product.removeAttribute("id");
    product.querySelector("h1").id = "quick-name";
    const shut = Object.assign(document.createElement("button"), { type: "button", className: "quick-shut", textContent: "×" });
    shut.dataset.shut = "";
    shut.setAttribute("aria-label", "Close");
    const whole = Object.assign(document.createElement("a"), { className: "plain-link", href: address, textContent: "Open its page" });
    product.querySelector(".about").append(whole);
    dialog.replaceChildren(shut, document.adoptNode(product));
    if (!dialog.open) dialog.showModal();
    htmx.process(dialog);
  }

  document.addEventListener("click", (event) => {
    if (event.ctrlKey || event.metaKey || event.shiftKey || event.button || event.defaultPrevented) return;
    const put = event.target.closest("#quick button[name=add]");
    if (put) { setTimeout(() => document.getElementById("quick").close(), 0); return; } // what is put in is said on the page
    const link = event.target.closest("[data-opens=quick] .card > a, [data-opens=quick] a.put, #quick .pictures a, #quick .articles a");
    if (!link) return;
    event.preventDefault();
    if (event.detail < 2) look(link.href);
  });
})();
