"""Paths of categories."""

from binsort.catalog import models


def category_paths() -> dict[int, tuple[str, ...]]:
    """Return the path of names of every category by its primary key; one query."""
    rows = {row.pk: row for row in models.Category.objects.all()}

    def path(row: models.Category) -> tuple[str, ...]:
        above = path(rows[row.parent_id]) if row.parent_id else ()
        return (*above, row.name)

    return {pk: path(row) for pk, row in rows.items()}
