"""Files as what parts simulate, read again only when they change."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import lru_cache
from pathlib import Path

from hearthline.core.errors import FileError
from hearthline.core.formats.touchstone.reader import read_touchstone
from hearthline.core.nports.model import Model

_ENDING = re.compile(r"\.(s\d+p|ts)", re.IGNORECASE)


def model_of(path: Path, shown: str) -> Model:
    """The model of a file, in errors called as `shown`. Raises FileError by file and line."""
    try:
        status = path.stat()
    except OSError as error:
        raise FileError(f"cannot be read: {error.strerror}", shown) from None
    return _model(path, shown, status.st_mtime_ns, status.st_size)


class Networks(Mapping[str, Model]):
    """The files of S-parameters in a folder by their names, each read when it is asked for; `shown` stands before the names in
    errors."""

    def __init__(self, folder: Path, shown: str = ""):
        self.folder, self.shown = folder, shown

    def __getitem__(self, name: str) -> Model:
        if name not in set(self):
            raise KeyError(name)
        return model_of(self.folder / name, f"{self.shown}{name}")

    def __iter__(self) -> Iterator[str]:
        return (path.name for path in sorted(self.folder.glob("*")) if _ENDING.fullmatch(path.suffix))

    def __len__(self) -> int:
        return sum(1 for _ in self)


@lru_cache(maxsize=64)
def _model(path: Path, shown: str, changed: int, size: int) -> Model:
    return Model(shown, read_touchstone(path, shown))
