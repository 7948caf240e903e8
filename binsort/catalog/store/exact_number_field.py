"""Fields that hold numbers exactly."""

from decimal import Decimal
from fractions import Fraction
from typing import Any

from django.db import models

from binsort.core.values.numbers import Number, exact, written


class ExactNumberField(models.Field):  # type: ignore[type-arg]
    """A number without limits of digits or places; PostgreSQL's ``numeric``, int or Fraction in Python."""

    def db_type(self, connection: Any) -> str:
        return "numeric"

    def from_db_value(self, value: Decimal | None, expression: Any, connection: Any) -> Number | None:
        return None if value is None else exact(format(value, "f"))

    def get_prep_value(self, value: Number | str | None) -> Decimal | None:
        if value is None:
            return None
        return Decimal(value if isinstance(value, str) else written(value))

    def to_python(self, value: Any) -> Number | None:
        return value if value is None or isinstance(value, int | Fraction) else exact(format(Decimal(value), "f"))
