"""./run bench: every figure of docs/performance.md."""

import argparse
import json
import subprocess
import sys
from typing import Any

from .measuring import Times, machine


def measure(module: str, *arguments: str) -> dict[str, Any]:
    """Run one measurement in a process of its own, so that memory is its own."""
    done = subprocess.run([sys.executable, "-m", module, *arguments], stdout=subprocess.PIPE, text=True)
    if done.returncode:
        raise SystemExit(done.returncode)
    found: dict[str, Any] = json.loads(done.stdout.splitlines()[-1])
    return found


def main() -> None:
    """Measure what was asked for."""
    parser = argparse.ArgumentParser(prog="./run bench", description="Measure answers, DuckDB beside them, and the served catalogue.")
    parser.add_argument(
        "what",
        nargs="?",
        choices=["all", "pages", "day", "shop", "load", "minute", "insight", "findings"],
        default="all",
        help="all, pages, a day of prices, shopping, five minutes of load, the first minute, what is found out, or findings",
    )
    parser.add_argument("--sizes", type=int, nargs="+", default=[10_000, 100_000, 1_000_000], help="numbers of products")
    parser.add_argument("--served", type=int, default=100_000, help="products of the large catalogue; 0 leaves it out")
    options = parser.parse_args()
    if options.what == "day":
        day()
        return
    if options.what == "shop":
        shop()
        shop(options.served)
        return
    if options.what == "load":
        load(options.served)
        return
    if options.what == "minute":
        minute()
        return
    if options.what == "findings":
        findings()
        return
    if options.what == "insight":
        insight(options.served)
        return
    if options.what == "all":
        minute()
        engine(options.sizes)
        if options.served:
            served(options.served)
        day()
        shop()
        if options.served:
            shop(options.served)
            load(options.served)
            insight(options.served)
    pages()
    pages("racks")
    if options.served:
        pages(str(options.served))


def day() -> None:
    """Measure and print the memory of a process that follows 200,000 prices."""
    found = measure("bench.day", "10000", "200000")
    memory = ", ".join(f"{number:.0f}" for number in found["memory"])
    print(f"\n200,000 prices of {found['products']:,} products, 100 in a commit, each followed at once: {found['seconds']:.0f} s.")
    print(f"Memory of the process before, and after every tenth of them, in MB: {memory}.")


def engine(sizes: list[int]) -> None:
    """Measure and print one answer at every size and level."""
    print(f"On {machine()}. One answer: 12 facets, 340 bins, two picks in each of three facets, the bounds of one.")
    for level in ("product", "variant"):
        words = "same variant, 3 variants a product, 4 facets on variants" if level == "variant" else "product level"
        print(f"\n{words}")
        for size in sizes:
            one_answer(size, level)


def one_answer(size: int, level: str) -> None:
    """Measure and print one size and level."""
    found: dict[str, Any] = measure("bench.engines", str(size), level)
    ours, theirs = Times(**found["ours"]), Times(**found["theirs"])
    print(f"  {size:>9,} products   Bin Sort {ours}")
    print(f"  {'':>9}            DuckDB   {theirs}   {theirs.median / ours.median:.0f} times Bin Sort")
    print(
        f"  {'':>9}            built from records in {found['built']:.1f} s, {size / found['built']:,.0f} products/s;"
        f" {found['memory']:.0f} MB, bitmaps {found['bitmaps']:.1f} MB, read once in {found['reading']:.2f} ms;"
        f" peak {found['peak']:.0f} MB, with DuckDB {found['their_peak']:.0f} MB; {found['compared']:,} counts equal"
    )
    pages = ", ".join(f"{name} {Times(**times).median:.2f}" for name, times in found["pages"].items())
    print(f"  {'':>9}            24 products of a sorted page, ms: {pages}")


def served(size: int) -> None:
    """Measure and print the served catalogue."""
    found: dict[str, Any] = measure("bench.served", str(size))
    print(f"\nthe served catalogue, {found['products']:,} products")
    print(
        f"  imported in {found['imported']:.0f} s; index built from the database in {found['built']:.1f} s,"
        f" process {found['memory']:.0f} MB"
    )
    print(f"  snapshot written in {found['frozen']:.1f} s, loaded and cut in {found['thawed']:.2f} s")
    print(f"  one click on the server   {Times(**found['click'])}")
    for name, times in found["changes"].items():
        print(f"  commit to count, {name:<16} {Times(**times)}")


def shop(size: int = 0) -> None:
    """Measure and print shopping, on the demo or on so many products."""
    found = measure("bench.shop", *([str(size)] if size else []))
    browser = found["browser"]
    print(f"\nshopping, {f'{size:,} products' if size else 'the demo'}")
    print(f"  a click, one shopper      {Times(**found['click'])}")
    print(f"  a click to nothing        {Times(**found['dead_end'])}")
    print(f"  four without pause        {Times(**found['shoppers'])}")
    print(f"  suggestions               {Times(**found['suggest'])}")
    print(f"  a click compressed        {found['click_kb']:.1f} kB median, {found['click_kb_most']:.1f} kB most")
    print(
        f"  in Chromium               first load {browser['first_kb']:.0f} kB without pictures, largest paint {browser['lcp']:.0f} ms,"
        f" slowest interaction {browser['inp']:.0f} ms, shifts {browser['cls']:.3f}"
    )


def minute() -> None:
    """Measure and print the way from a file to a live rack."""
    print("\nfrom a file to a live rack, in Chromium, on an empty shop")
    for name, found in measure("bench.minute").items():
        words = f"{found['seconds']:5.1f} s, {found['actions']} actions, {found['products']}, {found['facets']} facets"
        print(f"  {name:<10} {words}; clicks to 12 products: {found['worth']}")


def load(size: int, seconds: int = 300, rate: int = 50) -> None:
    """Measure and print what other shops ask, at a steady rate."""
    found = measure("bench.load", str(size), str(seconds), str(rate))
    print(f"\n{rate} questions a second for {seconds} s, two processes, {size:,} products; timed from when each was due")
    print(f"  wrong answers             {found['wrong']}")
    for kind, words in (("all", "all"), ("embed", "on other sites"), ("listing", "listings"), ("suggestions", "suggestions")):
        print(f"  {words:<24}  {Times(**found[kind])}")
    memory = ", ".join("+".join(f"{number:.0f}" for number in both) for both in found["memory"][::4])
    print(f"  memory of both, each minute, MB: {memory}")


def findings() -> None:
    """Print what the checkup finds, to be judged."""
    for name, found in measure("bench.findings").items():
        print(f"\n{name}: {found['count']} findings")
        for kind, text, more in found["first"]:
            print(f"  {kind:<18} {text}. {more}")


def insight(size: int) -> None:
    """Measure and print what the tool finds out by itself."""
    print(f"\nserver time of what is found out, {size:,} products")
    for name, found in measure("bench.insight", str(size)).items():
        target = found.pop("target")
        print(f"  {name:<28} {Times(**found)}" + (f"   target {target} ms" if target else ""))


def pages(what: str = "") -> None:
    """Measure and print the server time of the pages, on the demo, so many products, or very many racks."""
    words = {"": "the demo", "racks": "30 racks, 200 facets, 1,990 categories, 20,000 products"}.get(what)
    print(f"\nserver time of a page, {words or f'{int(what):,} products'}")
    for name, found in measure("bench.pages", *([what] if what else [])).items():
        target = found.pop("target")
        print(f"  {name:<24} {Times(**found)}" + (f"   target {target} ms" if target else ""))


if __name__ == "__main__":
    main()
