"""Holds the compiled functions that Numba keeps beside the sources against a list: what is damaged, or was compiled from
other sources, is deleted and compiled anew. Numba itself reads what it finds: a damaged file ends the process, and an old
one goes on computing what the sources no longer say.
"""

from __future__ import annotations

import json
import os
import tempfile
import zlib
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path

FOLDER = Path(__file__).resolve().parent
LIST = FOLDER / "engine" / "__pycache__" / "compiled.json"
SOURCES = ("engine/**/*.py", "models/signature.py", "constants.py")
"""What compiled functions are made of."""


def check() -> None:
    """Deletes what cannot be trusted; before anything compiled is imported. Does nothing where it may not write."""
    with suppress(OSError):
        listed, sources = _listed(), _sum_of_sources()
        if listed.get("sources") == sources:
            for path in _files():
                wanted = listed["files"].get(path.relative_to(FOLDER).as_posix())
                if wanted is not None and wanted != _sum(path):
                    path.unlink()
            return
        if listed:
            for path in _files():
                path.unlink()
        _write({"sources": sources, "files": {}})


def note() -> None:
    """Writes down what there is now, all of it compiled from the present sources."""
    with suppress(OSError):
        files = {path.relative_to(FOLDER).as_posix(): _sum(path) for path in _files()}
        _write({"sources": _sum_of_sources(), "files": files})


def _files() -> Iterator[Path]:
    for pattern in ("*.nbi", "*.nbc"):
        yield from sorted(FOLDER.rglob(pattern))


def _sum(path: Path) -> int:
    return zlib.crc32(path.read_bytes())


def _sum_of_sources() -> int:
    found = 0
    for pattern in SOURCES:
        for path in sorted(FOLDER.glob(pattern)):
            found = zlib.crc32(path.read_bytes(), found)
    return found


def _listed() -> dict:
    try:
        found = json.loads(LIST.read_text(encoding="utf-8"))
        return found if isinstance(found.get("files"), dict) else {"sources": None}
    except FileNotFoundError:
        return {}
    except (ValueError, AttributeError, RecursionError):
        return {"sources": None}


def _write(content: dict) -> None:
    LIST.parent.mkdir(exist_ok=True)
    handle, name = tempfile.mkstemp(dir=LIST.parent, suffix=".tmp")
    with os.fdopen(handle, "w", encoding="utf-8") as file:
        json.dump(content, file)
    os.replace(name, LIST)
