// <bin-sort listing="NAME" rack="KEY" part="rack picks …">: parts of a listing, placed where this page wants them.
const PARTS = ["above", "rack", "apply", "picks", "count", "sort", "products", "more", "below"]; // all of them where a host names none
const OTHERS = ["search"]; // only where a host asks for it
const WITH = { rack: ["above", "rack", "apply", "below"] }; // facets stand together wherever the rack is placed
const HEAD = new Set(["search", "picks", "count", "sort"]);
const ALONE = "facet:"; // before the key of a facet that stands by itself
const TYPED = 300; // letters come in bursts
const sheet = new CSSStyleSheet();
sheet.replaceSync(STYLE);
const policy = globalThis.trustedTypes?.createPolicy("bin-sort", { createHTML: (text) => text });
const made = (tag, className, role) => {
  const part = Object.assign(document.createElement(tag), { className });
  if (role) part.setAttribute("role", role);
  return part;
};

class BinSort extends HTMLElement {
  static observedAttributes = ["listing", "part", "look", "rack"];

  connectedCallback() {
    if (!this.shadowRoot) {
      const root = this.attachShadow({ mode: "open", delegatesFocus: false });
      root.adoptedStyleSheets = [sheet];
      root.append(document.createElement("slot")); // the host's own link, until there is something to show
      this.facets = facetsIn(root);
      root.addEventListener("change", (event) => this.changed(event.target));
      root.addEventListener("click", (event) => this.clicked(event));
      root.addEventListener("input", (event) => this.typing(event.target));
    }
    this.listing = Listing.of(this.getAttribute("listing") ?? "");
    this.listing.join(this);
  }

  disconnectedCallback() {
    this.listing.leave(this);
    this.resized?.disconnect();
  }

  attributeChangedCallback(name, before, now) {
    if (!this.listing || before === now) return;
    this.frame?.remove();
    this.frame = null;
    if (name === "listing") {
      this.listing.leave(this);
      this.connectedCallback();
    } else if (name === "look" && this.listing.answer) this.draw(this.listing.answer);
    else this.listing.join(this); // other racks or facets: asked anew
  }

  // The parts that the host names here; none stands for all of them.
  get named() {
    const named = (this.getAttribute("part") ?? "").split(/\s+/);
    return named.filter((part) => PARTS.includes(part) || OTHERS.includes(part) || (part.startsWith(ALONE) && part !== ALONE));
  }

  get listed() {
    const named = this.named;
    return [...new Set((named.length ? named : PARTS).flatMap((part) => WITH[part] ?? [part]))];
  }

  get alone() { return this.listed.filter((part) => part.startsWith(ALONE)).map((part) => part.slice(ALONE.length)); }

  // The button that applies picks stands where a host puts it, else with the facets.
  get hasApply() {
    if (this.named.includes("apply")) return true;
    if ([...this.listing.elements].some((one) => one.named.includes("apply"))) return false;
    return this.listed.includes("rack") || this.alone.length > 0;
  }

  // -- drawing
  build() {
    const listed = [...new Set([...this.listed, "apply"])];
    this.frame = made("div", "frame");
    this.holders = {};
    const groups = {};
    const into = (group) => {
      if (!groups[group]) this.frame.append((groups[group] = made("div", group)));
      return groups[group];
    };
    const ends = ["above", "rack", ...listed.filter((part) => part.startsWith(ALONE)), "apply", "below"];
    const order = [...ends.slice(0, -1), ...listed.filter((part) => !ends.includes(part)), "below"];
    for (const part of order.filter((one) => listed.includes(one))) {
      const kind = part.startsWith(ALONE) ? "lone" : part;
      const holder = made("div", `part-${kind}`);
      holder.part = kind;
      this.holders[part] = holder;
      const group = HEAD.has(part) ? "head" : part === "apply" && listed.includes("rack") ? "rack" : kind;
      into(group).append(holder);
    }
    this.frame.classList.toggle("together", "rack" in this.holders && "products" in this.holders);
    this.status = made("p", "sr-only", "status");
    this.frame.append(this.status);
    this.shadowRoot.append(this.frame);
    this.resized?.disconnect();
    this.resized = new ResizeObserver(() => this.fold());
    this.resized.observe(this);
  }

  draw(answer) {
    const isFirst = !this.frame;
    if (isFirst) {
      this.build();
      this.shadowRoot.querySelector("slot")?.remove();
    }
    const typed = this.shadowRoot.activeElement?.matches("input:not([type=checkbox], [type=radio])") ? this.shadowRoot.activeElement : null;
    const text = typed && typed.value !== typed.defaultValue && this.sent !== typed.value ? typed.value : null;
    this.facets.keep();
    this.frame.dataset.look = this.getAttribute("look") ?? "theirs";
    this.frame.style.cssText = "";
    this.frame.style.setProperty("--under", groundOf(this));
    this.frame.style.setProperty("--words", getComputedStyle(this).color);
    const theme = answer.theme[this.frame.dataset.look === "shop" ? "colours" : "measures"]; // type and colours of the page are its own
    Object.entries(theme).forEach(([name, value]) => this.frame.style.setProperty(name, value));
    const waits = this.listing.waits;
    for (const [part, holder] of Object.entries(this.holders)) {
      const own = part === "rack" ? answer.parts[`rack:${this.getAttribute("rack")}`] : undefined;
      const html = part === "apply" && !(waits && this.hasApply) ? "" : own ?? answer.parts[part] ?? "";
      Idiomorph.morph(holder, this.read(html), { morphStyle: "innerHTML", callbacks: CALLBACKS });
      holder.hidden = !html;
    }
    if (isFirst) this.fold();
    if (!this.listing.held) this.settle(typed, text); // what waits for the button stays as it was chosen
    this.facets.restore();
    this.facets.dress();
    this.after(answer);
  }

  // HTML of the shop as nodes; its addresses are those of the shop, but for picks, which are kept in the address of this page.
  read(html) {
    const page = new DOMParser().parseFromString(policy ? policy.createHTML(html) : html, "text/html");
    for (const picture of page.querySelectorAll("img[src^='/']")) picture.src = HOME + picture.getAttribute("src");
    for (const link of page.querySelectorAll("a")) {
      const href = link.getAttribute("href");
      if (href.startsWith("/")) link.href = HOME + href;
      else if (link.matches("[data-drop], [data-shown]")) link.href = this.listing.address([...new URLSearchParams(href)]);
    }
    return [...page.body.childNodes];
  }

  // The controls say what was answered, but for what is being typed at this moment.
  settle(typed, text) {
    for (const field of this.shadowRoot.querySelectorAll("input:not([data-within])")) {
      if (field.matches("[type=checkbox], [type=radio]")) field.checked = field.defaultChecked;
      else field.value = field === typed && text !== null ? text : field.defaultValue;
    }
    for (const list of this.shadowRoot.querySelectorAll("select")) {
      list.selectedIndex = Math.max(0, [...list.options].findIndex((option) => option.defaultSelected));
    }
  }

  after(answer) {
    this.warned?.remove();
    if (!this.acted) return;
    const at = this.acted;
    this.acted = null;
    this.status.textContent = answer.said;
    if (this.shadowRoot.activeElement && !at.shown) return;
    const cards = this.shadowRoot.querySelectorAll(".card a");
    const next = at.shown ? cards[at.shown] : this.shadowRoot.getElementById(at.id) ?? this.shadowRoot.querySelector("a.pick, .nothing a, input:not(:disabled), .card a");
    next?.focus({ preventScroll: !at.shown });
  }

  // Beside the products the facets stand open; in a narrow place they open from one line.
  fold() {
    const rack = this.shadowRoot.querySelector(".narrow-by");
    if (!rack) return;
    const isNarrow = this.frame.classList.contains("together") && this.clientWidth < 560;
    if (this.narrow === isNarrow && rack.dataset.folded) return;
    this.narrow = isNarrow;
    rack.dataset.folded = "yes";
    rack.open = !isNarrow;
    this.frame.classList.toggle("narrow", isNarrow);
  }

  busy(is) { this.frame?.classList.toggle("busy", is); }

  warn() {
    this.warned?.remove();
    this.warned = made("div", "went-wrong", "alert");
    const again = Object.assign(made("button", "solid-button"), { type: "button", textContent: "Try again" });
    again.addEventListener("click", () => this.listing.ask(true));
    this.warned.append(made("span", ""), again);
    this.warned.firstChild.textContent = "The shop cannot be reached just now. Your picks are still here.";
    this.frame.prepend(this.warned);
  }

  // -- what a shopper does
  changed(field) {
    if (!field.name) return;
    const key = keyOf(field.name);
    this.acted = { id: field.id };
    this.sent = field.value;
    if (key === "q") { this.listing.search(field.value); return; }
    this.listing.set(key, [...this.shadowRoot.querySelectorAll("[name]")].filter((one) => keyOf(one.name) === key && !one.disabled));
  }

  // Results follow a search while it is typed where the shop has it so; else it is sent by Enter.
  typing(field) {
    clearTimeout(this.typed);
    if (field.name === "q" && field.dataset.typing === "typing") this.typed = setTimeout(() => this.changed(field), TYPED);
  }

  // How many picks wait for the button, and what it would show.
  foretold(words, count) {
    for (const part of this.shadowRoot.querySelectorAll("[data-words]")) part.textContent = words || part.textContent;
    for (const part of this.shadowRoot.querySelectorAll("[data-waiting]")) {
      part.textContent = !count ? "" : count === 1 ? part.dataset.one : part.dataset.many.replace("%", count);
    }
  }

  clicked(event) {
    if (event.target.closest?.("[data-apply]")) {
      this.acted = { id: "apply" };
      this.listing.apply();
      return;
    }
    const link = event.target.closest?.("a[data-drop], a[data-shown]");
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey || event.button) return;
    event.preventDefault();
    if (event.detail > 1) return; // the second half of a double click
    if (link.dataset.shown) {
      this.acted = { shown: this.shadowRoot.querySelectorAll(".card").length };
      this.listing.shown = Number(link.dataset.shown);
      this.listing.ask();
    } else {
      this.acted = { id: "" };
      this.listing.drop(link.dataset.drop);
    }
  }
}

// What the shopper opened and typed stays as it is.
const CALLBACKS = {
  beforeNodeMorphed: (old) => !old.matches?.(".slider"),
  beforeAttributeUpdated: (name, node) => {
    if (name === "open" || name === "data-folded") return node.tagName !== "DETAILS";
    return !(name === "value" && node.matches("[data-within]")) && name !== "style";
  },
};

// The colour that this page has under an element: lists that open over the page need one of their own.
function groundOf(element) {
  for (let node = element; node; node = node.parentElement ?? node.getRootNode().host) {
    const colour = getComputedStyle(node).backgroundColor;
    if (!/^transparent$|^rgba\(.*, ?0\)$|\/ ?0\)$/.test(colour)) return colour; // rgb(0, 0, 0) is black
  }
  return "Canvas";
}

if (!customElements.get("bin-sort")) customElements.define("bin-sort", BinSort);
