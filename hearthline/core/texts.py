"""Texts from files: only plain files of a size that a person's text can have."""

from __future__ import annotations

import stat
from pathlib import Path

from hearthline.core import limits
from hearthline.core.errors import FileError


def can_be_a_file(name: str) -> bool:
    """Whether a file system takes a name as that of a file, folders before it included."""
    pieces = name.split("/")
    return (
        name.isprintable()
        and 0 < len(name) < 4096
        and max(len(piece.encode("utf-8", "replace")) for piece in pieces) < 256
    )


def shortened(text: str, maximum: int = 60) -> str:
    """The beginning of a text, on one line, for a message."""
    text = "".join(c if c.isprintable() else "?" for c in text)
    return text if len(text) <= maximum else f"{text[: maximum - 3]}..."


def read_text(path: Path, shown: str, errors: str = "replace") -> str:
    """The text of a file, UTF-8, called `shown` in messages.

    Raises OSError where it cannot be read, and FileError where it is no plain file (a pipe would be waited for without
    end) or too large.
    """
    found = path.stat()
    if stat.S_ISDIR(found.st_mode):
        raise IsADirectoryError(21, "it is a folder", str(path))
    if not stat.S_ISREG(found.st_mode):
        raise FileError("is no plain file; a text is wanted", shown)
    if found.st_size > limits.FILE:
        raise FileError(f"has {found.st_size / 1e6:.0f} MB; a text has at most {limits.FILE / 1e6:.0f} MB", shown)
    return path.read_text(encoding="utf-8", errors=errors)
