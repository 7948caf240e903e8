"""The count command: the worked example to the letter, and what it refuses."""

import contextlib
import io
import json
import tempfile
from pathlib import Path
from unittest import TestCase

from binsort.core.count import main

SAMPLES = Path(__file__).parent / "samples"
FILES = [str(SAMPLES / "catalogue.jsonl"), str(SAMPLES / "facets.json")]
NOW = ["--now", "2024-06-15T12:00:00Z"]


def run(*arguments):
    """Run the command; returns status, standard output and standard error."""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            status = main(list(arguments))
        except SystemExit as stop:
            status = stop.code
    return status, out.getvalue(), err.getvalue()


class CountTests(TestCase):
    def test_worked_example(self):
        """Every number of the worked example, which was counted by hand."""
        status, out, err = run(*FILES, *NOW, "--queries", str(SAMPLES / "queries.txt"))
        self.assertEqual((status, err), (0, "variant attributes: Colour\n"))
        self.assertEqual(out, (SAMPLES / "expected.jsonl").read_text())

    def test_options(self):
        """The category of the option goes before the query's, the query's per before the option's."""
        _, out, _ = run(*FILES, "category=fenders&per=1", *NOW, "--category", "ropes", "--per", "2")
        answer = json.loads(out)
        self.assertEqual((answer["listing"], answer["products"]), (3, ["MR-12"]))

    def test_refusals_leave_standard_output_empty(self):
        """Unusable arguments and files exit with 2, say what to do, and print nothing else."""
        with tempfile.TemporaryDirectory() as folder:
            bad = Path(folder) / "bad.json"
            bad.write_text('{"binsort": 1, "facets": [{"key": "A", "label": "", "source": {"kind": "brand"}, "free": true}]}')
            cases = [
                ([FILES[0], str(bad)], "bad-key"),
                ([FILES[0], "nowhere.json"], "cannot be read"),
                ([*FILES, "--now", "noon"], "--now is 'noon'"),
                ([*FILES, "--per", "0"], "--per is '0'"),
                ([*FILES, "--category", " > "], "names no category"),
                ([*FILES, "--rack", "side"], "no rack"),
                ([*FILES, "a=b", "--queries", str(SAMPLES / "queries.txt")], "beside --queries"),
                ([FILES[0]], "required"),
            ]
            for arguments, words in cases:
                with self.subTest(words):
                    status, out, err = run(*arguments)
                    self.assertEqual((status, out), (2, ""))
                    self.assertIn(words, err)
