"""The cache of compiled texts: files in a folder of the user's own, each with a checksum in front.

What is read from there is run, so a folder that others can write to is not used, and a file that is damaged is as good as
none.
"""

from __future__ import annotations

import hashlib
import os
import tempfile
from contextlib import suppress
from pathlib import Path

from hearthline.core.compiled.own_folder import own_folder

MOST_TEXTS = 300
"""That the cache holds."""
DIGEST = 32


def cache_folder() -> Path:
    """Where compiled texts are kept."""
    return own_folder("models")


def keep(name: str, content: bytes) -> None:
    """Writes a file whole or not at all, so that neither another process nor a loss of power leaves half of one."""
    folder = cache_folder()
    handle, temporary = tempfile.mkstemp(dir=folder, suffix=".tmp")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(hashlib.sha256(content).digest() + content)
            file.flush()
            os.fsync(file.fileno())
        os.replace(temporary, folder / name)
    except BaseException:
        with suppress(OSError):
            os.unlink(temporary)
        raise


def kept(name: str) -> bytes | None:
    """What a file holds; None where it is not there or damaged."""
    path = cache_folder() / name
    try:
        content = path.read_bytes()
        os.utime(path)  # used now: kept the longest
    except OSError:
        return None
    if hashlib.sha256(content[DIGEST:]).digest() != content[:DIGEST]:
        return None
    return content[DIGEST:]


def prune() -> None:
    """Forgets the texts that were not used for the longest time, each pause in typing leaves one here, and what processes
    that were killed have left half written."""
    folder, found = cache_folder(), []
    for index in folder.glob("*.json"):
        with suppress(OSError):  # another process may prune too
            found.append((index.stat().st_mtime, index))
    for _, index in sorted(found)[:-MOST_TEXTS]:
        for path in (index, *folder.glob(f"{index.stem}_*")):
            path.unlink(missing_ok=True)
    if not found:
        return
    newest = max(found)[0]
    for path in folder.glob("*.tmp"):
        with suppress(OSError):
            if path.stat().st_mtime < newest - 3600.0:
                path.unlink()
