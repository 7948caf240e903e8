"""The commands of ./run."""

import os
import secrets
import subprocess
import sys
import time
from collections.abc import Callable

from . import server
from .cluster import Cluster
from .environment import PROJECT, PYTHON, CannotGoOn, data_folder, prepare_chromium, prepare_python, say

_HELP = """./run demo          set everything up, load the demo shop, serve it on 127.0.0.1
./run stop          stop what ./run demo started
./run test [NAME]   run the tests, browser tests included; --long with many more examples
./run check         linters, types, import contracts, migrations, freshness of built files
./run import FILE   bring in CSV, XLSX, JSON Lines or JSON-LD; --trial only says what would change, --undo takes it back
./run racks-out FILE  write facets, racks, places and looks into a facet file; --live what shoppers see
./run racks-in FILE   make a facet file the draft; --trial only says what would change, --master WHERE makes it the master
./run export FILE   write the catalogue: .csv, .xlsx, .jsonl or .jsonld
./run feed          play a shop that sells: price and stock changes by the API, to watch live counts
./run crowd         send simulated shoppers into the demo shop, so that footfall has something to tell
./run bench         measure; --help lists what can be chosen
./run screenshots   take docs/screenshots anew from the demo
./run count         answer queries from a catalogue file and a facet file; --help says how
./run build-css     build the style sheets (needs Node)
./run manage ...    Django's management commands"""


def main(arguments: list[str]) -> int:
    """Run one command; returns the exit status."""
    name, rest = (arguments or ["help"])[0], arguments[1:]
    command = _COMMANDS.get(name)
    if command is None:
        print(_HELP, file=sys.stdout if name in ("help", "--help", "-h") else sys.stderr)
        return 0 if name in ("help", "--help", "-h") else 2
    try:
        return command(rest)
    except CannotGoOn as problem:
        say(f"./run {name}: {problem}")
        return 1
    except KeyboardInterrupt:
        return 130
    except BrokenPipeError:  # whoever read the output has read enough
        sys.stdout = open(os.devnull, "w")  # noqa: PTH123, SIM115 - until the process ends
        return 0


def _environment(cluster: Cluster | None = None) -> dict[str, str]:
    environment = {**os.environ, "BINSORT_DATA": str(data_folder()), "BINSORT_SECRET_KEY": _secret(), "PYTHONDONTWRITEBYTECODE": "1"}
    environment["DJANGO_SETTINGS_MODULE"] = "binsort.project.settings"
    if cluster is not None:
        environment["BINSORT_DATABASE_URL"] = cluster.url()
    return environment


def _secret() -> str:
    path = data_folder() / "secret"
    if not path.exists():
        data_folder().mkdir(parents=True, exist_ok=True)
        path.write_text(secrets.token_urlsafe(50))
        path.chmod(0o600)
    return path.read_text()


def _python(*arguments: str, environment: dict[str, str]) -> int:
    return subprocess.run([PYTHON, *arguments], cwd=PROJECT, env=environment).returncode


def _where_called(*arguments: str, environment: dict[str, str]) -> int:
    """Run a management command in the folder that ./run was called in, so that names of files mean what they say."""
    command = [str(PYTHON), "-m", "binsort.project.manage", *arguments]
    return subprocess.run(command, env={**environment, "PYTHONPATH": str(PROJECT)}).returncode


def _step(*arguments: str, environment: dict[str, str]) -> None:
    if _python(*arguments, environment=environment):
        raise CannotGoOn(f"'{' '.join(arguments)}' failed; the reason is above.")


def demo(rest: list[str]) -> int:
    """Set up, load the demo shop once, serve, print the addresses."""
    started = time.monotonic()
    prepare_python("base")
    cluster = Cluster()
    cluster.start()
    environment = _environment(cluster)
    _step("-m", "binsort.project.manage", "prepare_demo", environment=environment)
    address, abroad = server.start(environment)
    _step("-m", "binsort.project.manage", "let_club_in", abroad, environment=environment)
    print(f"""Bin Sort is ready after {time.monotonic() - started:.1f} s.

  The owner's tool   {address}/racks/
      sign in as     mara
      password       sea-campion-and-thrift
  The shop           {address}/shop/
  A club's own site  {abroad}/

./run stop stops it.""")
    return 0


def stop(rest: list[str]) -> int:
    """Stop the server and the cluster of this folder."""
    stopped = [name for name, done in (("the server and its worker", server.stop()), ("PostgreSQL", Cluster().stop())) if done]
    print(f"Stopped {' and '.join(stopped)}." if stopped else "Nothing was running.")
    return 0


def _with_cluster(locks: tuple[str, ...], work: Callable[[dict[str, str]], int], cluster: Cluster | None = None) -> int:
    """Do some work with a database, leaving the cluster as it was found."""
    prepare_python(*locks)
    cluster = cluster or Cluster()
    started = cluster.start()
    try:
        return work(_environment(cluster))
    finally:
        if started:
            cluster.stop()


def test(rest: list[str]) -> int:
    """Run the tests: those named, or all, with ``--long`` many more examples."""
    from .testing import run_all, run_some

    prepare_chromium()
    long, named = "--long" in rest, [name for name in rest if name != "--long"]
    run = run_some if named else run_all
    return _with_cluster(
        ("base", "dev", "data"),
        lambda environment: run(named, {**environment, **({"BINSORT_LONG": "1"} if long else {})}),
        Cluster("test-postgres", durable=False),
    )


def check(rest: list[str]) -> int:
    """Run every check that needs no browser."""
    from .checks import run_checks

    return _with_cluster(("base", "dev"), run_checks)


def bench(rest: list[str]) -> int:
    """Measure."""
    return _with_cluster(("base", "dev"), lambda environment: _python("-m", "bench", *rest, environment=environment))


def screenshots(rest: list[str]) -> int:
    """Take the pictures of the documentation from the demo."""
    prepare_chromium()
    prepare_python("base", "dev")
    demo([])
    crowd(["--visits", "500"])
    time.sleep(6)  # until what was counted is written
    return _python("-m", "tools.screenshots", f"http://127.0.0.1:{server._facts()['port']}", *rest, environment=_environment(Cluster()))


def count(rest: list[str]) -> int:
    """Answer queries from files."""
    prepare_python("base")
    os.environ["PYTHONPATH"] = str(PROJECT)
    os.execv(PYTHON, [str(PYTHON), "-m", "binsort.core.count", *rest])


def build_css(rest: list[str]) -> int:
    """Build the style sheets."""
    from .styles import build

    build()
    return 0


def manage(rest: list[str]) -> int:
    """Run a management command."""
    return _with_cluster(("base", "dev"), lambda environment: _python("-m", "binsort.project.manage", *rest, environment=environment))


def import_file(rest: list[str]) -> int:
    """Bring a file of products in."""
    return _with_cluster(("base",), lambda environment: _where_called("import_products", *rest, environment=environment))


def export_file(rest: list[str]) -> int:
    """Write the catalogue into a file."""
    return _with_cluster(("base",), lambda environment: _where_called("export_products", *rest, environment=environment))


def racks_out(rest: list[str]) -> int:
    """Write the set-up into a facet file."""
    return _with_cluster(("base",), lambda environment: _where_called("racks_out", *rest, environment=environment))


def racks_in(rest: list[str]) -> int:
    """Make a facet file the draft."""
    return _with_cluster(("base",), lambda environment: _where_called("racks_in", *rest, environment=environment))


def feed(rest: list[str]) -> int:
    """Send the changes of a simulated shop to the demo."""
    prepare_python("base")
    demo([])
    address = f"http://127.0.0.1:{server._facts()['port']}"
    return _where_called("feed", "--address", address, *rest, environment=_environment(Cluster()))


def crowd(rest: list[str]) -> int:
    """Send simulated shoppers into the demo."""
    prepare_python("base")
    demo([])
    address = f"http://127.0.0.1:{server._facts()['port']}"
    return _where_called("crowd", "--address", address, *rest, environment=_environment(Cluster()))


_COMMANDS: dict[str, Callable[[list[str]], int]] = {
    "demo": demo,
    "stop": stop,
    "test": test,
    "check": check,
    "import": import_file,
    "export": export_file,
    "racks-out": racks_out,
    "racks-in": racks_in,
    "feed": feed,
    "crowd": crowd,
    "bench": bench,
    "screenshots": screenshots,
    "count": count,
    "build-css": build_css,
    "manage": manage,
}
