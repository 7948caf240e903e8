"""The rules of the job: values, facets, bins, matching, counting. No framework, no database, no HTML."""
