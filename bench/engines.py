"""One answer of 12 facets and 340 bins, picks in three facets: our core and DuckDB on the same rows.

Run as ``python -m bench.engines PRODUCTS LEVEL``; prints one JSON object.
"""

import json
import sys
import time

import numpy as np

from binsort.core.answer import RackIndex
from binsort.core.columns import PRODUCT, VARIANT, Column, Value
from binsort.core.facetfile import facet_file
from binsort.core.index import Index, Shape
from binsort.core.query import Picks, Query

from .measuring import memory_mb, timed

BINS = (2, 4, 6, 8, 10, 12, 20, 28, 40, 50, 60, 100)  # 340 in 12 facets
ON_VARIANTS = (4, 5, 6, 7)  # where same-variant matching is measured
VARIANTS = 3
PICKED = {"product": (2, 5, 8), "variant": (2, 5, 7)}  # facets with two picks each; in the second case two are variant-level
ROUNDS = 12  # different picks, so that nothing is answered out of a cache


def rows(products: int, level: str) -> tuple[int, list[np.ndarray]]:
    """Return how many variants a product has, and for each facet the value of each product or variant."""
    random = np.random.default_rng(7)
    each = VARIANTS if level == "variant" else 1
    found = []
    for place, bins in enumerate(BINS):
        size = products * each if place in ON_VARIANTS and each > 1 else products
        shares = 1 / np.arange(1, bins + 1) ** 0.7  # a few large values, many small ones
        found.append(random.choice(bins, size=size, p=shares / shares.sum()).astype(np.int64))
    return each, found


def picks(level: str, turn: int) -> dict[int, tuple[int, int]]:
    """Return two values picked in each of three facets; other ones at every turn."""
    return {place: (turn % BINS[place], (turn + 1 + turn // 3) % BINS[place]) for place in PICKED[level]}


def rack(products: int, each: int, values: list[np.ndarray]) -> RackIndex:
    """Build the index from the rows."""
    columns = {}
    for place, found in enumerate(values):
        names = [Value(f"v{code}", f"v{code}") for code in range(BINS[place])]
        kind = VARIANT if len(found) > products else PRODUCT
        columns[f"a{place}"] = Column(kind, len(found), names, (np.arange(len(found), dtype=np.uint32), found))
    shape = Shape([str(n) for n in range(products)], ["x"] * products, np.arange(products + 1, dtype=np.uint32) * each)
    nothing = Column(PRODUCT, products, [], (np.array([], dtype=np.uint32), np.array([], dtype=np.int64)))
    index = Index(shape, lambda source: columns.get(source.attribute, nothing), lambda source: "")
    facets = [{"key": f"a{n}", "label": "x", "source": {"kind": "attribute", "attribute": f"a{n}"}} for n in range(len(BINS))]
    return RackIndex(index, facet_file({"binsort": 1, "facets": facets}).facets)


def ours(found: RackIndex, level: str, turn: int) -> list[list[int]]:
    """Answer with our core; returns the counts of every facet."""
    query = Query({f"a{place}": Picks(tuple(f"v{code}" for code in dict.fromkeys(pair))) for place, pair in picks(level, turn).items()})
    answer = found.answer(query)
    return [[count for _, count in sorted((int(made.key[1:]), made.count) for made in facet.bins)] for facet in answer.facets]


def theirs(connection: object, level: str, each: int, turn: int) -> list[list[int]]:
    """Answer with DuckDB: one statement that groups by every facet under the picks of the others."""
    chosen = picks(level, turn)
    counted = "count(DISTINCT p)" if each > 1 else "count(*)"
    parts = []
    for place in range(len(BINS)):
        where = " AND ".join(f"a{other} IN ('v{one}', 'v{two}')" for other, (one, two) in chosen.items() if other != place)
        parts.append(f"SELECT {place}, a{place}, {counted} FROM t WHERE {where} GROUP BY 2")
    counts = [[0] * bins for bins in BINS]
    for place, code, count in connection.execute(" UNION ALL ".join(parts)).fetchall():  # type: ignore[attr-defined]
        counts[place][int(code[1:])] = count
    return counts


def table(products: int, each: int, values: list[np.ndarray]) -> object:
    """Load the rows into DuckDB, one row a variant, values as text."""
    import duckdb
    import pandas

    owner = np.repeat(np.arange(products), each)
    columns = {f"a{n}": (found if len(found) == len(owner) else np.repeat(found, each)).astype(np.int16) for n, found in enumerate(values)}
    frame = pandas.DataFrame({"p": owner.astype(np.int32), **columns})  # noqa: F841 - DuckDB finds it by name
    connection = duckdb.connect()
    texts = ", ".join(f"'v' || a{place} AS a{place}" for place in range(len(BINS)))  # as text, like the values of the catalogue
    connection.execute(f"CREATE TABLE t AS SELECT p, {texts} FROM frame")
    return connection


def main() -> None:
    """Measure both on one size and level."""
    products, level = int(sys.argv[1]), sys.argv[2]
    each, values = rows(products, level)
    before = memory_mb()
    started = time.perf_counter()
    found = rack(products, each, values)
    built = time.perf_counter() - started
    our_counts = [ours(found, level, turn) for turn in range(ROUNDS)]
    times = timed(lambda run: ours(found, level, run % ROUNDS))
    memory, peak = memory_mb() - before, memory_mb("VmHWM")
    connection = table(products, each, values)
    their_counts = [theirs(connection, level, each, turn) for turn in range(ROUNDS)]
    if our_counts != their_counts:
        raise SystemExit(f"{products} products, {level} level: the two engines do not count the same")
    their_times = timed(lambda run: theirs(connection, level, each, run % ROUNDS), seconds=6)
    result = {"products": products, "level": level, "built": built, "memory": memory, "peak": peak}
    result |= {"ours": vars(times), "theirs": vars(their_times), "their_peak": memory_mb("VmHWM"), "compared": ROUNDS * sum(BINS)}
    print(json.dumps(result))


if __name__ == "__main__":
    main()
