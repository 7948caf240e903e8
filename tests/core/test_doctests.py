"""The examples in the core's docstrings are true."""

import doctest
import importlib
import pkgutil
from unittest import TestSuite

import binsort.core


def load_tests(loader, tests, pattern):
    """Add the doctests of every module of the core."""
    suite = TestSuite(tests)
    for module in pkgutil.iter_modules(binsort.core.__path__):
        suite.addTests(doctest.DocTestSuite(importlib.import_module(f"binsort.core.{module.name}")))
    return suite
