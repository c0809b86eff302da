"""Where Numba keeps what it compiled of the engine: in a folder of the user's own, one for each state of the sources, so that
no change in a function that a compiled one calls is ever missed, and nothing has to be writable where Hearthline stands.

Its files are held against a list: Numba reads what it finds, and a damaged file ends the process.
"""

from __future__ import annotations

import json
import os
import platform
import shutil
import tempfile
import zlib
from collections.abc import Iterator
from contextlib import suppress
from hashlib import sha256
from pathlib import Path

import numba

from hearthline.core.models.veriloga.kept import own_folder

PACKAGE = Path(__file__).resolve().parent
SOURCES = (
    "engine/**/*.py",
    "elements/**/*.py",
    "models/calling.py",
    "models/signature.py",
    "models/layout.py",
    "constants.py",
    "outcome.py",
)
"""What compiled functions are made of."""
MOST_STATES = 4
"""Of the sources, whose compiled functions are kept."""
LIST = "compiled.json"


def folder() -> Path:
    """For the sources as they are, this Python and this Numba."""
    digest = sha256(f"{numba.__version__} {platform.python_version()} {PACKAGE}".encode())
    for pattern in SOURCES:
        for path in sorted(PACKAGE.glob(pattern)):
            digest.update(path.read_bytes())
    return own_folder("engine") / digest.hexdigest()[:16]


def use() -> None:
    """Tells Numba where; before anything compiled is imported. What is damaged there is deleted, and compiled anew."""
    numba.config.CACHE_DIR = str(here := folder())
    with suppress(OSError):
        here.mkdir(parents=True, exist_ok=True, mode=0o700)
        os.utime(here)
        for name, wanted in _listed(here).items():
            path = here / name
            if path.exists() and _sum(path) != wanted:
                path.unlink()
        _prune(here)


def note() -> None:
    """Writes down what there is now."""
    here = folder()
    with suppress(OSError):
        files = {path.relative_to(here).as_posix(): _sum(path) for path in _files(here)}
        handle, name = tempfile.mkstemp(dir=here, suffix=".tmp")
        with os.fdopen(handle, "w", encoding="utf-8") as file:
            json.dump(files, file)
        os.replace(name, here / LIST)


def _files(here: Path) -> Iterator[Path]:
    for pattern in ("*.nbi", "*.nbc"):
        yield from sorted(here.rglob(pattern))


def _sum(path: Path) -> int:
    return zlib.crc32(path.read_bytes())


def _listed(here: Path) -> dict[str, int]:
    try:
        found = json.loads((here / LIST).read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError):
        return {}
    return {name: value for name, value in found.items() if ".." not in name} if isinstance(found, dict) else {}


def _prune(here: Path) -> None:
    """Forgets the states that were not used for the longest time."""
    others = sorted((one for one in here.parent.iterdir() if one != here), key=lambda one: one.stat().st_mtime)
    for old in others[: -(MOST_STATES - 1)]:
        shutil.rmtree(old, ignore_errors=True)
