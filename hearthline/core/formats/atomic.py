"""Files that are either the old or the new, never half: written beside, flushed to disk, renamed."""

from __future__ import annotations

import os
from pathlib import Path

from hearthline.core.errors import FileError


def write_atomically(path: Path, text: str) -> None:
    """Replaces the file at `path` by `text` (UTF-8). Raises FileError; the old file then stays as it was."""
    beside = path.with_name(f".{path.name}.{os.getpid()}.new")
    try:
        with open(beside, "w", encoding="utf-8", newline="\n") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        os.replace(beside, path)
    except OSError as error:
        beside.unlink(missing_ok=True)
        raise FileError(f"cannot be written: {error.strerror}; what was there is unchanged", str(path)) from None
