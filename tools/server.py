"""The processes of the demo, in the background: gunicorn on loopback, and the worker for long work."""

import json
import os
import signal
import subprocess
import time
import urllib.error
import urllib.request
from pathlib import Path
from typing import Any

from .cluster import free_port, port_is_free
from .environment import PROJECT, PYTHON, CannotGoOn, data_folder

_PREFERRED, _CLUB = 8000, 8100
_PROCESSES = 2


def _facts_file() -> Path:
    return data_folder() / "server.json"


def start(environment: dict[str, str]) -> tuple[str, str]:
    """Start the server, the worker and the site of another house, in place of those already running from this folder.

    Returns:
        The address of the server, and that of the other site.
    """
    known = _facts()
    stop()
    port, club = _port(known.get("port"), _PREFERRED), _port(known.get("club_port"), _CLUB)
    web = [
        "-m",
        "gunicorn",
        "binsort.project.wsgi",
        "--bind",
        f"127.0.0.1:{port}",
        "--workers",
        str(_PROCESSES),
        "--threads",
        "4",
        "--timeout",
        "120",
    ]
    web += ["--limit-request-line", "8190", "--no-control-socket", "--worker-tmp-dir", str(data_folder())]
    worker = ["-m", "binsort.project.manage", "procrastinate", "worker", "--concurrency", "1", "--delete-jobs", "successful"]
    address, abroad = f"http://127.0.0.1:{port}", f"http://127.0.0.1:{club}"
    started = {
        "web": _begin("server", web, {**environment, "BINSORT_PROCESSES": str(_PROCESSES)}),
        "worker": _begin("worker", worker, environment),
        "club": _begin("club", ["-m", "binsort.demo.club.server", str(club), address], environment),
    }
    facts = {name: {"pid": process.pid, "born": _born(process.pid)} for name, process in started.items()}
    _facts_file().write_text(json.dumps({"port": port, "club_port": club, **facts}))
    _wait_for(address + "/shop/", started["web"], data_folder() / "server.log")
    _wait_for(abroad, started["club"], data_folder() / "club.log")
    return address, abroad


def _port(last: int | None, usual: int) -> int:
    """Return the port of the last time, else the usual one, else any that is free."""
    return next((port for port in (last, usual) if port and port_is_free(port)), None) or free_port()


def _begin(name: str, arguments: list[str], environment: dict[str, str]) -> "subprocess.Popen[bytes]":
    with (data_folder() / f"{name}.log").open("ab") as output:
        return subprocess.Popen(
            [str(PYTHON), *arguments], cwd=PROJECT, env=environment, stdout=output, stderr=output, start_new_session=True
        )


def stop() -> bool:
    """Stop what ``start`` started, and only that; tells whether any of it was running."""
    facts = _facts()
    running = [found for name in ("worker", "web", "club") if _born((found := facts.get(name, {})).get("pid", 0)) == found.get("born", -1)]
    for found in running:
        os.kill(found["pid"], signal.SIGTERM)
    for found in running:
        _wait_until_gone(found["pid"], found["born"])
    return bool(running)


def _wait_until_gone(pid: int, born: int) -> None:
    for _ in range(100):
        if _born(pid) != born:
            return
        time.sleep(0.05)
    os.killpg(pid, signal.SIGKILL)


def _facts() -> dict[str, Any]:
    try:
        found: dict[str, Any] = json.loads(_facts_file().read_text())
    except (OSError, ValueError):
        return {}
    return found


def _born(pid: int) -> int:
    """Return when a process started, 0 where there is none: a number used again is not taken for the same process."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return 0
    return 0 if fields[0] == "Z" else int(fields[19])


def _wait_for(address: str, process: "subprocess.Popen[bytes]", log: Path) -> None:
    for _ in range(200):
        if process.poll() is not None:
            break
        try:
            with urllib.request.urlopen(address, timeout=20):
                return
        except urllib.error.HTTPError as error:
            raise CannotGoOn(f"The server answers {error.code}; the reason is in {log}.") from error
        except OSError:
            time.sleep(0.1)
    raise CannotGoOn(f"The server did not start; the reason is at the end of {log}.")
