"""A server of two processes for a while, as the demo has one."""

import http.client
import os
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

_PROJECT = Path(__file__).parent.parent


@dataclass(frozen=True, slots=True)
class Web:
    """A server that runs."""

    port: int
    master: int  # the process whose children answer

    def memory(self) -> list[float]:
        """Return the megabytes of each process that answers, what they share in parts (PSS of the kernel)."""
        children = Path(f"/proc/{self.master}/task/{self.master}/children").read_text().split()
        return sorted(_pss(int(child)) for child in children)


def _pss(process: int) -> float:
    lines = Path(f"/proc/{process}/smaps_rollup").read_text().splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith("Pss:")) / 1000


@contextmanager
def web(database: str, **environment: str) -> Iterator[Web]:
    """Serve a database with two processes, until they are not needed any more."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    url = os.environ["BINSORT_DATABASE_URL"].rpartition("/")[0] + f"/{database}"
    known = {**os.environ, "BINSORT_DATABASE_URL": url, "DJANGO_SETTINGS_MODULE": "binsort.project.settings", "BINSORT_PROCESSES": "2"}
    collect = [sys.executable, "-m", "binsort.project.manage", "collectstatic", "--noinput", "-v", "0"]
    subprocess.run(collect, cwd=_PROJECT, env=known, check=True)
    command = ["-m", "gunicorn", "binsort.project.wsgi", "--bind", f"127.0.0.1:{port}", "--workers", "2", "--threads", "4"]
    server = subprocess.Popen(
        [sys.executable, *command], cwd=_PROJECT, env={**known, **environment}, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    try:
        for _ in range(400):
            if _is_up(port):
                break
            time.sleep(0.1)
        yield Web(port, server.pid)
    finally:
        server.terminate()
        server.wait(20)


def _is_up(port: int) -> bool:
    try:
        connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
        connection.request("GET", "/shop/")
        return connection.getresponse().status == 200
    except OSError:
        return False
