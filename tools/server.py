"""The web server of the demo: gunicorn in the background, on loopback."""

import json
import os
import signal
import subprocess
import time
import urllib.error
import urllib.request
from pathlib import Path

from .cluster import free_port, port_is_free
from .environment import PROJECT, PYTHON, CannotGoOn, data_folder

_PREFERRED = 8000


def _facts_file() -> Path:
    return data_folder() / "server.json"


def start(environment: dict[str, str]) -> str:
    """Start the server, in place of one already running from this folder; returns its address."""
    last = _facts().get("port", _PREFERRED)
    stop()
    port = next((port for port in (last, _PREFERRED) if port_is_free(port)), None) or free_port()
    log = data_folder() / "server.log"
    command = [str(PYTHON), "-m", "gunicorn", "binsort.project.wsgi", "--bind", f"127.0.0.1:{port}", "--workers", "2", "--threads", "4"]
    command += ["--no-control-socket", "--worker-tmp-dir", str(data_folder())]
    with log.open("ab") as output:
        process = subprocess.Popen(command, cwd=PROJECT, env=environment, stdout=output, stderr=output, start_new_session=True)
    _facts_file().write_text(json.dumps({"pid": process.pid, "port": port, "born": _born(process.pid)}))
    address = f"http://127.0.0.1:{port}"
    _wait_for(address + "/shop/", process, log)
    return address


def stop() -> bool:
    """Stop the server that ``start`` started, and only that; tells whether it was running."""
    facts = _facts()
    pid = facts.get("pid")
    if not pid or _born(pid) != facts.get("born"):
        return False
    os.kill(pid, signal.SIGTERM)
    for _ in range(100):
        if _born(pid) != facts["born"]:
            break
        time.sleep(0.05)
    else:
        os.killpg(pid, signal.SIGKILL)
    return True


def _facts() -> dict[str, int]:
    try:
        found: dict[str, int] = json.loads(_facts_file().read_text())
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
