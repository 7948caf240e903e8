"""./run bench: every figure of docs/performance.md."""

import argparse
import json
import subprocess
import sys

from .measuring import Times, machine


def measure(module: str, *arguments: str) -> dict[str, object]:
    """Run one measurement in a process of its own, so that memory is its own."""
    done = subprocess.run([sys.executable, "-m", module, *arguments], stdout=subprocess.PIPE, text=True)
    if done.returncode:
        raise SystemExit(done.returncode)
    found: dict[str, object] = json.loads(done.stdout.splitlines()[-1])
    return found


def main() -> None:
    """Measure what was asked for."""
    parser = argparse.ArgumentParser(prog="./run bench", description="Measure answers, DuckDB beside them, and clicks.")
    parser.add_argument("--sizes", type=int, nargs="+", default=[10_000, 100_000, 1_000_000], help="numbers of products")
    parser.add_argument("--clicks", type=int, default=100_000, help="products for the click on the server; 0 leaves it out")
    options = parser.parse_args()
    print(f"On {machine()}. One answer: 12 facets, 340 bins, two picks in each of three facets.")
    for level in ("product", "variant"):
        words = "same variant, 3 variants a product, 4 facets on variants" if level == "variant" else "product level"
        print(f"\n{words}")
        for size in options.sizes:
            found = measure("bench.engines", str(size), level)
            ours, theirs = Times(**found["ours"]), Times(**found["theirs"])  # type: ignore[arg-type]
            print(f"  {size:>9,} products   Bin Sort {ours}")
            print(f"  {'':>9}            DuckDB   {theirs}   {theirs.median / ours.median:.0f} times Bin Sort")
            print(
                f"  {'':>9}            index built in {found['built']:.1f} s, {found['memory']:.0f} MB; "
                f"peak {found['peak']:.0f} MB, with DuckDB {found['their_peak']:.0f} MB; {found['compared']:,} counts equal"
            )
    if options.clicks:
        found = measure("bench.clicks", str(options.clicks))
        print(f"\none click on the server, {found['products']:,} products\n  {Times(**found['click'])}")  # type: ignore[arg-type]
        print(f"  imported in {found['imported']:.0f} s, index built in {found['built']:.1f} s, process {found['memory']:.0f} MB")


if __name__ == "__main__":
    main()
