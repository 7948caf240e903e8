"""The set-up: every edition of it that was ever made, which one is worked on and which one shoppers see."""

from functools import lru_cache
from typing import Any

from django.conf import settings
from django.db import models

from binsort.core.facets.facet_file import FacetFile, facet_file
from binsort.core.values.strict_json import loads


@lru_cache(maxsize=32)
def _document(text: str) -> dict[str, Any]:
    """Read a text once; editions never change."""
    return loads(text)  # type: ignore[no-any-return]


@lru_cache(maxsize=32)
def _facet_file(text: str) -> FacetFile:
    """Check a facet file once."""
    return facet_file(_document(text))


class Edition(models.Model):
    """The whole set-up, a facet file, as it stood after one change. Never changed afterwards."""

    text = models.TextField()  # JSON; as text, so that no number is ever rounded
    base = models.ForeignKey("self", null=True, on_delete=models.PROTECT, related_name="followers")
    summary = models.TextField()
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return self.summary

    @property
    def document(self) -> dict[str, Any]:
        """The facet file as a document; shared, so never to be changed in place."""
        return _document(self.text)

    @property
    def facet_file(self) -> FacetFile:
        """The facets and racks of this edition."""
        return _facet_file(self.text)


class Setup(models.Model):
    """One row: the draft that is worked on and the edition that is live."""

    draft = models.ForeignKey(Edition, on_delete=models.PROTECT, related_name="+")
    live = models.ForeignKey(Edition, null=True, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = (models.CheckConstraint(condition=models.Q(id=1), name="one_setup"),)

    def __str__(self) -> str:
        return "the set-up"
