"""Building the style sheets with Tailwind CSS and the script for other sites, and telling whether the built ones are fresh."""

import gzip
import hashlib
import json
import re
import shutil
import subprocess
from pathlib import Path

from .environment import PROJECT, CannotGoOn, only_one, say

ASSETS = PROJECT / "assets"
SHEETS = {
    ASSETS / "workbench.css": PROJECT / "binsort/workbench/static/workbench/workbench.css",
    ASSETS / "shop.css": PROJECT / "binsort/shopfront/static/shopfront/shop.css",
}
_STATIC = PROJECT / "binsort/racks/static/racks"
_EMBED = PROJECT / "binsort/shopfront/static/shopfront/bins.js"
BUILT = (*SHEETS.values(), _EMBED)
_EMBED_STYLE = ASSETS / "embed.css"
_EMBED_PARTS = (  # in the order in which they need each other
    PROJECT / "binsort/project/static/vendor/idiomorph.min.js", _STATIC / "sliders.js", _STATIC / "facets.js",
    ASSETS / "embed/listing.js", ASSETS / "embed/element.js",
)  # fmt: skip
_COMMENT = re.compile(r"^ *//.*\n", re.MULTILINE)  # a line of its own
_STAMP = "/* made of {} */\n"


def inputs_digest() -> str:
    """Return a digest of everything that the style sheets are made of."""
    sheets = [path for folder in (".", "shop", "workbench") for path in (ASSETS / folder).glob("*.css")]
    found = [*sheets, ASSETS / "package.json", ASSETS / "package-lock.json", *(PROJECT / "binsort").rglob("*.html")]
    found += [path for path in (PROJECT / "binsort").rglob("static/**/*.js") if path != _EMBED]
    found += ASSETS.glob("embed/*.js")
    digest = hashlib.sha256()
    for path in sorted(found):
        digest.update(str(path.relative_to(PROJECT)).encode() + b"\0" + path.read_bytes() + b"\0")
    return digest.hexdigest()[:32]


def stale_sheets() -> list[Path]:
    """Return the built style sheets that do not belong to today's sources."""
    stamp = _STAMP.format(inputs_digest())
    return [built for built in BUILT if not built.exists() or not built.read_text().startswith(stamp)]


def build() -> None:
    """Build all style sheets. Raises CannotGoOn where Node is missing."""
    made = {built: compiled(source) for source, built in SHEETS.items()}
    made[_EMBED] = _script(compiled(_EMBED_STYLE))
    for built, text in made.items():
        built.parent.mkdir(parents=True, exist_ok=True)
        built.write_text(_STAMP.format(inputs_digest()) + text)
        packed = len(gzip.compress(built.read_bytes(), 9, mtime=0)) / 1000
        say(f"{built.relative_to(PROJECT)}: {built.stat().st_size / 1000:.0f} kB, {packed:.1f} kB packed")


def _script(style: str) -> str:
    """Return one module that needs nothing else: its parts behind each other, with the style sheet as a text."""
    parts = [_COMMENT.sub("", path.read_text()).strip() for path in _EMBED_PARTS]
    return "\n".join(["(() => {", f"const STYLE = {json.dumps(style.strip())};", *parts, "})();"]) + "\n"


def compiled(source: Path) -> str:
    """Return one style sheet, built."""
    _prepare_node()
    command = ["npx", "--no-install", "tailwindcss", "-i", source.name, "--minify"]
    done = subprocess.run(command, cwd=ASSETS, capture_output=True, text=True)
    if done.returncode:
        raise CannotGoOn(f"Tailwind CSS could not build {source.name}:\n{done.stderr}")
    return done.stdout


def has_node() -> bool:
    """Tell whether the sheets can be built on this machine."""
    return shutil.which("npm") is not None


def _prepare_node() -> None:
    if not has_node():
        raise CannotGoOn("Building the style sheets needs Node 20 or newer with npm. On Debian: apt-get install nodejs npm")
    with only_one("node"):
        if not (ASSETS / "node_modules/.package-lock.json").exists():
            done = subprocess.run(["npm", "ci", "--no-audit", "--no-fund", "--silent"], cwd=ASSETS, capture_output=True, text=True)
            if done.returncode:
                raise CannotGoOn(f"npm ci failed:\n{done.stderr}")
