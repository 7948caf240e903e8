"""Nothing is lost when processes die, and no process answers with less than was committed before it was asked."""

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import TestCase

PROJECT = Path(__file__).parents[2]
ROUNDS = 1000 if os.environ.get("BINSORT_LONG") else 30


class KillTests(TestCase):
    def test_kills_change_no_count(self):
        """Web process, worker, writer and PostgreSQL are killed in the middle of things; every count is right afterwards."""
        with tempfile.TemporaryDirectory(prefix="binsort-kills-") as folder:
            Path(folder).chmod(0o755)  # PostgreSQL's user has to get in
            environment = {**os.environ, "BINSORT_DATA": folder}
            done = subprocess.run(
                [sys.executable, "-m", "tests.kills", str(ROUNDS), "7"], cwd=PROJECT, env=environment, capture_output=True, text=True
            )
        self.assertEqual(done.returncode, 0, done.stderr[-3000:])
        found = json.loads(done.stdout.splitlines()[-1])
        self.assertEqual((found["rounds"], sum(found["killed"].values())), (ROUNDS, ROUNDS))
        self.assertEqual(set(found["killed"]), {"web", "worker", "writer", "postgres"})
        self.assertGreater(found["from snapshots"], ROUNDS // 2)


class FreshnessTests(TestCase):
    """Two web processes over one database that is written to all the time."""

    def test_no_answer_is_older_than_the_last_commit(self):
        """Whatever was committed before a request, by whatever process it is answered, is in the answer."""
        with tempfile.TemporaryDirectory(prefix="binsort-fresh-") as folder:
            Path(folder).chmod(0o755)
            done = subprocess.run(
                [sys.executable, "-m", "tests.kills.freshness", "150"],
                cwd=PROJECT,
                env={**os.environ, "BINSORT_DATA": folder},
                capture_output=True,
                text=True,
            )
        self.assertEqual(done.returncode, 0, done.stderr[-3000:])
        found = json.loads(done.stdout.splitlines()[-1])
        self.assertEqual(found["stale"], 0)
        self.assertGreater(found["commits"], 50)
        self.assertEqual(found["asked"], 300)
