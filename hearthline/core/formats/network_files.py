"""Files that an n-port may be: S-parameters as they are, and descriptions that are worked out for theirs."""

from __future__ import annotations

import re
import threading
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path

from hearthline.core.formats.described_networks import model_of_lines, model_of_substrate, model_of_wires
from hearthline.core.formats.touchstone import model_of
from hearthline.core.nports.model import Model


def _housing(path: Path, shown: str, may_solve: bool) -> Model:
    from hearthline.core.formats.solved_housing import model_of_housing  # late: a window starts without it

    return model_of_housing(path, shown, may_solve)


_KINDS: tuple[tuple[re.Pattern[str], Callable[[Path, str, bool], Model]], ...] = (
    (re.compile(r".+\.(s\d+p|ts)", re.IGNORECASE), lambda path, shown, may_solve: model_of(path, shown)),
    (re.compile(r".+\.housing\.toml"), _housing),
    (re.compile(r".+\.lines\.toml"), lambda path, shown, may_solve: model_of_lines(path, shown)),
    (re.compile(r".+\.wires\.toml"), lambda path, shown, may_solve: model_of_wires(path, shown)),
    (re.compile(r".+\.substrate\.toml"), lambda path, shown, may_solve: model_of_substrate(path, shown)),
)
"""By what their names end on, what makes a model of one, and may solve it for that."""


ENDINGS = ".sNp, .ts, .housing.toml, .lines.toml, .wires.toml, .substrate.toml"
"""Of these files, in words."""


def kind_of(path: Path) -> Callable[[Path, str, bool], Model] | None:
    """What makes a model of a file; nothing where it is no n-port."""
    return next((kind for ending, kind in _KINDS if ending.fullmatch(path.name)), None)


def model_of_file(path: Path, shown: str) -> Model:
    """The n-port in a file, S-parameters unless it says otherwise. Raises FileError by file and line."""
    kind = kind_of(path)
    return model_of(path, shown) if kind is None else kind(path, shown, True)


class Networks(Mapping[str, Model]):
    """The n-ports in a folder by the names of their files, each read when it is asked for; `shown` stands before the names in
    errors. For a `patient` one nothing is solved on the main thread, which is that of a window."""

    def __init__(self, folder: Path, shown: str = "", patient: bool = False):
        self.folder, self.shown, self.patient = folder, shown, patient

    def __getitem__(self, name: str) -> Model:
        path = self.folder / name
        kind = kind_of(path)
        if kind is None or name not in set(self):
            raise KeyError(name)
        busy = self.patient and threading.current_thread() is threading.main_thread()
        return kind(path, f"{self.shown}{name}", not busy)

    def __contains__(self, name: object) -> bool:
        """By its name: nothing is read."""
        return name in set(self)

    def __iter__(self) -> Iterator[str]:
        return (path.name for path in sorted(self.folder.glob("*")) if kind_of(path) is not None)

    def __len__(self) -> int:
        return sum(1 for _ in self)
