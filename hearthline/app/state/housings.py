"""The housing that is looked at, as it is being changed; what resonates in it, and in others that are tried."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.asked import Asked
from hearthline.core.engine.job import Job
from hearthline.core.errors import HearthlineError
from hearthline.core.formats.project_folder import DEVICES, Project

if TYPE_CHECKING:
    from hearthline.core.fields.box import Housing
    from hearthline.core.fields.study import Resonating, Tried

ENDING = ".housing.toml"


class Resonances(Asked["Resonating"]):
    """Of the housing as it was when it was asked."""

    def ask(self, housing: Housing) -> None:
        """Looks for them."""

        def make(job: Job) -> Resonating:
            from hearthline.core.fields.study import resonating

            return resonating(housing, lambda: not job.stopped)

        self._clear()
        self._question(make)


class HousingTrials(Asked["Tried"]):
    """Other housings beside the shown one."""

    def ask(self, housing: Housing, way: str, texts: str) -> None:
        """Tries each of some values."""

        def make(job: Job) -> Tried:
            from hearthline.core.fields.study import tried

            return tried(housing, way, texts, lambda: not job.stopped)

        self._clear()
        self._question(make)


class Housings(QObject):
    """`changed` when another housing is shown, or it has been changed; `stored` after it was written."""

    changed = pyqtSignal()
    stored = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.name, self.housing = "", None
        self.error: HearthlineError | None = None
        self._path = Path()
        self._steps: list[Housing] = []
        self._place = 0
        self._on_disk: Housing | None = None
        self.resonances = Resonances("resonances", self)
        self.trials = HousingTrials("housings", self)

    @staticmethod
    def names(project: Project | None) -> list[str]:
        """The housings of a project, without their ending."""
        if project is None:
            return []
        files = sorted((project.folder / DEVICES).glob(f"*{ENDING}"))
        return [path.name.removesuffix(ENDING) for path in files]

    def show(self, project: Project, name: str) -> None:
        """Another one, as it is in its file."""
        from hearthline.core.formats.housing_file import HousingFile

        self.name, self._path = name, project.folder / DEVICES / f"{name}{ENDING}"
        self.housing, self.error, self._steps, self._place = None, None, [], 0
        try:
            self.housing = HousingFile(self._path, f"{DEVICES}/{self._path.name}").housing
            self._steps = [self.housing]
        except HearthlineError as error:
            self.error = error
        self._on_disk = self.housing
        self.resonances.forget()
        self.trials.forget()
        self.changed.emit()

    def change(self, housing: Housing) -> None:
        """It is another one now, which can be taken back."""
        if housing != self.housing:
            self._steps = [*self._steps[: self._place + 1], housing]
            self._go(len(self._steps) - 1)

    @property
    def unsaved(self) -> bool:
        """Whether it differs from its file."""
        return self.housing != self._on_disk

    @property
    def can_go_back(self) -> bool:
        """Whether there is a change to take back."""
        return self._place > 0

    def back(self) -> None:
        """Takes the last change back."""
        if self.can_go_back:
            self._go(self._place - 1)

    def _go(self, place: int) -> None:
        self._place, self.housing = place, self._steps[place]
        self.trials.forget()
        self.changed.emit()

    def save(self) -> None:
        """Writes it. Raises FileError."""
        from hearthline.core.formats.housing_file import write_housing

        if self.housing is not None:
            write_housing(self._path, self.housing)
            self._on_disk = self.housing
            self.changed.emit()
            self.stored.emit()

    def close(self) -> None:
        """Ends the threads."""
        self.resonances.close()
        self.trials.close()
