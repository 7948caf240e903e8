"""Writes a table of invented products for measuring how files come in: ``python -m bench.rows ROWS FILE.csv``."""

import csv
import random
import sys
from collections.abc import Iterator
from pathlib import Path

HEADER = (
    "SKU", "Name", "Brand", "Category", "Tags", "Price", "Stock", "Colour", "Diameter (mm)", "Breaking load (kN)", "Material", "Use",
    "Added", "Description",
)  # fmt: skip


def rows(count: int) -> Iterator[tuple[object, ...]]:
    """Yield rows of products, the same ones every time."""
    chance = random.Random(1)
    for number in range(count):
        yield (
            f"P{number}",
            f"Rope {number} of {chance.randint(1, 99)} m",
            chance.choice(("Orrin", "Hollin", "Samphire", "Brackwater")),
            f"Ropes > Kind {number % 40}",
            "new|light" if number % 3 else "",
            f"{chance.randint(100, 9999) / 100:.2f}",
            chance.randint(0, 50),
            chance.choice(("Navy", "Red", "White", "Black", "Grey")),
            chance.randint(4, 40),
            f"{chance.randint(10, 900) / 10}",
            chance.choice(("Nylon", "Polyester", "HMPE")),
            "racing|cruising" if number % 2 else "cruising",
            f"2025-{number % 12 + 1:02}-11",
            "A rope that is long and strong and well made by hand",
        )


if __name__ == "__main__":
    with Path(sys.argv[2]).open("w", newline="", encoding="utf-8") as out:
        writer = csv.writer(out)
        writer.writerow(HEADER)
        writer.writerows(rows(int(sys.argv[1])))
