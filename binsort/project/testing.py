"""The test runner: Django's, with a fast password hasher, the slowest tests named, and a closing line that says how many passed."""

import time
from argparse import ArgumentParser
from typing import Any
from unittest import TestResult

from django.conf import settings
from django.test.runner import DiscoverRunner


class Runner(DiscoverRunner):
    """Runs everything below ``tests`` and counts."""

    @classmethod
    def add_arguments(cls, parser: ArgumentParser) -> None:
        """Add to Django's own arguments."""
        super().add_arguments(parser)
        parser.add_argument("--slowest", type=int, default=0, metavar="N", help="name the N slowest tests")

    def __init__(self, *, slowest: int = 0, **options: Any) -> None:
        super().__init__(**options)
        self._slowest = slowest

    def setup_test_environment(self, **kwargs: Any) -> None:
        """Passwords are kept as fast as they can be: a hundred sign-ins should not take a minute."""
        super().setup_test_environment(**kwargs)
        settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
        settings.CHECKUP_SECONDS = None
        settings.FOOTFALL_SECONDS = settings.VISITS_SECONDS = settings.CALLS_A_MINUTE = 0
        settings.STORAGES = {
            **settings.STORAGES, "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"}  # nothing is collected
        }  # fmt: skip

    def teardown_databases(self, old_config: Any, **kwargs: Any) -> None:
        """Drop the databases, ending the sessions that a server's threads left open."""
        for database, _, _ in old_config:
            database.close()
            with database._nodb_cursor() as cursor:
                ours = database.settings_dict["NAME"]
                cursor.execute("SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname LIKE %s", [f"{ours}%"])
        super().teardown_databases(old_config, **kwargs)

    def run_suite(self, suite: Any, **kwargs: Any) -> Any:
        """Run the tests, each of them timed where the slowest are asked for."""
        times: dict[str, float] = {}
        for test in suite if self._slowest and self.parallel < 2 else ():
            test.run = _timed(test, times)
        result = super().run_suite(suite, **kwargs)
        for name, took in sorted(times.items(), key=lambda item: -item[1])[: self._slowest]:
            print(f"{took:7.2f} s  {name}")
        return result

    def suite_result(self, suite: Any, result: TestResult, **kwargs: Any) -> int:
        """Print the counts and return how many failed."""
        failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
        passed = max(0, result.testsRun - failed - len(result.skipped))
        print(f"{passed} passed, {failed} failed, {len(result.skipped)} skipped")
        return failed if result.testsRun else 1


def _timed(test: Any, times: dict[str, float]) -> Any:
    run = test.run

    def timed(result: TestResult | None = None) -> TestResult | None:
        started = time.monotonic()
        try:
            outcome: TestResult | None = run(result)
            return outcome
        finally:
            times[test.id()] = time.monotonic() - started

    return timed
