"""Sums of days."""

from django.db import models


class DaySum(models.Model):
    """How often something happened on a day of the shop."""

    day = models.DateField()
    kind = models.TextField()  # what happens: one of binsort.footfall.kinds
    what = models.TextField()  # with what it happens
    times = models.BigIntegerField()
    last = models.DateTimeField()  # when it happened last

    class Meta:
        constraints = (models.UniqueConstraint(fields=("day", "kind", "what"), name="day_sum_once"),)
        indexes = (models.Index(fields=("kind", "day"), name="day_sum_of_kind"),)

    def __str__(self) -> str:
        return f"{self.day}: {self.kind} {self.what}, {self.times}"


class Switch(models.Model):
    """Whether visits are counted: one row, or none where nobody said anything."""

    on = models.BooleanField(default=True)

    def __str__(self) -> str:
        return "on" if self.on else "off"
