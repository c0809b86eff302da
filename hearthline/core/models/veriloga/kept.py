"""The cache of compiled texts: files in a folder of the user's own, each with a checksum in front.

What is read from there is run, so a folder that others can write to is not used, and a file that is damaged is as good as
none.
"""

from __future__ import annotations

import hashlib
import os
import stat
import tempfile
from contextlib import suppress
from functools import cache
from pathlib import Path

from platformdirs import user_cache_path

MOST_TEXTS = 300
"""That the cache holds."""
DIGEST = 32


def cache_folder() -> Path:
    """Where compiled texts are kept."""
    return own_folder("models")


@cache
def own_folder(name: str) -> Path:
    """A folder for what is compiled and will be run: in the user's cache folder, in one of theirs for temporary files, or in
    one for this process alone; nobody else may write to it or to the one above it."""
    for above in (user_cache_path("hearthline"), Path(tempfile.gettempdir()) / f"hearthline-{os.getuid()}"):
        folder = above / name
        try:
            above.mkdir(parents=True, exist_ok=True, mode=0o700)
            folder.mkdir(exist_ok=True, mode=0o700)
        except OSError:
            continue
        if is_our_own(above) and is_our_own(folder) and os.access(folder, os.W_OK):
            return folder
    folder = Path(tempfile.mkdtemp(prefix="hearthline-")) / name
    folder.mkdir()
    return folder


def is_our_own(folder: Path) -> bool:
    """Whether a folder is one, belongs to this user, and nobody else may write to it."""
    found = os.lstat(folder)
    return stat.S_ISDIR(found.st_mode) and found.st_uid == os.getuid() and not found.st_mode & 0o022


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
