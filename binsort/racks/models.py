"""The set-up: every edition of it that was ever made, which one is worked on and which one shoppers see."""

from functools import lru_cache
from typing import Any

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext_lazy as _

from binsort.catalog.store.exact_number_field import ExactNumberField
from binsort.core.facets.facet_file import FacetFile, facet_file
from binsort.core.facets.query import pairs_of
from binsort.core.values.strict_json import loads

from .theme import Theme


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
    goes_live_at = models.DateTimeField(null=True)  # of what is scheduled, so that nobody has to look for it before
    master = models.TextField(blank=True)  # where the file is kept that is the master of the draft; empty: the pages are

    class Meta:
        constraints = (models.CheckConstraint(condition=models.Q(id=1), name="one_setup"),)

    def __str__(self) -> str:
        return "the set-up"

    @property
    def for_shoppers(self) -> Edition | None:
        """What shoppers see at this moment: a state whose time has come is shown from that very second, carried out or not."""
        if self.goes_live_at is None or self.goes_live_at > timezone.now():
            return self.live
        due = Schedule.objects.select_related("edition").filter(ended_at=None, at__lte=timezone.now()).first()
        return due.edition if due else self.live


class PutLive(models.Model):
    """One time that shoppers got another set-up: what they see since then, who gave it to them, and why."""

    class Way(models.TextChoices):
        PUT = "put", "put live"
        SCHEDULE = "schedule", "put live by schedule"
        BACK = "back", "gone back to"

    edition = models.ForeignKey(Edition, on_delete=models.PROTECT, related_name="+")  # follows new names of categories and attributes
    way = models.TextField(choices=Way, default=Way.PUT)
    note = models.TextField(blank=True)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return self.note or self.edition.summary


class Schedule(models.Model):
    """A state of the draft that goes live at a moment to come; while it waits, ``ended_at`` is empty."""

    edition = models.ForeignKey(Edition, on_delete=models.PROTECT, related_name="+")
    note = models.TextField(blank=True)
    at = models.DateTimeField()
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    ended_at = models.DateTimeField(null=True)  # carried out, or called off

    class Meta:
        ordering = ("-id",)
        constraints = (models.UniqueConstraint(models.Value(1), condition=models.Q(ended_at=None), name="one_schedule_waits"),)

    def __str__(self) -> str:
        return f"{self.edition} at {self.at:%Y-%m-%d %H:%M:%S}"


class DraftLink(models.Model):
    """A secret address that shows the draft in the shop to whoever has it, until it is ended."""

    token = models.TextField(unique=True)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    made_at = models.DateTimeField(default=timezone.now)
    ended_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"a link made {self.made_at:%Y-%m-%d %H:%M}"


class Entry(models.Model):
    """A line of the history: what was done, by whom, when. Changes of products have theirs among the catalogue's revisions."""

    class Kind(models.TextChoices):
        SETUP = "setup", "the set-up"
        LIVE = "live", "put live"
        CATALOGUE = "catalogue", "the catalogue"
        PEOPLE = "people", "people"

    kind = models.TextField(choices=Kind)
    words = models.TextField()
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    token = models.TextField(blank=True)  # the name of the system that did it by its token
    at = models.DateTimeField(default=timezone.now)
    before = models.ForeignKey(Edition, null=True, on_delete=models.PROTECT, related_name="+")  # the draft, or what was live
    after = models.ForeignKey(Edition, null=True, on_delete=models.PROTECT, related_name="+")
    live = models.ForeignKey(PutLive, null=True, on_delete=models.CASCADE, related_name="+")
    touches = ArrayField(models.TextField(), default=list)  # the facets and racks that differ, as ``facet KEY``, ``rack KEY``
    parts = models.TextField(blank=True)  # JSON: the one facet that differs, before and afterwards; empty for none or several

    class Meta:
        ordering = ("-at", "-id")
        indexes = (models.Index(fields=("-at",), name="entry_at"),)

    def __str__(self) -> str:
        return self.words


class FormerKey(models.Model):
    """A facet that got another key: addresses that people kept lead on."""

    old = models.TextField()
    new = models.TextField()

    class Meta:
        constraints = (models.UniqueConstraint(fields=("old", "new"), name="former_key_once"),)

    def __str__(self) -> str:
        return f"{self.old}, now {self.new}"


class Site(models.Model):
    """Another site that may show listings of this shop."""

    origin = models.TextField(unique=True)  # scheme, host and port as browsers send them
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("origin",)

    def __str__(self) -> str:
        return self.origin


class Embed(models.Model):
    """A listing of this shop as other sites show it, under a name that stands in their pages. What is saved holds at once."""

    class Parts(models.TextChoices):
        TOGETHER = "together", _("Together")
        RACK = "rack", _("Rack apart")
        EACH = "each", _("Each apart")
        FACETS = "facets", _("Each facet apart")

    class Look(models.TextChoices):
        THEIRS = "theirs", _("Theirs")
        PLAIN = "plain", _("Plain")
        SHOP = "shop", _("Our shop's")

    AS_PLACED, NO_RACK = "", "-"  # in place of the key of a rack, which begins with a letter

    name = models.SlugField(max_length=60, unique=True)
    label = models.CharField(max_length=80)
    category = models.ForeignKey("catalog.Category", null=True, on_delete=models.SET_NULL, related_name="+")
    path_identity = models.TextField(blank=True)  # of the category when it was saved: finds it again where a deletion was taken back
    picks = models.TextField(blank=True)  # what it always narrows by, as a query
    rack = models.TextField(blank=True)  # the key of a rack, NO_RACK, or AS_PLACED: what Listings says
    parts = models.TextField(choices=Parts, default=Parts.RACK)
    look = models.TextField(choices=Look, default=Look.THEIRS)
    version = models.PositiveIntegerField(default=1)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ("label", "id")

    def __str__(self) -> str:
        return self.label

    @property
    def pairs(self) -> tuple[tuple[str, str], ...]:
        """What it always narrows by."""
        return tuple(pairs_of(self.picks))


class LeftAsIs(models.Model):
    """A finding that somebody left as it is, until the facts change."""

    place = models.TextField()  # what it is about: ``facet KEY``, ``rack KEY``, ``listing PATH`` or ``products``
    finding = models.TextField()
    subject = models.TextField(blank=True)
    said = models.TextField()  # the finding in words as it was left: other words, other facts
    reason = models.TextField(blank=True)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.SET_NULL, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ("-at", "-id")
        constraints = (models.UniqueConstraint(fields=("place", "finding", "subject"), name="left_as_is_once"),)

    def __str__(self) -> str:
        return self.said


def theme_address(theme: Theme) -> str:
    """Return where the style sheet of a theme is; empty where nothing is set."""
    return f"{reverse('theme')}?{theme.query}" if theme.query else ""


class Picture(models.Model):
    """A picture of a bin that was given as a file: found by what it is, never altered."""

    name = models.SlugField(max_length=64, primary_key=True)  # of what it shows (SHA-256), so that the same picture is kept once
    data = models.BinaryField()  # WebP
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        return self.name

    @property
    def address(self) -> str:
        """Where anybody can read it."""
        return reverse("picture", kwargs={"name": self.name})


class ShopFace(models.Model):
    """One row: what the stand-in shop calls itself, and its own words around the listings."""

    name = models.TextField(blank=True)
    search = models.TextField(blank=True)  # what stands in the field that searches the whole shop
    foot = models.TextField(blank=True)  # at the foot of every page
    free_from = ExactNumberField(null=True, blank=True)  # the sum from which on delivery is free; None: nothing is said of it
    theme = models.JSONField(default=dict, blank=True)  # what is set of :class:`binsort.racks.theme.Theme`
    has_mark = models.BooleanField(default=False)  # the demo's own drawing stands beside its name

    class Meta:
        constraints = (models.CheckConstraint(condition=models.Q(id=1), name="one_shop_face"),)

    def __str__(self) -> str:
        return self.name

    @property
    def themed(self) -> Theme:
        """How its facets are drawn."""
        return Theme.of(self.theme)

    @property
    def theme_address(self) -> str:
        """Where the style sheet of its facets is; empty where they are as usual."""
        return theme_address(self.themed)

    @property
    def name_words(self) -> str:
        """Its name, the usual words where it has none."""
        return self.name or str(_("The shop"))

    @property
    def search_words(self) -> str:
        """What stands in the field that searches the whole shop."""
        return self.search or str(_("Search the whole shop"))
