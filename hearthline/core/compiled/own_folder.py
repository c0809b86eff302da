"""A folder of the user's own for what is compiled and will be run."""

from __future__ import annotations

import os
import stat
import tempfile
from functools import cache
from pathlib import Path

from platformdirs import user_cache_path


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
