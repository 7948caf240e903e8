"""The test runner: Django's, with a closing line that says how many tests passed."""

from typing import Any
from unittest import TestResult

from django.test.runner import DiscoverRunner


class Runner(DiscoverRunner):
    """Runs everything below ``tests`` and counts."""

    def suite_result(self, suite: Any, result: TestResult, **kwargs: Any) -> int:
        """Print the counts and return how many failed."""
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        passed = result.testsRun - failed - len(result.skipped)
        print(f"{passed} passed, {failed} failed, {len(result.skipped)} skipped")
        return failed if result.testsRun else 1
