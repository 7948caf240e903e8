"""The one command: what it refuses, what it stops, what it takes for fresh."""

import json
import os
import socket
import subprocess
import tempfile
from pathlib import Path
from unittest import TestCase, mock

from tools import cluster, environment, server, styles
from tools.commands import main

PROJECT = Path(__file__).resolve().parent.parent.parent
SAMPLES = PROJECT / "tests/core/samples"


class CommandTests(TestCase):
    def test_count_as_typed(self):
        """Standard output holds the answer and nothing else; the status says whether there is one."""
        files = [SAMPLES / "catalogue.jsonl", SAMPLES / "facets.json"]
        done = subprocess.run([PROJECT / "run", "count", *files, "colour=navy", "--now", "2024-06-15"], capture_output=True, text=True)
        self.assertEqual((done.returncode, json.loads(done.stdout)["total"]), (0, 3))
        self.assertEqual(done.stdout, (SAMPLES / "expected.jsonl").read_text().splitlines(keepends=True)[1])
        done = subprocess.run([PROJECT / "run", "count", *files, "--per", "none"], capture_output=True, text=True)
        self.assertEqual((done.returncode, done.stdout), (2, ""))

    def test_help_and_unknown_commands(self):
        """Help is an answer; an unknown command is an error that shows the help."""
        for arguments, status, stream in ((["help"], 0, "stdout"), ([], 0, "stdout"), (["dance"], 2, "stderr")):
            done = subprocess.run([PROJECT / "run", *arguments], capture_output=True, text=True)
            self.assertEqual(done.returncode, status)
            self.assertIn("./run demo", getattr(done, stream))

    def test_problems_are_said_in_a_sentence(self):
        """No traceback: what is missing and the command that brings it."""
        with mock.patch.object(environment.shutil, "which", return_value=None), self.assertRaises(environment.CannotGoOn) as caught:
            environment.install_debian(["chromium"], "The browser tests need Chromium.")
        self.assertIn("install chromium in its own way", str(caught.exception))
        with mock.patch("tools.commands.prepare_python", side_effect=environment.CannotGoOn("No network.")):
            self.assertEqual(main(["count"]), 1)


class ServerTests(TestCase):
    def setUp(self):
        """Work in a data folder of its own."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.enterContext(mock.patch.dict(os.environ, {"BINSORT_DATA": str(self.folder)}))

    def test_stop_ends_what_was_started_and_nothing_else(self):
        """A process that only has the same number now is left alone."""
        process = subprocess.Popen(["sleep", "60"])
        self.addCleanup(process.kill)
        born = server._born(process.pid)
        (self.folder / "server.json").write_text(json.dumps({"port": 1, "worker": {"pid": process.pid, "born": born - 1}}))
        self.assertFalse(server.stop())
        self.assertIsNone(process.poll())
        (self.folder / "server.json").write_text(json.dumps({"port": 1, "worker": {"pid": process.pid, "born": born}, "web": {}}))
        self.assertTrue(server.stop())
        self.assertEqual(process.wait(5), -15)
        self.assertFalse(server.stop())

    def test_taken_ports_are_seen(self):
        """A port that somebody listens on is not free; another is found."""
        with socket.create_server(("127.0.0.1", 0)) as taken:
            port = taken.getsockname()[1]
            self.assertFalse(cluster.port_is_free(port))
            self.assertNotEqual(cluster.free_port(), port)
        self.assertTrue(cluster.port_is_free(cluster.free_port()))

    def test_folders_that_others_cannot_enter(self):
        """PostgreSQL's user must reach its files; below a closed folder the cluster lives elsewhere."""
        self.folder.chmod(0o755)
        self.assertTrue(cluster._reachable(self.folder / "postgres"))
        self.folder.chmod(0o700)
        self.assertFalse(cluster._reachable(self.folder / "postgres"))


class FreshnessTests(TestCase):
    def test_built_sheets_belong_to_their_sources(self):
        """The committed sheets are fresh, and a changed source makes them stale."""
        self.assertEqual(styles.stale_sheets(), [])
        with mock.patch.object(styles, "inputs_digest", return_value="another"):
            self.assertEqual(len(styles.stale_sheets()), len(styles.BUILT))

    def test_lock_files_have_hashes_and_name_no_host(self):
        """Every package is pinned with a hash."""
        for path in (PROJECT / "requirements").glob("*.lock"):
            text = path.read_text()
            self.assertNotIn("://", text)
            packages = [line for line in text.splitlines() if "==" in line and not line.lstrip().startswith("#")]
            self.assertTrue(packages)
            self.assertGreaterEqual(text.count("--hash=sha256:"), len(packages))
