"""A small simulated shop: sells, restocks and reprices what the catalogue has."""

import random
from collections.abc import Iterator, Sequence
from typing import Any

from binsort.core.products.product import Product


def sales(products: Sequence[Product], chance: random.Random) -> Iterator[list[dict[str, Any]]]:
    """Yield what happens in the shop without end: some articles sold, now and then a delivery or a new price."""
    levels = {}
    prices = {}
    for product in products:
        for article in product.articles:
            name = article.sku or product.id
            levels[name] = int(article.offer.level) if article.offer.level is not None else chance.randint(0, 20)
            prices[name] = float(article.offer.price or 10)
    names = sorted(levels)
    while names:
        items = []
        for name in chance.sample(names, min(len(names), chance.randint(1, 6))):
            if levels[name] <= 0 or chance.random() < 0.1:
                levels[name] = max(0, levels[name]) + chance.randint(5, 40)
            else:
                levels[name] -= min(levels[name], chance.randint(1, 3))
            item: dict[str, Any] = {"sku": name, "level": levels[name], "availability": "InStock" if levels[name] else "OutOfStock"}
            if chance.random() < 0.15:
                prices[name] = round(prices[name] * chance.uniform(0.85, 1.15), 2)
                item["price"] = f"{prices[name]:.2f}"
            items.append(item)
        yield items
