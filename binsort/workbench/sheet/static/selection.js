// Selecting products of the sheet, what a change of many would do, and the heads that follow each change.
(() => {
  const { byId } = tool;
  const ticks = () => [...document.querySelectorAll("input[name=product]")];
  let previewing = null;
  const products = (count) => `${count.toLocaleString("en-GB")} product${count === 1 ? "" : "s"}`;
  const doing = (count) => `${{ set: "Set on", empty: "Empty it on" }[byId("bulk").way.value] ?? "Change"} ${products(count)}`;
  function selected() {
    const bar = byId("bulk");
    if (!bar) return;
    const every = byId("bulk-every").value === "1";
    const count = every ? Number(bar.dataset.total) : ticks().filter((box) => box.checked).length;
    ticks().forEach((box) => box.closest("tr").classList.toggle("selected", box.checked));
    bar.classList.toggle("shown", count > 0);
    byId("bulk-count").textContent = `${products(count)} selected`;
    if (byId("hidden-stay")) byId("hidden-stay").hidden = !every;
    const all = byId("select-page");
    if (all) { all.checked = count > 0 && ticks().every((box) => box.checked); all.indeterminate = count > 0 && !all.checked; }
    byId("bulk-do").textContent = doing(count);
    byId("bulk-do").disabled = bar.way.value !== "empty" && !bar.text.value.trim();
    const chosen = bar.field.selectedOptions[0];
    byId("bulk-unit").textContent = chosen?.dataset.unit ?? "";
    bar.querySelectorAll(".when-replace").forEach((part) => { part.hidden = bar.way.value !== "replace"; });
    bar.querySelectorAll(".when-valued").forEach((part) => { part.hidden = bar.way.value === "empty"; });
    clearTimeout(previewing);
    previewing = setTimeout(preview, 180);
  }
  async function preview() {
    const bar = byId("bulk");
    if (!bar?.classList.contains("shown")) return;
    const form = new FormData(bar);
    form.append("preview", "1");
    const answer = await tool.send(bar.dataset.preview, form);
    if (answer?.ok && byId("effect")) {
      byId("effect").innerHTML = await answer.text();
      const changes = byId("effect").querySelector("[data-changes]")?.dataset.changes;
      byId("bulk-do").disabled = !Number(changes ?? 0);
      if (changes) byId("bulk-do").textContent = doing(Number(changes));
    }
  }
  async function knownValues() {
    const bar = byId("bulk"), first = ticks()[0];
    if (!bar || !first) return;
    const answer = await tool.ask(`${sheet.table().dataset.suggest}?${new URLSearchParams({ product: first.value, field: bar.field.value, typed: "" })}`);
    if (!answer?.ok) return;
    const holder = document.createElement("div");
    holder.innerHTML = await answer.text();
    byId("bulk-values").replaceChildren(...[...holder.querySelectorAll("li")].map((item) => new Option(item.dataset.text, item.dataset.text)));
  }
  // The bar takes the column that was worked in, until another is chosen in it.
  let byHand = false;
  document.addEventListener("focusin", (event) => {
    const cell = event.target.closest?.("td.cell"), bar = byId("bulk");
    if (!cell || !bar || byHand || ![...bar.field.options].some((option) => option.value === cell.dataset.field)) return;
    bar.field.value = cell.dataset.field;
    byId("bulk-values").replaceChildren();
    if (bar.classList.contains("shown")) selected();
  });
  document.addEventListener("change", (event) => { if (event.target.name === "field" && event.target.closest("#bulk")) byHand = true; });
  let last = null;
  document.addEventListener("click", (event) => {
    const box = event.target;
    if (box.matches?.("input[name=product]")) {
      if (event.shiftKey && last) {
        const all = ticks(), [from, to] = [all.indexOf(last), all.indexOf(box)].sort((one, other) => one - other);
        all.slice(from, to + 1).forEach((other) => { other.checked = box.checked; });
      }
      last = box;
      byId("bulk-every").value = "";
      selected();
    } else if (box.id === "select-page") {
      ticks().forEach((other) => { other.checked = box.checked; });
      byId("bulk-every").value = "";
      selected();
    } else if (box.id === "select-every" || box.id === "select-none") {
      ticks().forEach((other) => { other.checked = box.id === "select-every"; });
      byId("bulk-every").value = box.id === "select-every" ? "1" : "";
      selected();
    }
  });
  document.addEventListener("input", (event) => {
    if (event.target.closest("#bulk")) selected();
    if (event.target.name === "field" && event.target.closest("#bulk")) knownValues();
  });
  document.addEventListener("submit", (event) => {
    const bar = byId("bulk");
    if (event.target !== bar) return;
    const count = byId("bulk-count").textContent.replace(" selected", "");
    const stay = byId("bulk-every").value && Number(bar.dataset.hidden) ? ` ${products(Number(bar.dataset.hidden))} hidden from shoppers stay; they are under Hidden products.` : "";
    if (event.submitter?.id === "bulk-delete") {
      if (!confirm(`Delete ${count}? Undo brings them back.${stay}`)) event.preventDefault();
    } else if (bar.way.value === "empty") {
      const label = bar.field.selectedOptions[0]?.text ?? "";
      if (!confirm(`Empty ${label} of ${count}? Undo brings the values back.`)) event.preventDefault();
    }
  });
  document.addEventListener("focusin", (event) => { if (event.target.closest?.("#bulk") && !byId("bulk-values").children.length) knownValues(); });

  // -- coverage follows
  let waiting = null;
  function refreshHead() {
    clearTimeout(waiting);
    waiting = setTimeout(async () => {
      const answer = await tool.ask(sheet.table().dataset.head + location.search, { headers: tool.fragment() });
      if (!answer?.ok || !sheet.table()) return;
      const holder = document.createElement("template");
      holder.innerHTML = `<table>${(await answer.text()).replace(/<div id="catalogue-undo"[\s\S]*<\/form>\s*<\/div>/, (part) => { byId("catalogue-undo").outerHTML = part; return ""; })}</table>`;
      byId("sheet-head").replaceWith(holder.content.querySelector("thead"));
      htmx.process(byId("sheet-head"));
      selected();
    }, 250);
  }

  document.addEventListener("DOMContentLoaded", selected);
  document.addEventListener("htmx:afterSettle", selected);

  sheet.selected = selected;
  sheet.refreshHead = refreshHead;
})();
