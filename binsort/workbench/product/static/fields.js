// The fields of a product: known values hang from the one that is typed into, several values are chips. Without this file they are texts
// in which a bar parts the values.
(() => {
  const WAIT = 150;
  const form = () => document.getElementById("product-form");
  const fields = new WeakMap(); // by the field that is sent
  const parted = (text) => text.split("|").map((part) => part.trim()).filter(Boolean);
  let turn = 0, waiting = null;

  class Field {
    constructor(sent) {
      this.sent = sent;
      this.typed = sent;
      if ("many" in sent.dataset) this.chips();
      const typed = this.typed;
      for (const [name, value] of Object.entries({ role: "combobox", "aria-expanded": "false", "aria-autocomplete": "list" })) typed.setAttribute(name, value);
      typed.addEventListener("input", () => {
        this.close(); // what hangs there is of other letters
        waiting = setTimeout(() => this.suggest(), WAIT);
      });
      typed.addEventListener("focus", () => this.suggest());
      typed.addEventListener("keydown", (event) => this.key(event));
      typed.addEventListener("blur", () => { this.close(); if (this.holder) this.add(typed.value, false); });
    }

    // -- several values
    chips() {
      const { sent } = this;
      this.values = parted(sent.value);
      this.holder = Object.assign(document.createElement("div"), { className: "chip-field" });
      this.typed = Object.assign(document.createElement("input"), { autocomplete: "off", dir: "auto", id: sent.id });
      if (!sent.id) this.typed.setAttribute("aria-label", sent.getAttribute("aria-label"));
      this.typed.setAttribute("aria-describedby", sent.getAttribute("aria-describedby") ?? "");
      sent.removeAttribute("id");
      sent.type = "hidden";
      sent.before(this.holder);
      this.holder.append(this.typed);
      this.holder.addEventListener("click", (event) => {
        const chip = event.target.closest("[data-part]");
        if (chip) this.take(Number(chip.dataset.part));
        else this.typed.focus();
      });
      this.draw();
    }

    draw() {
      this.holder.querySelectorAll("[data-part]").forEach((chip) => chip.remove());
      this.typed.before(...this.values.map((text, at) => {
        const chip = Object.assign(document.createElement("button"), { type: "button", className: "one-value", title: text });
        chip.dataset.part = at;
        chip.setAttribute("aria-label", `${text}: take away`);
        chip.append(Object.assign(document.createElement("span"), { textContent: text, dir: "auto" }), Object.assign(document.createElement("i"), { textContent: "×" }));
        return chip;
      }));
      this.sent.value = this.values.join(" | ");
      this.holder.classList.toggle("lacks", !this.values.length);
    }

    add(text, stays = true) {
      for (const part of parted(text)) if (!this.values.includes(part)) this.values.push(part);
      this.typed.value = "";
      this.draw();
      if (stays) this.suggest();
    }

    take(at) {
      const [gone] = this.values.splice(at, 1);
      tool.say(`${gone} taken away.`);
      this.draw();
      this.typed.focus();
    }

    set(old, text) {
      if (!this.holder) { if (this.sent.value.trim() === old) this.sent.value = text; return; }
      this.values = [...new Set(this.values.map((one) => (one === old ? text : one)))];
      this.draw();
    }

    // -- suggestions
    async suggest() {
      const mine = ++turn;
      const isTyped = this.holder || this.typed.value !== this.typed.defaultValue;
      const query = new URLSearchParams({ product: form().dataset.product, field: this.sent.dataset.field, typed: isTyped ? this.typed.value : "" });
      const answer = await tool.ask(`${form().dataset.suggest}?${query}`);
      const found = answer?.ok ? await tool.text(answer) : null;
      if (found === null || mine !== turn || document.activeElement !== this.typed) return;
      this.list ??= this.hung();
      this.list.innerHTML = found;
      this.list.querySelector(".edit-keys")?.remove();
      for (const item of this.items) if (this.values?.includes(item.dataset.text) || (!this.holder && item.dataset.text === this.sent.value)) item.remove();
      this.list.hidden = !this.items.length;
      this.at = -1;
      this.typed.setAttribute("aria-expanded", String(!this.list.hidden));
    }

    hung() {
      const list = Object.assign(document.createElement("div"), { className: "hanging of-field", id: `hang-${Math.random().toString(36).slice(2)}` });
      list.addEventListener("mousedown", (event) => {
        event.preventDefault();
        const item = event.target.closest("li");
        if (item) this.choose(item.dataset.text);
      });
      (this.holder ?? this.typed).after(list);
      this.typed.setAttribute("aria-controls", list.id);
      return list;
    }

    get items() { return this.list ? [...this.list.querySelectorAll("li")] : []; }

    choose(text) {
      if (this.holder) { this.add(text); return; }
      this.typed.value = text;
      this.close();
    }

    close() {
      turn += 1;
      clearTimeout(waiting);
      if (this.list) this.list.hidden = true;
      this.at = -1;
      this.typed.setAttribute("aria-expanded", "false");
      this.typed.removeAttribute("aria-activedescendant");
    }

    key(event) {
      const items = this.list?.hidden === false ? this.items : [];
      if (["ArrowDown", "ArrowUp"].includes(event.key) && items.length) {
        event.preventDefault();
        this.at = (this.at + (event.key === "ArrowDown" ? 1 : -1) + items.length + (this.at < 0 && event.key === "ArrowUp" ? 1 : 0)) % items.length;
        items.forEach((item, at) => item.setAttribute("aria-selected", String(at === this.at)));
        this.typed.setAttribute("aria-activedescendant", items[this.at].id);
      } else if (event.key === "Enter" && items[this.at]) {
        event.preventDefault();
        this.choose(items[this.at].dataset.text);
      } else if (event.key === "Enter" && this.holder && this.typed.value.trim()) {
        event.preventDefault();
        this.add(this.typed.value);
      } else if (event.key === "Backspace" && this.holder && !this.typed.value && this.values.length) this.take(this.values.length - 1);
      else if (event.key === "Escape") this.close();
    }
  }

  document.addEventListener("DOMContentLoaded", () => {
    form()?.querySelectorAll("input[data-field]").forEach((sent) => fields.set(sent, new Field(sent)));
    form()?.addEventListener("submit", () => form().querySelectorAll("input[data-many]").forEach((sent) => fields.get(sent)?.add(fields.get(sent).typed.value, false)));
  });
  document.addEventListener("click", (event) => {
    const button = event.target.closest?.("[data-instead]");
    if (!button) return;
    const { instead, of, typed } = button.dataset;
    form().querySelectorAll(`input[data-field="${CSS.escape(of)}"]`).forEach((sent) => fields.get(sent)?.set(typed, instead));
    button.closest("p").remove();
    if (!document.querySelector("#new-values p")) document.getElementById("new-values").remove();
    tool.say(`${instead} in place of ${typed}.`);
    form().querySelector(".save-bar button").focus();
  });
})();
