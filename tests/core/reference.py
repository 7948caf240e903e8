"""A slow, obvious reading of what facets mean: loops over products and variants, no bitmaps, no columns.

It shares with the core only the records of products, the checked facet definitions, and the rules of text,
numbers and units, which have tests of their own against outside facts.
"""

import unicodedata
from collections import Counter
from functools import cmp_to_key, partial

from binsort.core.facets.query import read_end, read_free_range
from binsort.core.facets.spec import facet_spec, written_bound
from binsort.core.index.sources.number_from import read_number
from binsort.core.values.dates import day
from binsort.core.values.numbers import Unusable, written
from binsort.core.values.text import category_path, identity, initial, natural_key, slug
from binsort.core.values.units import convert

VARIANT_KINDS = {"price", "reduced", "stock", "level"}


class Reference:
    """Answers queries by going through every product, every variant and every bin."""

    def __init__(self, products, specs, now):
        self.all, self.now, self.specs = products, now, list(specs)
        self.products = [p for p in products if p.visible]
        self.known = {}  # values once found; nothing of a product changes
        self.bins = {spec.key: self.make_bins(spec) for spec in self.specs}

    # -- values: what a product (variant None) or one of its variants has, as a set of (identity, number)

    def gives(self, properties, name):
        found = [p for p in properties if identity(p.name) == identity(name) and p.values]
        return found or None

    def is_variant_attribute(self, name):
        if ("level", name) not in self.known:
            self.known["level", name] = self.find_level(name)
        return self.known["level", name]

    def find_level(self, name):
        return any(self.gives(v.properties, name) for p in self.all for v in p.variants)

    def on_variants(self, spec):
        source = spec.source
        if source.kind == "attribute" or source.origin == "attribute":
            return self.is_variant_attribute(source.attribute)
        return source.kind in VARIANT_KINDS

    def attribute_unit(self, name):
        for product in self.all:
            for prop in [*product.properties, *(q for v in product.variants for q in v.properties)]:
                if identity(prop.name) == identity(name) and prop.unit:
                    if any(not isinstance(x, str | bool | Unusable) for x in prop.values):
                        return prop.unit
        return ""

    def properties(self, spec, product, variant):
        own = self.gives(variant.properties, spec.source.attribute) if variant is not None else None
        return own or self.gives(product.properties, spec.source.attribute) or []

    def values(self, spec, product, variant):
        key = (spec.key, product.id, id(variant))
        if key not in self.known:
            self.known[key] = self.find_values(spec, product, variant)
        return self.known[key]

    def find_values(self, spec, product, variant):
        source, kind = spec.source, spec.source.kind
        if kind == "brand":
            return {(identity(product.brand), None)} if product.brand else set()
        if kind == "tag":
            return {(identity(tag), None) for tag in product.tags}
        if kind == "category":
            return {(tuple(map(identity, path[:n])), None) for path in product.categories for n in range(1, len(path) + 1)}
        if kind == "initial":
            return {(identity(initial(product.name)), None)}
        if kind == "rating":
            return set() if product.rating is None else {(written(product.rating), product.rating)}
        if kind == "published":
            return set() if product.published is None else {(product.published.isoformat(), product.published.toordinal())}
        if kind == "age":
            days = None if product.published is None else int(self.now // 86400) - product.published.toordinal()
            return set() if days is None or days < 0 else {(written(days), days)}
        if kind == "level":
            level = variant.offer.level
            return set() if level is None else {(written(level), level)}
        if kind == "words":
            return {(identity(group.label), None) for group in source.groups if self.says_one_of(source, product, group.texts)}
        if kind == "price":
            price = variant.offer.price_now(self.now)
            return set() if price is None else {(written(price), price)}
        if kind == "reduced":
            return {("yes", None)} if variant.offer.is_reduced(self.now) else set()
        if kind == "stock":
            return {(variant.offer.stock, None)}
        if kind == "attribute":
            return set(self.attribute_values(spec, self.properties(spec, product, variant)))
        return set(self.read_values(source, self.number_texts(spec, product, variant)))

    def says_one_of(self, source, product, texts):
        looked_in = {
            "name": [product.name],
            "description": [product.description],
            "sku": [product.id, *(variant.sku for variant in product.articles)],
            "tag": product.tags,
        }
        for said in (identity(said) for place in source.places for said in looked_in[place]):
            for text in texts:
                for n in range(len(said)):
                    if said[n : n + len(text)] == text and (
                        n == 0 or (not said[n - 1].isdecimal() and unicodedata.category(said[n - 1])[0] not in "LM")
                    ):
                        return True
        return False

    def attribute_values(self, spec, properties):
        unit = self.attribute_unit(spec.source.attribute)
        target = spec.source.unit or unit
        for prop in properties:
            for value in prop.values:
                if isinstance(value, Unusable):
                    continue
                if isinstance(value, bool):
                    yield ("yes" if value else "no", None)
                elif isinstance(value, str):
                    yield (identity(value), None)
                else:
                    own = prop.unit or unit or target
                    number = convert(value, own, target) if own and target else value
                    if number is not None:
                        yield (written(number), number)

    def number_texts(self, spec, product, variant):
        if spec.source.origin == "tag":
            return [(tag, "") for tag in product.tags]
        return [(x, prop.unit or "") for prop in self.properties(spec, product, variant) for x in prop.values]

    def read_values(self, source, texts):
        unit = self.attribute_unit(source.attribute) if source.origin == "attribute" else ""
        target = source.unit or unit or self.first_read_unit(source)
        for text, own in texts:
            found = read_number(text, own, source.prefix)
            if found is not None:
                own_unit = found[1] or unit or target
                number = convert(found[0], own_unit, target) if own_unit and target else found[0]
                if number is not None:
                    yield (written(number), number)

    def first_read_unit(self, source):
        for product in self.all:
            texts = [(tag, "") for tag in product.tags]
            if source.origin == "attribute":
                properties = [*product.properties, *(q for v in product.variants for q in v.properties)]
                texts = [(x, q.unit or "") for q in properties if identity(q.name) == identity(source.attribute) for x in q.values]
            for text, own in texts:
                found = read_number(text, own, source.prefix)
                if found and found[1]:
                    return found[1]
        return ""

    def entities(self, spec, product):
        return self.articles(product) if self.on_variants(spec) else [None]

    def articles(self, product):
        return self.known.setdefault(("articles", product.id), product.articles)

    # -- spelling

    def written_texts(self, spec):
        for product in self.all:
            if spec.source.kind == "brand" and product.brand:
                yield product.brand
            if spec.source.kind == "tag":
                yield from product.tags
            if spec.source.kind == "attribute":
                for prop in [*product.properties, *(q for v in product.variants for q in v.properties)]:
                    if identity(prop.name) == identity(spec.source.attribute):
                        for value in prop.values:
                            if isinstance(value, bool):
                                yield "yes" if value else "no"
                            elif isinstance(value, str):
                                yield value

    def spelling(self, spec, value):
        key, number = value
        if spec.source.kind == "category":
            return self.node_spelling(key)
        if number is not None or spec.source.kind in ("stock", "reduced"):
            return key
        if spec.source.kind == "initial":
            return next(initial(p.name) for p in self.products if identity(initial(p.name)) == key)
        counts = Counter(text for text in self.written_texts(spec) if identity(text) == key)
        return min(counts, key=lambda text: (-counts[text], text))

    def node_spelling(self, key):
        counts = Counter(path[len(key) - 1] for p in self.all for path in p.categories if tuple(map(identity, path[: len(key)])) == key)
        return min(counts, key=lambda text: (-counts[text], text))

    # -- bins: {"key", "label", "holds": predicate on a value, ...}

    def make_bins(self, spec):
        if spec.ranges:
            bins = [{"label": r.label, "plain": r.key, "range": r, "holds": self.in_range(r)} for r in spec.ranges]
        elif spec.free:
            bins = []
        elif spec.source.groups:
            bins = [
                {"label": g.label, "plain": slug(g.label), "clash": identity(g.label), "range": None, "least": None, "file": n,
                 "holds": partial(self.is_named, identity(g.label))}
                for n, g in enumerate(spec.source.groups)
            ]  # fmt: skip
            bins.sort(key=lambda b: b["clash"])
        else:
            bins = self.value_bins(spec)
            bins.sort(key=lambda b: (b["clash"], not b["merged"], identity(b["label"])))
        taken = set()
        for b in bins:
            key, n = b["plain"], 1
            while key in taken:
                n += 1
                key = f"{b['plain']}-{n}"
            taken.add(key)
            if not b["label"]:
                b["label"] = key
            b["key"] = key
        for place, b in enumerate(bins):
            b["place"] = place
        return bins

    @staticmethod
    def is_named(name, value):
        return value[0] == name

    @staticmethod
    def in_range(r):
        def holds(value):
            x = value[1]
            if x is None or (r.low is not None and x < r.low):
                return False
            return r.high is None or x < r.high or (r.high_inclusive and x == r.high)

        return holds

    def value_bins(self, spec):
        values = {value for p in self.products for e in self.entities(spec, p) for value in self.values(spec, p, e)}
        rules, groups = spec.bins, {}
        for value in values:
            name = " > ".join(value[0]) if isinstance(value[0], tuple) else value[0]
            if name in rules.leave_out or (rules.only and name not in rules.only):
                continue
            label, how = self.spelling(spec, value), ("own", 0)
            renames = [(n, new) for n, (old, new) in enumerate(rules.renames) if old == name]
            merges = [n for n, merge in enumerate(rules.merges) if name in merge.values]
            if merges:
                label, how = rules.merges[merges[0]].label, ("merge", merges[0])
            elif renames:
                label, how = renames[0][1], ("rename", renames[0][0])
            group = value[0] if isinstance(value[0], tuple) else identity(label)
            groups.setdefault(group, []).append((value, label, how))
        return [self.value_bin(spec, members) for members in groups.values()]

    def value_bin(self, spec, members):
        values = {value for value, _, _ in members}
        by_way = {way: sorted((how[1], label) for _, label, how in members if how[0] == way) for way in ("merge", "rename", "own")}
        label = next(by_way[way][0][1] for way in ("merge", "rename", "own") if by_way[way])
        names = {value[0] for value in values}
        numbers = [value[1] for value in values if value[1] is not None]
        if isinstance(next(iter(names)), tuple):
            node = next(iter(names))
            text = " > ".join(self.node_spelling(node[:n]) for n in range(1, len(node) + 1))
            clash, plain_key = " > ".join(node), slug(text)
        elif len(names) == 1 and numbers and not by_way["merge"]:
            clash = plain_key = written_bound(numbers[0], spec.source.kind)
        else:
            if by_way["merge"]:
                text = by_way["merge"][0][1]
            elif by_way["own"]:
                text = self.spelling(spec, next(v for v, _, how in members if how[0] == "own"))
            else:
                text = self.spelling(spec, min((v for v, _, _ in members), key=lambda v: v[0]))
            clash, plain_key = identity(text), slug(text)
        node = next(iter(names)) if isinstance(next(iter(names)), tuple) else ()
        return {
            "label": label, "plain": plain_key, "clash": clash, "merged": bool(by_way["merge"]), "range": None, "node": node,
            "least": min(numbers, default=None), "holds": lambda value: value in values,
        }  # fmt: skip

    def in_scope(self, spec, b, category):
        if spec.source.kind != "category" or spec.scope == "all":
            return True
        if spec.scope == "top":
            return len(b["node"]) == 1
        under = (category or ()) if spec.under_listing else spec.under
        below = len(b["node"]) > len(under) and b["node"][: len(under)] == under
        return below and (spec.deep or len(b["node"]) == len(under) + 1)

    # -- queries

    def read(self, pairs, category):
        reserved = {"category": category, "sort": "listed", "page": 1, "per": None}
        specs = {spec.key: spec for spec in self.specs}
        ignored, picks, ends = [], {key: [] for key in specs}, {}
        for n, (name, value) in enumerate(pairs):
            if value and name in ("sort", "page", "per", "category"):
                good = self.reserved_value(name, value)
                if good is None:
                    ignored.append(n)
                elif name != "category" or category is None:
                    reserved[name] = good
        for n, (name, value) in enumerate(pairs):
            if not value or name in ("sort", "page", "per", "category", "q"):
                continue
            spec = specs.get(name)
            if spec is None:
                key, dot, side = name.rpartition(".")
                owner = specs.get(key)
                end = read_end(value, owner.source.kind) if owner and owner.free and dot and side in ("from", "to") else None
                if end is None:
                    ignored.append(n)
                else:
                    ends.setdefault(key, {})[side] = (n, end)
                continue
            if any(b["key"] == value and self.in_scope(spec, b, reserved["category"]) for b in self.bins[name]):
                picks[name].append((n, value))
            elif spec.free and read_free_range(value, spec.source.kind):
                found = read_free_range(value, spec.source.kind)
                picks[name].append((n, (found.low, found.high)))
            else:
                ignored.append(n)
        for key, sides in ends.items():
            low, high = (sides[s][1] if s in sides else None for s in ("from", "to"))
            if low is not None and high is not None and low > high:
                ignored += [n for n, _ in sides.values()]
            else:
                picks[key].append((max(n for n, _ in sides.values()), (low, high)))
        final = {}
        for key, found in picks.items():
            ordered = [pick for _, pick in sorted(found, key=lambda item: item[0])]
            if specs[key].pick == "one":
                ordered = ordered[-1:]
            final[key] = list(dict.fromkeys(ordered))
        return reserved, final, [list(pairs[n]) for n in sorted(ignored)]

    def can_sort(self, sort):
        plain = ("listed", "price", "-price", "name", "-name", "newest", "-rating", "level", "-level", "saving", "-saving", "buyable")
        if not sort.removeprefix("-").startswith("attribute."):
            return sort in plain
        given = self.given_anywhere(sort.partition("attribute.")[2])
        return any(self.is_number(x) or (isinstance(x, str) and day(x)) for x in given)

    @staticmethod
    def is_number(value):
        return not isinstance(value, str | bool | Unusable)

    def given_anywhere(self, name):
        for product in self.all:
            for prop in [*product.properties, *(q for v in product.variants for q in v.properties)]:
                if identity(prop.name) == identity(name):
                    yield from prop.values

    def reserved_value(self, name, value):
        if name == "sort":
            return value if self.can_sort(value) else None
        if name == "category":
            return tuple(map(identity, category_path(value))) or None
        return int(value) if value.isascii() and value.isdigit() and value[0] != "0" else None

    def rule_holds(self, spec, picks, specs, category):
        if spec.show_when is None:
            return True
        results = []
        for rule in spec.show_when.rules:
            if rule.listing:
                results.append(self.lies_in(category, rule.listing))
                continue
            if not rule.facet:
                today = int(self.now // 86400)
                results.append(not (rule.first is not None and today < rule.first) and not (rule.last is not None and today > rule.last))
                continue
            other = specs.get(rule.facet)
            found = picks[rule.facet] if other is not None and self.rule_holds(other, picks, specs, category) else []
            if other is not None and other.source.kind == "category":
                node_of = {b["key"]: b["node"] for b in self.bins[rule.facet]}
                at = [node_of[p] for p in found] + ([category] if category else [])
                if rule.picked is not None:
                    results.append(bool(at) == rule.picked)
                else:
                    results.append(any(self.lies_in(one, node_of[key]) for one in at for key in rule.bins if key in node_of))
                continue
            results.append(bool(found) == rule.picked if rule.picked is not None else any(p in rule.bins for p in found))
        return all(results) if spec.show_when.every else any(results)

    @staticmethod
    def lies_in(node, above):
        return node is not None and tuple(node[: len(above)]) == tuple(above)

    # -- the result, word by word

    def entity_has(self, spec, product, variant, pick):
        values = self.values(spec, product, variant)
        if isinstance(pick, tuple):
            low, high = pick
            return any(x is not None and (low is None or low <= x) and (high is None or x <= high) for _, x in values)
        b = next(b for b in self.bins[spec.key] if b["key"] == pick)
        return any(b["holds"](value) for value in values)

    def meeting_2(self, product, picks):
        return [
            v
            for v in self.articles(product)
            if all(
                any(self.entity_has(s, product, v, pick) for pick in picks[s.key])
                for s in self.specs
                if picks[s.key] and self.on_variants(s) and not s.matches_all
            )
        ]

    def in_result(self, product, picks):
        for spec in self.specs:
            if picks[spec.key] and not self.on_variants(spec):
                hits = [self.entity_has(spec, product, None, pick) for pick in picks[spec.key]]
                if not (all(hits) if spec.matches_all else any(hits)):
                    return False
        meeting = self.meeting_2(product, picks)
        if not meeting:
            return False
        return all(
            any(self.entity_has(spec, product, v, pick) for v in meeting)
            for spec in self.specs
            if picks[spec.key] and self.on_variants(spec) and spec.matches_all
            for pick in picks[spec.key]
        )

    def count(self, listing, spec, picks, pick):
        replaced = {**picks, spec.key: [*picks[spec.key], pick] if spec.matches_all else [pick]}
        return sum(self.in_result(p, replaced) for p in listing)

    def answer(self, pairs, category=None, per=24):
        reserved, read, ignored = self.read(pairs, category)
        category = reserved["category"]
        specs = {spec.key: spec for spec in self.specs}
        shown = {spec.key: self.rule_holds(spec, read, specs, category) for spec in self.specs}
        picks = {key: read[key] if shown[key] else [] for key in specs}
        listing = [p for p in self.products if category is None or any(
            tuple(map(identity, path[: len(category)])) == category for path in p.categories)]  # fmt: skip
        result = [p for p in listing if self.in_result(p, picks)]
        ordered = self.sorted(result, picks, reserved["sort"])
        per = reserved["per"] or per
        start = (reserved["page"] - 1) * per
        return {
            "total": len(result),
            "listing": len(listing),
            "facets": [self.facet(spec, listing, picks, shown[spec.key], category) for spec in self.specs],
            "products": [p.id for p in ordered[start : start + per]],
            "ignored": ignored,
        }

    def facet(self, spec, listing, picks, shown, category):
        own = picks[spec.key]
        bins = [b for b in self.bins[spec.key] if self.in_scope(spec, b, category)]
        has_any = [any(self.entity_has(spec, p, e, b["key"]) for b in bins for e in self.entities(spec, p)) for p in listing]
        if spec.free and not spec.ranges:
            has_any = [any(x is not None for e in self.entities(spec, p) for _, x in self.values(spec, p, e)) for p in listing]
        nothing = {key: [] for key in picks}
        base = {b["key"]: self.count(listing, spec, nothing, b["key"]) for b in bins}
        answers = []
        for b in self.ordered(spec, bins, base):
            count, picked = self.count(listing, spec, picks, b["key"]), b["key"] in own
            bare, ever = count == 0 and not picked, base[b["key"]] > 0
            hidden = spec.empty == "hide" or (spec.empty == "emptied" and not ever)
            answers.append({
                "key": b["key"], "label": b["label"], "count": count, "picked": picked,
                "shown": not (bare and hidden), "enabled": not (bare and spec.empty != "keep"),
            })  # fmt: skip
        bounds = self.bounds(spec, listing, {**picks, spec.key: []}) if spec.free else None

        def end(x):
            return None if x is None else written_bound(x, spec.source.kind)

        return {
            "key": spec.key,
            "shown": shown and (bool(own) or any(b["count"] for b in answers) or bounds is not None or self.has_emptied(spec, base)),
            "unbinned": len(listing) - sum(has_any),
            "bounds": bounds,
            "free": [[end(p[0]), end(p[1]), self.count(listing, spec, picks, p)] for p in own if isinstance(p, tuple)],
            "bins": answers,
        }

    @staticmethod
    def has_emptied(spec, base):
        return spec.empty == "emptied" and any(base.values())

    def bounds(self, spec, listing, picks):
        low, high = spec.ends_at
        if low is not None and high is not None:
            return [written_bound(low, spec.source.kind), written_bound(high, spec.source.kind)]
        numbers = []
        for p in listing:
            if self.in_result(p, picks):
                entities = self.meeting_2(p, picks) if self.on_variants(spec) else [None]
                numbers += [x for e in entities for _, x in self.values(spec, p, e) if x is not None]
        if not numbers:
            return None
        ends = (min(numbers) if low is None else low, max(numbers) if high is None else high)
        return [written_bound(x, spec.source.kind) for x in ends]

    # -- orders

    def ordered(self, spec, bins, base):
        name = spec.order.removeprefix("-")
        if not name:
            name = "label"
            if spec.bins.order or spec.source.groups:
                name = "listed"
            elif spec.ranges or (bins and all(b["least"] is not None for b in bins)):
                name = "value"

        def first(b):
            if name == "count":
                return (-base[b["key"]],)
            if name == "tree":
                return (self.first_seen(b["node"]),)
            if name == "listed":
                if b["range"]:
                    return (b["place"],)
                if spec.source.groups and not spec.bins.order:
                    return (b["file"],)
                order = list(spec.bins.order)
                return (order.index(identity(b["label"])) if identity(b["label"]) in order else len(order),)
            if name == "value":
                if b["range"]:
                    low, high = b["range"].low, b["range"].high
                    return (low is not None, low or 0, high is None, high or 0)
                return (b["least"] is None, b["least"] or 0)
            return ()

        def compare(one, other):
            by_ends = name == "value" and one["range"]
            keys = [(first(b), () if by_ends else natural_key(b["label"]), b["key"]) for b in (one, other)]
            return ((keys[0] > keys[1]) - (keys[0] < keys[1])) * (-1 if spec.order.startswith("-") else 1)

        bins = sorted(bins, key=cmp_to_key(compare))
        if spec.source.kind != "category":
            return bins
        nodes = {b["node"] for b in bins}

        def walk(parent):
            for b in bins:
                above = [b["node"][:n] for n in range(len(b["node"]) - 1, 0, -1) if b["node"][:n] in nodes]
                if (above[0] if above else ()) == parent:
                    yield b
                    yield from walk(b["node"])

        return list(walk(()))

    def first_seen(self, node):
        seen = []
        for product in self.all:
            for path in product.categories:
                for n in range(1, len(path) + 1):
                    seen.append(tuple(map(identity, path[:n])))
        return seen.index(node)

    def numbers_sorted_by(self, product, variant, sort):
        """Numbers or days that one article of a product has of what is sorted by."""
        name, offer = sort.removeprefix("-"), variant.offer
        if name == "level":
            return [] if offer.level is None else [offer.level]
        if name == "buyable":
            return [["in", "backorder", "out"].index(offer.stock)]
        if name == "saving":
            now, regular = offer.price_now(self.now), offer.regular
            return [] if now is None or regular is None else [max(0, regular - now)]
        attribute = name.partition("attribute.")[2]
        spec = facet_spec({"key": f"sorted {attribute}", "label": "S", "source": {"kind": "attribute", "attribute": attribute}})
        if any(map(self.is_number, self.given_anywhere(attribute))):
            return [x for _, x in self.values(spec, product, variant) if x is not None]
        own = self.properties(spec, product, variant if self.on_variants(spec) else None)
        return [d.toordinal() for prop in own for x in prop.values if isinstance(x, str) and (d := day(x))]

    def sorted(self, result, picks, sort):
        def key(p):
            if sort.removeprefix("-") in ("level", "saving", "buyable") or "attribute." in sort:
                found = [x for v in self.meeting_2(p, picks) for x in self.numbers_sorted_by(p, v, sort)]
                if not found:
                    return (1, 0)
                return (0, -max(found)) if sort.startswith("-") else (0, min(found))
            if sort in ("price", "-price"):
                prices = [x for v in self.meeting_2(p, picks) if (x := v.offer.price_now(self.now)) is not None]
                if not prices:
                    return (1, 0)
                return (0, min(prices)) if sort == "price" else (0, -max(prices))
            if sort == "newest":
                return (p.published is None, -p.published.toordinal() if p.published else 0)
            if sort == "-rating":
                return (p.rating is None, -p.rating if p.rating is not None else 0)
            return (0,)

        if sort in ("name", "-name"):
            names = sorted({natural_key(p.name) for p in result}, reverse=sort == "-name")
            return sorted(result, key=lambda p: names.index(natural_key(p.name)))
        return sorted(result, key=key)
