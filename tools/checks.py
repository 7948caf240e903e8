"""Everything ./run check looks at."""

import subprocess
from pathlib import Path

from .environment import PROJECT, PYTHON, say
from .styles import SHEETS, compiled, has_node, stale_sheets
from .templates import inline_styles, long_lines, unmarked_texts

_BIN = PYTHON.parent


def run_checks(environment: dict[str, str]) -> int:
    """Run all checks, the later ones too when an earlier fails; returns the exit status."""
    failed = [name for name, command in _commands().items() if not _passes(name, command, environment)]
    own = {
        "style sheets": _stale_styles,
        "file sizes": _long_files,
        "lines of templates": long_lines,
        "texts for translation": unmarked_texts,
        "inline styles": inline_styles,
    }
    for name, problems in ((name, look()) for name, look in own.items()):
        say(f"{'✗' if problems else '✓'} {name}")
        for problem in problems:
            say(f"    {problem}")
        failed += [name] if problems else []
    say(f"{len(failed)} checks failed: {', '.join(failed)}" if failed else "All checks passed.")
    return 1 if failed else 0


def _commands() -> dict[str, list[str | Path]]:
    manage: list[str | Path] = [PYTHON, "-m", "binsort.project.manage"]
    return {
        "ruff": [_BIN / "ruff", "check", "."],
        "formatting": [_BIN / "ruff", "format", "--check", "."],
        "types": [_BIN / "mypy"],
        "import contracts": [_BIN / "lint-imports", "--no-cache"],
        "templates": [_BIN / "djlint", "binsort", "--extend-exclude", "demo/club", "--lint", "--quiet"],
        "Django's own checks": [*manage, "check", "--fail-level", "WARNING"],
        "migrations": [*manage, "makemigrations", "--check", "--dry-run"],
        "demo catalogue": [*manage, "make_demo", "--check"],
    }


def _passes(name: str, command: list[str | Path], environment: dict[str, str]) -> bool:
    done = subprocess.run(command, cwd=PROJECT, env=environment, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)
    say(f"{'✗' if done.returncode else '✓'} {name}")
    if done.returncode:
        say("    " + done.stdout.strip().replace("\n", "\n    "))
    return done.returncode == 0


def _stale_styles() -> list[str]:
    stale = [f"{path.relative_to(PROJECT)} is older than its sources: ./run build-css" for path in stale_sheets()]
    if stale or not has_node():
        return stale
    built = {path: path.read_text().partition("\n")[2] for path in SHEETS.values()}
    return [
        f"{path.relative_to(PROJECT)} is not what its sources give: ./run build-css"
        for s, path in SHEETS.items()
        if compiled(s) != built[path]
    ]


def _long_files() -> list[str]:
    tracked = subprocess.run(["git", "ls-files", "*.py"], cwd=PROJECT, capture_output=True, text=True).stdout.split()
    kept = [name for name in tracked if "/migrations/" not in name and not name.startswith("tests/") and (PROJECT / name).exists()]
    sizes = {name: len((PROJECT / name).read_text().splitlines()) for name in kept}
    return [f"{name} has {size} lines; files stay below 400" for name, size in sizes.items() if size > 400]
