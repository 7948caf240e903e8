"""The catalogue's version: moved on by the database itself at every write, whoever writes."""

from django.db import models


class CatalogueVersion(models.Model):
    """One row whose number grows, in the writer's own transaction, with every change of the catalogue."""

    number = models.BigIntegerField(default=0)

    class Meta:
        constraints = (models.CheckConstraint(condition=models.Q(id=1), name="one_catalogue_version"),)

    def __str__(self) -> str:
        return str(self.number)
