"""The catalogue: products, their variants, the category tree."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.contrib.postgres.indexes import GinIndex, OpClass
from django.contrib.postgres.search import SearchVector
from django.db import models
from django.db.models.functions import Now, Upper
from tree_queries.models import TreeNode

from binsort.catalog.store.exact_number_field import ExactNumberField

TEXT_CONFIG = "english"  # of the full text of names: words are brought to their stems


def _letters(column: str) -> GinIndex:
    """Index a text by groups of three letters, so that a part of it is found, in whatever case."""
    return GinIndex(OpClass(Upper(column), name="gin_trgm_ops"), name=f"letters_of_{column}")


class Category(TreeNode):  # type: ignore[misc]  # has no types
    """A node of the category tree; products may be in several."""

    name = models.TextField()
    slug = models.TextField()
    path_identity = models.TextField(unique=True)  # identities of the names from the top down, joined with " > "
    place = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ("place", "id")
        constraints = (
            models.UniqueConstraint(fields=("parent", "slug"), name="category_slug_below_parent", nulls_distinct=False),
            models.CheckConstraint(condition=~models.Q(name=""), name="category_has_name"),
        )

    def __str__(self) -> str:
        return self.name


class Product(models.Model):
    """A product; its price and stock are those of its variants."""

    identity = models.TextField(unique=True)
    place = models.BigIntegerField(db_index=True)  # the order of the catalogue
    name = models.TextField()
    description = models.TextField(blank=True)
    image = models.TextField(blank=True)
    url = models.TextField(blank=True)
    brand = models.TextField(blank=True)
    tags = ArrayField(models.TextField(), default=list, blank=True)
    published = models.DateField(null=True, blank=True)
    rating_value = ExactNumberField(null=True, blank=True)
    review_count = ExactNumberField(null=True, blank=True)
    properties = models.JSONField(default=list, blank=True)  # see records.py
    visible = models.BooleanField(default=True)
    categories = models.ManyToManyField(Category, through="Placement", related_name="products")

    class Meta:
        ordering = ("place", "id")
        constraints = (
            models.CheckConstraint(condition=~models.Q(identity=""), name="product_has_identity"),
            models.CheckConstraint(condition=~models.Q(name=""), name="product_has_name"),
        )
        indexes = (_letters("name"), _letters("identity"), GinIndex(SearchVector("name", config=TEXT_CONFIG), name="words_of_name"))

    def __str__(self) -> str:
        return self.name


class Placement(models.Model):
    """A product in a category."""

    product = models.ForeignKey(Product, on_delete=models.CASCADE, related_name="placements")
    category = models.ForeignKey(Category, on_delete=models.CASCADE, related_name="placements")
    place = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ("place", "id")
        constraints = (models.UniqueConstraint(fields=("product", "category"), name="product_once_in_category"),)

    def __str__(self) -> str:
        return f"{self.product_id} in {self.category_id}"


class Variant(models.Model):
    """An article that can be bought. A product without variants of its own has one that is implicit."""

    product = models.ForeignKey(Product, on_delete=models.CASCADE, related_name="variants")
    place = models.PositiveIntegerField(default=0)
    sku = models.TextField(blank=True)
    image = models.TextField(blank=True)
    is_implicit = models.BooleanField(default=False)
    price = ExactNumberField(null=True, blank=True)
    list_price = ExactNumberField(null=True, blank=True)
    has_sale_entry = models.BooleanField(default=False)
    sales = models.JSONField(default=list, blank=True)  # see records.py
    availability = models.TextField(blank=True)
    level = ExactNumberField(null=True, blank=True)
    currency = models.TextField(blank=True)
    properties = models.JSONField(default=list, blank=True)  # see records.py

    class Meta:
        ordering = ("place", "id")
        indexes = (_letters("sku"),)

    def __str__(self) -> str:
        return self.sku or f"variant {self.place + 1}"


class Attribute(models.Model):
    """A definition of the dictionary: what an attribute is, whatever products say of it."""

    class Kind(models.TextChoices):
        CHOICE = "choice", "Choice"
        TEXT = "text", "Text"
        NUMBER = "number", "Number"
        YES_NO = "yes_no", "Yes or no"
        DATE = "date", "Date"

    identity = models.TextField(unique=True)
    name = models.TextField()
    kind = models.TextField(choices=Kind)
    unit = models.TextField(blank=True)
    many = models.BooleanField(default=False)  # a product may have several values
    on_variants = models.BooleanField(default=False)  # given by variants, not by the product
    narrowing = models.BooleanField(default=True)  # facets may be made of it
    on_pages = models.BooleanField(default=True)  # product pages show it
    note = models.TextField(blank=True)
    place = models.PositiveIntegerField(default=0)

    class Meta:
        ordering = ("place", "identity")
        constraints = (models.CheckConstraint(condition=~models.Q(name=""), name="attribute_has_name"),)

    def __str__(self) -> str:
        return self.name


class AttributeValue(models.Model):
    """A value of a choice as the dictionary has it: its place among the others, how it looks. Products keep their own words."""

    attribute = models.ForeignKey(Attribute, on_delete=models.CASCADE, related_name="values")
    identity = models.TextField()
    text = models.TextField()
    place = models.PositiveIntegerField(default=0)
    colours = ArrayField(models.TextField(), size=3, default=list, blank=True)  # as #rrggbb
    image = models.TextField(blank=True)
    note = models.TextField(blank=True)  # a short text

    class Meta:
        ordering = ("place", "id")
        constraints = (models.UniqueConstraint(fields=("attribute", "identity"), name="value_once_in_attribute"),)

    def __str__(self) -> str:
        return self.text


def _every_act() -> list[str]:
    return ["look", "products"]


class Token(models.Model):
    """What another system shows to write the catalogue; only a digest of it is kept."""

    name = models.TextField()
    digest = models.TextField(unique=True)
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    at = models.DateTimeField(db_default=Now())
    used_at = models.DateTimeField(null=True)
    ended_at = models.DateTimeField(null=True)
    acts = ArrayField(models.TextField(), default=_every_act)  # what it may do: look, products

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return self.name


class Shape(models.Model):
    """How files with certain columns are read, remembered for the next one."""

    header = models.TextField(unique=True)  # a digest of the names of the columns
    columns = models.JSONField()  # see uploads.py
    at = models.DateTimeField(auto_now=True)

    def __str__(self) -> str:
        return f"{len(self.columns)} columns"


class Upload(models.Model):
    """A file on its way in: what it is, how its columns are read, what it would do."""

    class State(models.TextChoices):
        TRYING = "trying", "being tried"
        TRIED = "tried", "tried"
        BRINGING = "bringing", "being brought in"
        DONE = "done", "brought in"

    name = models.TextField()
    size = models.BigIntegerField(default=0)
    form = models.TextField(blank=True)
    at = models.DateTimeField(db_default=Now())
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    state = models.TextField(choices=State, default=State.TRYING)
    columns = models.JSONField(default=list, blank=True)  # see uploads.py
    sheet = models.TextField(blank=True)  # of a workbook, the one that is read
    workbook = models.JSONField(default=dict, blank=True)  # what was met in it, see workbook.py
    mends = models.JSONField(default=dict, blank=True)  # rows put right by hand, see uploads.py
    remembered = models.BooleanField(default=False)  # its columns are read as those of an earlier file
    missing = models.TextField(default="keep")
    report = models.JSONField(default=dict, blank=True)  # of the trial run, see uploads.py
    refused = models.BinaryField(default=b"", blank=True)  # a file of the rows that are not taken
    problem = models.TextField(blank=True)
    work = models.BigIntegerField(null=True)  # the number of the work that is done on it
    revision = models.ForeignKey("Revision", on_delete=models.SET_NULL, null=True, related_name="+")

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return self.name


class UploadPart(models.Model):
    """A piece of an uploaded file; in the database, so that a worker on another machine can read it."""

    upload = models.ForeignKey(Upload, on_delete=models.CASCADE, related_name="parts")
    place = models.PositiveIntegerField()
    of_sheet = models.BooleanField(default=False)  # it is of the lines that the sheet of a workbook was written as
    content = models.BinaryField()

    class Meta:
        ordering = ("place",)
        constraints = (models.UniqueConstraint(fields=("upload", "of_sheet", "place"), name="part_once_in_upload"),)

    def __str__(self) -> str:
        return f"part {self.place} of {self.upload_id}"


class Export(models.Model):
    """A file that the catalogue was taken out as in the background, to be fetched for some days."""

    form = models.TextField()  # of files/export.py
    at = models.DateTimeField(db_default=Now())
    work = models.BigIntegerField(unique=True)  # the number of the work that wrote it

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"products.{self.form}"


class ExportPart(models.Model):
    """A piece of such a file; in the database, so that it can be fetched from another machine than it was written on."""

    export = models.ForeignKey(Export, on_delete=models.CASCADE, related_name="parts")
    place = models.PositiveIntegerField()
    content = models.BinaryField()

    class Meta:
        ordering = ("place",)
        constraints = (models.UniqueConstraint(fields=("export", "place"), name="part_once_in_export"),)

    def __str__(self) -> str:
        return f"part {self.place} of {self.export_id}"


class Revision(models.Model):
    """One change of the catalogue that can be taken back: a file brought in, cells filled, values merged."""

    class Kind(models.TextChoices):
        FILE = "file", "A file"
        PRODUCTS = "products", "Products"
        DICTIONARY = "dictionary", "Attributes"
        CATEGORIES = "categories", "Categories"

    kind = models.TextField(choices=Kind, default=Kind.FILE)
    summary = models.TextField(blank=True)  # in words
    file = models.TextField(blank=True)
    form = models.TextField(blank=True)  # of the file
    missing = models.TextField(blank=True)  # what became of products that the file does not name
    at = models.DateTimeField(db_default=Now())
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    new = models.PositiveIntegerField(default=0)
    changed = models.PositiveIntegerField(default=0)
    left = models.PositiveIntegerField(default=0)  # hidden or deleted
    refused = models.PositiveIntegerField(default=0)  # rows of the file
    definitions = models.JSONField(default=dict, blank=True)  # see revising.py
    undone_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return self.summary or self.file


class RevisedProduct(models.Model):
    """What a product was before a revision and what it became, for taking it back."""

    revision = models.ForeignKey(Revision, on_delete=models.CASCADE, related_name="products")
    identity = models.TextField()
    before = models.TextField(blank=True)  # a line of a catalogue file; empty: it was not there
    after = models.TextField(blank=True)  # the same; empty: it is gone
    place = models.BigIntegerField(null=True)  # of a product that goes: where it stood in the order of the catalogue

    class Meta:
        constraints = (models.UniqueConstraint(fields=("revision", "identity"), name="revised_product_once"),)

    def __str__(self) -> str:
        return f"{self.identity} in revision {self.revision_id}"
