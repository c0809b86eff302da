"""The operating points that a project was left with: its drawings show them, in grey, until they are solved again."""

from __future__ import annotations

import json
from contextlib import suppress
from hashlib import sha256
from pathlib import Path

import numpy as np

from hearthline.app.state.values import PointValues
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import FileError
from hearthline.core.formats.atomic import write_atomically

MOST_PROJECTS = 100


class LastPoints:
    """By project and bench, a file for each project in `folder`; without one nothing outlasts the window. A convenience: what
    cannot be read is as good as nothing."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder
        self._new: dict[Path, dict[str, Dataset]] = {}

    def put(self, project: Path, bench: str, point: Dataset) -> None:
        """Remembers the newest one of a bench."""
        if self.folder is not None:
            self._new.setdefault(project, {})[bench] = point

    def values(self, project: Path, bench: str) -> PointValues | None:
        """What a bench was left with; None where nothing is known."""
        known = self._new.get(project, {}).get(bench)
        if known is not None:
            return PointValues(known)
        with suppress(KeyError, TypeError, ValueError, AttributeError):
            return PointValues(_point(self._read(project)[bench]))
        return None

    def write(self) -> None:
        """Puts on disk what is new; the projects used longest ago go."""
        for project, benches in self._new.items():
            known = self._read(project)
            known.update({bench: _plain(point) for bench, point in benches.items()})
            with suppress(OSError, FileError):
                file = self._file(project)
                file.parent.mkdir(parents=True, exist_ok=True)
                write_atomically(file, json.dumps(known))
        self._new.clear()
        if self.folder is not None:
            with suppress(OSError):
                files = sorted(self.folder.glob("*.json"), key=lambda file: file.stat().st_mtime)
                for file in files[:-MOST_PROJECTS]:
                    file.unlink()

    def _file(self, project: Path) -> Path:
        assert self.folder is not None
        return self.folder / f"{sha256(str(project.resolve()).encode()).hexdigest()[:20]}.json"

    def _read(self, project: Path) -> dict:
        if self.folder is None:
            return {}
        try:
            found = json.loads(self._file(project).read_text(encoding="utf-8"))
        except (OSError, ValueError, RecursionError):
            return {}
        return found if isinstance(found, dict) else {}


def _plain(point: Dataset) -> dict[str, list]:
    """Number and unit of each quantity."""
    return {label: [float(values.item(0)), point.units.get(label, "")] for label, values in point.curves.items()}


def _point(plain: dict[str, list]) -> Dataset:
    curves = {str(label): np.array([[float(number)]]) for label, (number, _) in plain.items() if len(label) > 1}
    units = {str(label): str(unit) for label, (_, unit) in plain.items()}
    return Dataset("point", "", "", np.zeros(1), curves, units, {}, np.zeros((1, 1), np.int64))
