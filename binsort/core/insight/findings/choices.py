"""Choices that cannot work: all of several values where no product ever has two."""

from collections.abc import Iterator

from binsort.core.insight.value_list import most_at_once

from .finding import Bench, Document, Finding, Found, Mend


class AllOfOne(Finding):
    """All-of on a source of which no product has two values."""

    id = "all-of-one"
    matters = 0.3

    def look(self, bench: Bench) -> Iterator[Found]:
        if not bench.facet.spec.matches_all or most_at_once(bench.state, bench.facet) != 1:
            return

        def any_of(document: Document) -> Document:
            return {**document, "match": "any"}

        text = "No product has two of these: with “all of” a second pick always leaves nothing"
        yield self.says("", bench.total, text, Mend("any-of", "Match any of them", "lets a second pick add products", any_of))


FINDERS = (AllOfOne(),)
