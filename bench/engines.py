"""One answer of 12 facets and 340 bins, picks in three facets, bounds of one: our core and DuckDB on the same rows.

Run as ``python -m bench.engines PRODUCTS LEVEL``; prints one JSON object.
"""

import json
import sys
import time
from collections.abc import Iterator
from functools import partial

import numpy as np
from pyroaring import BitMap

from binsort.core.answers.answer import RackIndex, State
from binsort.core.facets.facet_file import facet_file
from binsort.core.facets.query import Picks, Query
from binsort.core.facets.spec import FacetSpec
from binsort.core.index.catalogue_index import Index
from binsort.core.index.facts import build_facts
from binsort.core.products.product import Offer, Product, Property, Variant

from .measuring import memory_mb, reading_speed, timed

BINS = (2, 4, 6, 8, 10, 12, 20, 28, 40, 50, 60, 100)  # 340 in 12 facets
NUMERIC, WIDTH = 8, 25  # this facet has numbers below 1,000 cut into ranges so wide, and shows bounds
ON_VARIANTS = (4, 5, 6, 7)  # where same-variant matching is measured
VARIANTS = 3
PICKED = {"product": (2, 5, 8), "variant": (2, 5, 7)}  # facets with two picks each; in the second case two are variant-level
ROUNDS = 12  # different picks, so that nothing is answered out of a cache
SORTS = ("listed", "name", "newest", "price", "-price", "saving", "buyable", f"attribute.a{NUMERIC}")
WITHIN = 10  # one product in so many has the tag whose listing is asked for
PRICES = 5000


def rows(products: int, level: str) -> tuple[int, list[np.ndarray]]:
    """Return how many variants a product has, and for each facet the value of each product or variant."""
    random = np.random.default_rng(7)
    each = VARIANTS if level == "variant" else 1
    found = []
    for place, bins in enumerate(BINS):
        size = products * each if place in ON_VARIANTS and each > 1 else products
        shares = 1 / np.arange(1, bins + 1) ** 0.7  # a few large values, many small ones
        codes = random.choice(bins, size=size, p=shares / shares.sum()).astype(np.int64)
        found.append(codes * WIDTH + random.integers(0, WIDTH, size) if place == NUMERIC else codes)
    return each, found


def records(products: int, each: int, values: list[np.ndarray]) -> Iterator[tuple[int, int, Product]]:
    """Yield the rows as the products that they are, as reading a database would."""
    said = [
        [Property(f"a{n}", (code if n == NUMERIC else f"v{code}",)) for code in range(int(found.max()) + 1)]
        for n, found in enumerate(values)
    ]
    offers = [Offer(price=1 + n) for n in range(PRICES)]
    own = [n for n in range(len(BINS)) if each == 1 or n not in ON_VARIANTS]
    listed = [found.tolist() for found in values]
    for number in range(products):
        properties = tuple([said[n][listed[n][number]] for n in own])
        articles = tuple(
            Variant("", offers[variant * 7919 % PRICES], tuple([said[n][listed[n][variant]] for n in ON_VARIANTS]))
            for variant in range(number * each, number * each + each)
        ) if each > 1 else ()  # fmt: skip
        offer = offers[number * 7919 % PRICES]
        yield (
            number,
            number,
            Product(str(number), f"Product {number * 7919 % products}", properties=properties, offer=offer, variants=articles),
        )


def facets() -> tuple[FacetSpec, ...]:
    """Return the twelve facets."""
    documents: list[dict[str, object]] = [
        {"key": f"a{n}", "label": "x", "source": {"kind": "attribute", "attribute": f"a{n}"}} for n in range(len(BINS))
    ]
    documents[NUMERIC] |= {"cuts": [WIDTH * n for n in range(1, BINS[NUMERIC])], "free": True}
    return facet_file({"binsort": 1, "facets": documents}).facets


def bin_key(place: int, code: int) -> str:
    """Return the key of a bin."""
    if place != NUMERIC:
        return f"v{code}"
    low, high = code * WIDTH, (code + 1) * WIDTH
    return f"lt-{high}" if not code else f"ge-{low}" if code == BINS[place] - 1 else f"{low}-to-{high}"


def picks(level: str, turn: int) -> dict[int, tuple[int, int]]:
    """Return two values picked in each of three facets; other ones at every turn."""
    return {place: (turn % BINS[place], (turn + 1 + turn // 3) % BINS[place]) for place in PICKED[level]}


def asked(level: str, turn: int, sort: str = "listed", page: int = 1) -> Query:
    """Return the query of a turn."""
    found = {f"a{place}": Picks(tuple(dict.fromkeys(bin_key(place, code) for code in pair))) for place, pair in picks(level, turn).items()}
    return Query(found, sort=sort, page=page)


def ours(rack: RackIndex, level: str, turn: int) -> object:
    """Answer with our core: counts of every facet, and the bounds."""
    answer = rack.answer(asked(level, turn))
    counts = []
    for place, facet in enumerate(answer.facets):
        found = {made.key: made.count for made in facet.bins}
        counts.append([found[bin_key(place, code)] for code in range(BINS[place])])
    ends = answer.facets[NUMERIC].bounds
    return counts, ends and (int(ends[0]), int(ends[1]))


def only_answer(rack: RackIndex, level: str, turn: int) -> object:
    """Answer with our core and leave it at that; what is timed."""
    return rack.answer(asked(level, turn))


def theirs(connection: object, level: str, each: int, turn: int) -> object:
    """Answer with DuckDB: one statement that groups by every facet under the picks of the others, and the bounds."""
    chosen = picks(level, turn)
    counted = "count(DISTINCT p)" if each > 1 else "count(*)"

    def under(place: int) -> str:
        parts = []
        for other, pair in chosen.items():
            if other != place:
                parts.append(f"{_bin(other)} IN ({', '.join(repr(bin_value(other, code)) for code in pair)})")
        return " AND ".join(parts)

    parts = [f"SELECT {place}, ({_bin(place)})::VARCHAR, {counted} FROM t WHERE {under(place)} GROUP BY 2" for place in range(len(BINS))]
    parts.append(f"SELECT -1, min(a{NUMERIC})::VARCHAR, max(a{NUMERIC}) FROM t WHERE {under(NUMERIC)}")
    counts = [[0] * bins for bins in BINS]
    ends = None
    for place, code, count in connection.execute(" UNION ALL ".join(parts)).fetchall():  # type: ignore[attr-defined]
        if place < 0:
            ends = None if code is None else (int(code), int(count))
        else:
            counts[place][int(code.removeprefix("v"))] = count
    return counts, ends


def _bin(place: int) -> str:
    return f"a{place} // {WIDTH}" if place == NUMERIC else f"a{place}"


def bin_value(place: int, code: int) -> str | int:
    """Return what DuckDB's rows hold of a bin."""
    return code if place == NUMERIC else f"v{code}"


def table(products: int, each: int, values: list[np.ndarray]) -> object:
    """Load the rows into DuckDB, one row a variant, values as text."""
    import duckdb
    import pandas

    owner = np.repeat(np.arange(products), each)
    columns = {f"a{n}": (found if len(found) == len(owner) else np.repeat(found, each)).astype(np.int16) for n, found in enumerate(values)}
    frame = pandas.DataFrame({"p": owner.astype(np.int32), **columns})  # noqa: F841 - DuckDB finds it by name
    connection = duckdb.connect()
    texts = ", ".join(f"a{place}" if place == NUMERIC else f"'v' || a{place} AS a{place}" for place in range(len(BINS)))
    connection.execute(f"CREATE TABLE t AS SELECT p, {texts} FROM frame")
    return connection


def _page(state: State, _run: int) -> None:
    """Read a page of a result."""
    state.page(24)


def main() -> None:
    """Measure both on one size and level."""
    products, level = int(sys.argv[1]), sys.argv[2]
    each, values = rows(products, level)
    before = memory_mb()
    started = time.perf_counter()
    rack = RackIndex(Index(build_facts(records(products, each, values)), 0), facets())
    built = time.perf_counter() - started
    our_counts = [ours(rack, level, turn) for turn in range(ROUNDS)]
    times = timed(lambda run: only_answer(rack, level, run % ROUNDS))
    pages = {}
    for sort in SORTS:
        for page in (1, 100):
            state = State(rack, Query(sort=sort, page=page))
            pages[f"{sort} {page}"] = vars(timed(partial(_page, state), seconds=0.5))
    tagged = BitMap(range(0, products, WITHIN))
    pages["answer within a tenth"] = vars(timed(lambda run: State(rack, asked(level, run % ROUNDS), within=tagged).facets))
    picked = State(rack, asked(level, 1, "price"))
    picked.page(24)
    pages["price picked"] = vars(timed(partial(_page, picked), seconds=0.5))
    memory, peak = memory_mb() - before, memory_mb("VmHWM")
    touched = sum(len(facet.products(made).serialize()) for facet in rack.facets for made in facet.bins) / 2**20
    reading = touched / reading_speed() * 1000
    connection = table(products, each, values)
    their_counts = [theirs(connection, level, each, turn) for turn in range(ROUNDS)]
    if our_counts != their_counts:
        raise SystemExit(f"{products} products, {level} level: the two engines do not count the same")
    their_times = timed(lambda run: theirs(connection, level, each, run % ROUNDS), seconds=6)
    result = {
        "products": products,
        "level": level,
        "built": built,
        "memory": memory,
        "peak": peak,
        "pages": pages,
        "bitmaps": touched,
        "reading": reading,
    }
    result |= {"ours": vars(times), "theirs": vars(their_times), "their_peak": memory_mb("VmHWM"), "compared": ROUNDS * (sum(BINS) + 1)}
    print(json.dumps(result))


if __name__ == "__main__":
    main()
