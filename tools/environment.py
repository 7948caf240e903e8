"""What the project needs on a machine: Debian packages and the virtual environment."""

import fcntl
import hashlib
import os
import shutil
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

PROJECT = Path(__file__).resolve().parent.parent
VENV = PROJECT / ".venv"
PYTHON = VENV / "bin" / "python"


class CannotGoOn(Exception):
    """Something is missing; the text says what and how to get it."""


def say(text: str) -> None:
    """Tell the user, leaving standard output to the command itself."""
    print(text, file=sys.stderr, flush=True)


@contextmanager
def only_one(name: str) -> Iterator[None]:
    """Let one process at a time set something up in this folder."""
    data_folder().mkdir(parents=True, exist_ok=True)
    with (data_folder() / f"{name}.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def data_folder() -> Path:
    """Return the folder of everything that is made while running."""
    return Path(os.environ.get("BINSORT_DATA", PROJECT / ".data")).resolve()


def install_debian(packages: list[str], why: str) -> None:
    """Install Debian packages as root or with sudo. Raises CannotGoOn with the command to type."""
    command = f"apt-get install -y {' '.join(packages)}"
    if shutil.which("apt-get") is None:
        raise CannotGoOn(f"{why} This machine has no apt-get: install {', '.join(packages)} in its own way, then run this again.")
    prefix = [] if os.geteuid() == 0 else ["sudo", "-n"]
    if prefix and shutil.which("sudo") is None:
        raise CannotGoOn(f"{why} As root, type: {command}")
    say(f"{why} Installing {', '.join(packages)} from Debian's packages …")
    environment = {**os.environ, "DEBIAN_FRONTEND": "noninteractive"}
    for step in (["apt-get", "update", "-qq"], command.split()):
        done = subprocess.run([*prefix, *step], env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
        if done.returncode and step[1] == "install":
            raise CannotGoOn(f"{why} '{command}' failed:\n{done.stdout[-2000:]}\nMend that, then run this again.")


def prepare_python(*locks: str) -> None:
    """Make the virtual environment and install the lock files named, once per content of each."""
    if not _fresh(locks):
        with only_one("python"):
            if not _fresh(locks):
                _install(locks)


def _stamp(lock: str) -> tuple[Path, str]:
    digest = hashlib.sha256((PROJECT / "requirements" / f"{lock}.lock").read_bytes()).hexdigest()
    return VENV / f"installed-{lock}", digest


def _fresh(locks: tuple[str, ...]) -> bool:
    return PYTHON.exists() and all(path.exists() and path.read_text() == digest for path, digest in map(_stamp, locks))


def _install(locks: tuple[str, ...]) -> None:
    started = time.monotonic()
    if not PYTHON.exists() or subprocess.run([PYTHON, "-c", "import pip"], capture_output=True).returncode:
        _make_venv()
    for lock in locks:
        path, digest = _stamp(lock)
        if path.exists() and path.read_text() == digest:
            continue
        say(f"Installing Python packages ({lock}) …")
        extra = ["--no-deps"] if lock == "data" else []
        command = [PYTHON, "-m", "pip", "install", "-q", "--disable-pip-version-check", "--require-hashes", *extra]
        done = subprocess.run([*command, "-r", PROJECT / "requirements" / f"{lock}.lock"], stdout=sys.stderr)
        if done.returncode:
            raise CannotGoOn("The Python packages could not be installed (see above). Check the network, then run this again.")
        path.write_text(digest)
    say(f"Python packages ready in {time.monotonic() - started:.0f} s.")


def _make_venv() -> None:
    say("Making the virtual environment …")
    for attempt in range(2):
        shutil.rmtree(VENV, ignore_errors=True)
        done = subprocess.run([sys.executable, "-m", "venv", VENV], capture_output=True, text=True)
        if done.returncode == 0:
            return
        if attempt == 0:
            install_debian(["python3-venv"], "Python's venv module is not whole.")
    raise CannotGoOn(f"The virtual environment could not be made:\n{done.stdout}{done.stderr}")


def prepare_chromium() -> None:
    """Make sure that Debian's Chromium is there for browser tests and screenshots."""
    if not Path("/usr/bin/chromium").exists():
        install_debian(["chromium"], "The browser tests need Chromium.")
