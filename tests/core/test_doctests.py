"""The examples in docstrings are true: of the core, in whatever room, and of what the templates draw."""

import doctest
import importlib
import pkgutil
from unittest import TestCase

import binsort.core

OTHERS = ("binsort.racks.templatetags.drawing", "binsort.workbench.activity.page", "binsort.catalog.files.export", "tools.templates")


class ExampleTests(TestCase):
    def test_examples(self):
        """Every one gives what stands below it; the core has some dozens."""
        names = [module.name for module in pkgutil.walk_packages(binsort.core.__path__, "binsort.core.")]
        tried = 0
        for name in (*names, *OTHERS):
            with self.subTest(name):
                found = doctest.testmod(importlib.import_module(name))
                self.assertEqual(found.failed, 0)
                tried += found.attempted
        self.assertGreater(tried, 40)
