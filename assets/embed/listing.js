// A listing of the shop on this page, whichever elements show its parts: what is picked, one question at a time, the newest answer wins.
const HOME = new URL(import.meta.url).origin;
const WAIT = { busy: 300, gone: 30_000 };
const keyOf = (name) => name.replace(/\.(from|to)$/, "");
const AGAIN = new Set([429, 503]); // too often, or not ready yet: they say when to ask again
const KEPT = new Set(["sort", "per"]); // stay where all picks are taken away
const wide = matchMedia("(min-width: 800px)");

class Listing {
  static all = new Map();

  static of(name) {
    if (!Listing.all.has(name)) Listing.all.set(name, new Listing(name));
    return Listing.all.get(name);
  }

  constructor(name) {
    Object.assign(this, { name, elements: new Set(), shown: 0, asked: 0, answer: null, held: null });
    this.pairs = this.inAddress();
    addEventListener("popstate", () => {
      const pairs = this.inAddress();
      if (String(pairs) !== String(this.pairs)) this.edit(() => pairs, { keeps: false });
    });
  }

  join(element) {
    this.elements.add(element);
    if (this.answer) element.draw(this.answer); // and asked anew: it may be placed with another rack or facet by now
    if (this.isJoined) return;
    this.isJoined = true;
    queueMicrotask(() => { // once all elements of the page are there
      this.isJoined = false;
      this.ask();
    });
  }

  leave(element) { this.elements.delete(element); }

  // -- picks
  edit(change, { keeps = true } = {}) {
    this.pairs = change(this.held ?? this.pairs);
    this.held = null;
    this.shown = 0;
    this.ask(keeps);
  }

  search(text) {
    this.edit((pairs) => [...pairs.filter(([name]) => name !== "q"), ...(text.trim() ? [["q", text.trim()]] : [])]);
  }

  // -- picks that wait for a button
  get waits() { return this.answer?.applies[wide.matches ? "wide" : "phone"] === "button"; }

  apply() { this.edit((pairs) => pairs); }

  async hold(pairs) {
    this.held = pairs;
    const key = ([name, value]) => `${keyOf(name)}=${value}`;
    const [old, now] = [new Set(this.pairs.map(key)), new Set(pairs.map(key))];
    const moved = {};
    for (const [from, to] of [[old, now], [now, old]]) {
      const gone = {};
      for (const text of [...from].filter((one) => !to.has(one))) gone[keyOf(text.split("=")[0])] = (gone[keyOf(text.split("=")[0])] ?? 0) + 1;
      for (const [name, count] of Object.entries(gone)) moved[name] = Math.max(moved[name] ?? 0, count);
    }
    const count = Object.values(moved).reduce((sum, one) => sum + one, 0);
    this.each((element) => element.foretold("", count));
    this.foretelling?.abort();
    this.foretelling = new AbortController();
    try {
      const response = await fetch(this.question(pairs, [["_only", "total"]]), { credentials: "omit", signal: this.foretelling.signal });
      if (response.ok && this.held === pairs) {
        const { words } = await response.json();
        this.each((element) => element.foretold(words, count));
      }
    } catch { /* given up for a newer question, or no line: the button applies all the same */ }
  }

  drop(text) {
    const gone = text.split(" ").map((part) => { const at = part.indexOf("="); return at < 0 ? [part] : [part.slice(0, at), part.slice(at + 1)]; });
    const goes = ([name, value]) => gone.some(([key, one]) => (key === "*" ? !KEPT.has(name) : keyOf(name) === key && (one ?? value) === value));
    this.edit((pairs) => pairs.filter((pair) => !goes(pair)));
  }

  // What the controls of one facet, or of the order, say by now; picks of it that have no control stay.
  set(key, fields) {
    const has = (field) => field.matches("select, [type=checkbox], [type=radio]");
    const offered = new Set(fields.filter(has).flatMap((field) => (field.options ? [...field.options] : [field]).map((one) => one.value)));
    const one = fields.some((field) => field.matches("select, [type=radio]"));
    const ranges = fields.some((field) => !has(field));
    const picked = fields.filter((field) => field.value && (!field.matches("[type=checkbox], [type=radio]") || field.checked));
    const change = (pairs) => [
      ...pairs.filter(([name, value]) => keyOf(name) !== key || !(one || offered.has(value) || (ranges && value.includes("..")) || name !== key)),
      ...picked.map((field) => [field.name, field.value]),
    ];
    if (this.waits && key !== "sort") this.hold(change(this.held ?? this.pairs));
    else this.edit(change);
  }

  // -- the address of the page: a pick is kept as NAME.FACET=BIN beside what else is there
  get prefix() { return `${this.name}.`; }

  inAddress() {
    return [...new URLSearchParams(location.search)].filter(([name]) => name.startsWith(this.prefix)).map(([name, value]) => [name.slice(this.prefix.length), value]);
  }

  address(pairs) {
    const others = location.search.slice(1).split("&").filter((part) => part && !part.startsWith(this.prefix));
    const own = new URLSearchParams(pairs.map(([name, value]) => [this.prefix + name, value])).toString();
    const query = [...others, ...(own ? [own] : [])].join("&");
    return location.pathname + (query ? `?${query}` : "") + location.hash;
  }

  keepAddress() {
    const address = this.address(this.pairs);
    if (address !== location.pathname + location.search + location.hash) history.pushState(history.state, "", address);
  }

  // -- asking
  get racks() { return [...new Set([...this.elements].map((element) => element.getAttribute("rack")).filter((rack) => rack !== null))]; }

  question(pairs, more = []) {
    const query = new URLSearchParams([...pairs, ...more]);
    this.racks.forEach((rack) => query.append("_rack", rack));
    new Set([...this.elements].flatMap((element) => element.alone)).forEach((facet) => query.append("_facet", facet));
    return `${HOME}/api/shop/v1/embeds/${encodeURIComponent(this.name)}?${query}`;
  }

  async ask(keeps = false) {
    const turn = ++Listing.turns;
    this.asked = turn;
    this.going?.abort();
    this.going = new AbortController();
    const busy = setTimeout(() => this.each((element) => element.busy(true)), WAIT.busy);
    const late = setTimeout((going) => going.abort("late"), WAIT.gone, this.going);
    this.foretelling?.abort();
    try {
      const response = await fetch(this.question(this.pairs, this.shown ? [["shown", this.shown]] : []), { credentials: "omit", signal: this.going.signal });
      const answer = await response.json();
      if (this.asked !== turn) return;
      if (AGAIN.has(response.status)) {
        setTimeout(() => { if (this.asked === turn) this.ask(keeps); }, 1000 * Math.max(1, Number(response.headers.get("Retry-After"))));
        return;
      }
      if (!response.ok) throw new Error(answer.title);
      this.pairs = [...new URLSearchParams(answer.query)];
      this.answer = answer;
      if (keeps) this.keepAddress();
      this.each((element) => element.draw(answer));
      if (this.held) this.hold(this.held);
    } catch (error) {
      if (this.asked === turn) this.failed(error);
    } finally {
      clearTimeout(busy);
      clearTimeout(late);
      if (this.asked === turn) this.each((element) => element.busy(false));
    }
  }

  // Nothing shown yet: the host's own link stays. Afterwards: what was shown stays, and it can be tried once more.
  failed(error) {
    console.warn(`bin-sort "${this.name}": ${error.message ?? error}`);
    if (this.answer) [...this.elements][0]?.warn();
  }

  each(act) { this.elements.forEach(act); }
}
Listing.turns = 0;
