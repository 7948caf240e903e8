"""The examples in docstrings are true: of the core, and of what the templates draw."""

import doctest
import importlib
import pkgutil
from unittest import TestSuite

import binsort.core


def load_tests(loader, tests, pattern):
    """Add the doctests of every module of the core, in whatever room, and of some others."""
    suite = TestSuite(tests)
    names = [module.name for module in pkgutil.walk_packages(binsort.core.__path__, "binsort.core.")]
    for name in (*names, "binsort.racks.templatetags.drawing", "tools.templates"):
        suite.addTests(doctest.DocTestSuite(importlib.import_module(name)))
    return suite
