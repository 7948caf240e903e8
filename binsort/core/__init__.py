"""The rules of the job: values, facets, bins, matching, counting. No framework, no database, no HTML."""

from .index import sources  # noqa: F401 - registers every kind of source
