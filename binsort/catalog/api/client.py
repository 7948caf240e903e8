"""Keeps a Bin Sort catalogue in step with a shop system. Needs nothing but Python 3.11: copy this file and begin."""

import json
import time
from collections.abc import Iterable, Iterator
from http.client import HTTPException
from typing import Any
from urllib.error import HTTPError
from urllib.request import Request, urlopen

Done = dict[str, Any]  # how many were new, changed and unchanged, and the numbers that are not known
A_CALL, SECONDS = 1_000, 60  # the most in one call; how long an answer may take


class Client:
    """Sends products, prices and stock. Every call is all or nothing and the same twice as once, so each is simply tried again."""

    def __init__(self, address: str, token: str, *, tries: int = 6, wait: float = 1.0) -> None:
        self._address, self._token, self._tries, self._wait = f"{address.rstrip('/')}/api/v1", token, tries, wait

    def put(self, products: Iterable[dict[str, Any]]) -> Done:
        """Write products as schema.org has them; those that are there are replaced."""
        return self._in_parts("PUT", "/products", "products", products)

    def set_offers(self, items: Iterable[dict[str, Any]]) -> Done:
        """Set price, list price, level or availability of articles by ``sku``; what is not named stays."""
        return self._in_parts("PATCH", "/offers", "items", items)

    def delete(self, numbers: Iterable[str]) -> Done:
        """Delete products by number; one that is gone already is no error."""
        return self._in_parts("POST", "/products/delete", "numbers", numbers)

    def products(self) -> Iterator[dict[str, Any]]:
        """Yield every product there is."""
        after = 0
        while after is not None:
            part = self._call("GET", f"/products?after={after}")
            yield from part["products"]
            after = part["next"]

    def load(self, products: Iterable[dict[str, Any]]) -> None:
        """Make the catalogue these products and no others. Interrupted, it is begun again without harm. Raises ValueError for none."""
        wanted = list(products)
        if not wanted:
            raise ValueError("No products: that would delete all there are. Use delete() if it is meant.")
        self.put(wanted)
        self.delete(sorted({number(one) for one in self.products()} - {number(one) for one in wanted}))

    def _in_parts(self, method: str, path: str, name: str, items: Iterable[Any]) -> Done:
        waiting, done = list(items), {"new": 0, "changed": 0, "unchanged": 0, "unknown": []}
        for start in range(0, len(waiting), A_CALL):
            answer = self._call(method, path, {name: waiting[start : start + A_CALL]})
            done = {part: done[part] + answer[part] for part in done}
        return done

    def _call(self, method: str, path: str, body: Any = None) -> Any:
        """Call until there is an answer. Raises Refused where trying again cannot help, OSError where it did not."""
        headers = {"Authorization": f"Bearer {self._token}", "Content-Type": "application/json"}
        sent = None if body is None else json.dumps(body).encode()
        for again in range(self._tries):
            pause = self._wait * 2**again
            try:
                with urlopen(Request(self._address + path, sent, headers, method=method), timeout=SECONDS) as answer:
                    return json.loads(answer.read())
            except HTTPError as error:
                if error.code < 500 and error.code != 429:
                    raise Refused(error.code, error.read().decode("utf-8", "replace")) from error
                pause, why = max(pause, float(error.headers.get("Retry-After") or 0)), str(error)
            except (OSError, HTTPException, ValueError) as error:  # not reached, cut off, or half an answer
                why = str(error)
            if again + 1 < self._tries:
                time.sleep(pause)
        raise OSError(f"{method} {path} was tried {self._tries} times: {why}")


class Refused(Exception):
    """The call itself is wrong: its status, and the problem in words."""


def number(product: dict[str, Any]) -> str:
    """Return the number by which a product is known."""
    return str(product.get("productGroupID") or product["sku"])
