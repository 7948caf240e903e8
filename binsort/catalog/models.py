"""The catalogue: products, their variants, the category tree."""

from django.conf import settings
from django.contrib.postgres.fields import ArrayField
from django.db import models
from django.db.models.functions import Now
from tree_queries.models import TreeNode

from .fields import ExactNumberField


class Category(TreeNode):
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

    def __str__(self) -> str:
        return self.sku or f"variant {self.place + 1}"


class Import(models.Model):
    """A file that was brought in."""

    file = models.TextField()
    form = models.TextField()
    at = models.DateTimeField(db_default=Now())
    actor = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    missing = models.TextField()  # what became of products that it does not name
    new = models.PositiveIntegerField()
    changed = models.PositiveIntegerField()
    left = models.PositiveIntegerField()  # hidden or deleted
    refused = models.PositiveIntegerField()  # rows
    undone_at = models.DateTimeField(null=True)

    def __str__(self) -> str:
        return self.file


class ImportedProduct(models.Model):
    """What a product was before a file changed it, for undoing."""

    record = models.ForeignKey(Import, on_delete=models.CASCADE, related_name="products")
    identity = models.TextField()
    before = models.TextField()  # a line of a catalogue file; empty: it was not there
    after = models.TextField(blank=True)  # a digest of what it was made; empty: it is gone

    class Meta:
        constraints = (models.UniqueConstraint(fields=("record", "identity"), name="imported_product_once"),)

    def __str__(self) -> str:
        return f"{self.identity} in import {self.record_id}"
