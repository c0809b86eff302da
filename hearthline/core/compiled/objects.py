"""Where machine code of the engine is kept: in a folder of the user's own, a file for each function. It tells which sources it
was made of, and is made anew when any of them is another: of its module, and of all modules that this one imports.

Each file has a checksum: what is read there is run."""

from __future__ import annotations

import ast
import hashlib
import json
import os
import shutil
import sys
import tempfile
from collections.abc import Iterator
from contextlib import suppress
from functools import cache
from importlib.util import find_spec
from pathlib import Path

from hearthline.core.compiled.machine import processor
from hearthline.core.compiled.own_folder import own_folder

ROOT = Path(__file__).resolve().parents[3]
"""Above the package."""
PACKAGES = ("hearthline", "tests", "benchmarks")
"""Whose modules are looked into for what they import."""
MOST_STATES = 4
"""Of Python, Numba and places, whose machine code is kept."""
DIGEST, ENDING = 32, ".code"


@cache
def folder() -> Path:
    """For this Python, this Numba, this kind of processor, and this place of the sources."""
    here = Path(__file__).parent
    own = [
        _stamp(here / name) for name in ("codes.py", "jit.py", "machine.py", "making.py", "outermost.py", "runtime.py")
    ]
    text = f"{_numba()} {sys.version_info[:3]} {ROOT} {processor()} {own}"
    found = own_folder("engine") / hashlib.sha256(text.encode()).hexdigest()[:16]
    with suppress(OSError):
        found.mkdir(parents=True, exist_ok=True, mode=0o700)
        os.utime(found)
        _prune(found.parent, found)
    return found


def _numba() -> str:
    """Its version, without importing it."""
    spec = find_spec("numba")
    return _stamp(Path(spec.origin).with_name("_version.py")) if spec is not None and spec.origin else "none"


@cache
def _stamp(path: Path) -> str:
    try:
        return hashlib.sha256(path.read_bytes()).hexdigest()[:16]
    except OSError:
        return ""


@cache
def _imported(path: Path) -> tuple[str, ...]:
    """Modules that a file imports at its top."""
    found: dict[str, None] = {}
    for node in ast.parse(path.read_bytes()).body:
        if isinstance(node, ast.ImportFrom) and node.module and not node.level:
            found |= dict.fromkeys([node.module, *(f"{node.module}.{one.name}" for one in node.names)])
        elif isinstance(node, ast.Import):
            found |= dict.fromkeys(one.name for one in node.names)
    return tuple(name for name in found if name.partition(".")[0] in PACKAGES)


def _path_of(module: str) -> Path | None:
    """Found without importing it."""
    loaded = getattr(sys.modules.get(module), "__file__", None)
    if loaded is not None:
        return Path(loaded).resolve()
    place = Path(*module.split("."))
    for above in (ROOT, *map(Path, sys.path)):
        for path in (above / place.with_suffix(".py"), above / place / "__init__.py"):
            if path.is_file():
                return path.resolve()
    return None


def _files_of(module: str) -> Iterator[Path]:
    """Its file and those of all that it imports, at whatever depth."""
    waiting, seen = [module], set()
    while waiting:
        name = waiting.pop()
        path = _path_of(name)
        if path is None or path in seen or path.suffix != ".py":
            continue
        seen.add(path)
        yield path
        waiting += _imported(path)


def sources_of(module: str) -> dict[str, str]:
    """Files that a module's functions may be made of, with a stamp of each."""
    return {os.path.relpath(path, ROOT): _stamp(path) for path in sorted(_files_of(module))}


def _file(name: str) -> Path:
    """Of a function, `module:name`."""
    return folder() / f"{name.replace(':', '.')}{ENDING}"


def kept(name: str) -> tuple[str, bytes] | None:
    """The symbol and the machine code of a function; None where they are not there, damaged, or of other sources."""
    try:
        content = _file(name).read_bytes()
    except OSError:
        return None
    if hashlib.sha256(content[DIGEST:]).digest() != content[:DIGEST]:
        return None
    head, _, code = content[DIGEST:].partition(b"\n")
    said = json.loads(head)
    if any(_stamp(ROOT / path) != stamp for path, stamp in said["sources"].items()):
        return None
    return said["symbol"], code


def keep(name: str, symbol: str, code: bytes) -> None:
    """Writes a file whole or not at all. Raises OSError."""
    head = json.dumps({"symbol": symbol, "sources": sources_of(name.partition(":")[0])})
    content = head.encode() + b"\n" + code
    handle, temporary = tempfile.mkstemp(dir=folder(), suffix=".tmp")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(hashlib.sha256(content).digest() + content)
        os.replace(temporary, _file(name))
    except BaseException:
        with suppress(OSError):
            os.unlink(temporary)
        raise


def _prune(above: Path, here: Path) -> None:
    """Forgets folders that were not used for the longest time."""
    others = sorted((one for one in above.iterdir() if one != here), key=lambda one: one.stat().st_mtime)
    for old in others[: -(MOST_STATES - 1)]:
        shutil.rmtree(old, ignore_errors=True)
