"""How many random examples a property is held against."""

import os

from hypothesis import HealthCheck, settings

_MORE = 20 if os.environ.get("BINSORT_LONG") else 1


def examples(number, **more):
    """Hold a property against so many examples, twenty times as many in the long run."""
    return settings(max_examples=number * _MORE, deadline=None, suppress_health_check=list(HealthCheck), **more)
