"""Files that an n-port may be: S-parameters as they are, and housings, which are solved for theirs."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path

from hearthline.core.formats.solved_housing import model_of_housing
from hearthline.core.formats.touchstone import model_of
from hearthline.core.nports.model import Model

_KINDS: tuple[tuple[re.Pattern[str], Callable[[Path, str], Model]], ...] = (
    (re.compile(r".+\.(s\d+p|ts)", re.IGNORECASE), model_of),
    (re.compile(r".+\.housing\.toml"), model_of_housing),
)
"""By what their names end on, what makes a model of one."""


def kind_of(path: Path) -> Callable[[Path, str], Model] | None:
    """What makes a model of a file; nothing where it is no n-port."""
    return next((kind for ending, kind in _KINDS if ending.fullmatch(path.name)), None)


def model_of_file(path: Path, shown: str) -> Model:
    """The n-port in a file, S-parameters unless it says otherwise. Raises FileError by file and line."""
    return (kind_of(path) or model_of)(path, shown)


class Networks(Mapping[str, Model]):
    """The n-ports in a folder by the names of their files, each read when it is asked for; `shown` stands before the names in
    errors."""

    def __init__(self, folder: Path, shown: str = ""):
        self.folder, self.shown = folder, shown

    def __getitem__(self, name: str) -> Model:
        path = self.folder / name
        kind = kind_of(path)
        if kind is None or name not in set(self):
            raise KeyError(name)
        return kind(path, f"{self.shown}{name}")

    def __iter__(self) -> Iterator[str]:
        return (path.name for path in sorted(self.folder.glob("*")) if kind_of(path) is not None)

    def __len__(self) -> int:
        return sum(1 for _ in self)
