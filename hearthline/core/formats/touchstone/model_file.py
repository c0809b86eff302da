"""A Touchstone file as what simulates it, read again only when it changes."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from hearthline.core.errors import FileError
from hearthline.core.formats.touchstone.reader import read_touchstone
from hearthline.core.nports.model import Model


def model_of(path: Path, shown: str) -> Model:
    """The model of a file, in errors called as `shown`. Raises FileError by file and line."""
    try:
        status = path.stat()
    except OSError as error:
        raise FileError(f"cannot be read: {error.strerror}", shown) from None
    return _model(path, shown, status.st_mtime_ns, status.st_size)


@lru_cache(maxsize=64)
def _model(path: Path, shown: str, changed: int, size: int) -> Model:
    return Model(shown, read_touchstone(path, shown))
