"""Matching networks that are looked for off the window's thread."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.worker import NewestWins
from hearthline.core.errors import HearthlineError
from hearthline.core.process.kit import ProcessKit

if TYPE_CHECKING:
    from hearthline.core.matching.proposals import Proposal


@dataclass(frozen=True)
class Wanted:
    """From which impedance [Ω] to which, at a frequency [Hz]."""

    load: complex
    wanted: complex
    frequency: float


@dataclass(frozen=True)
class _Question:
    kit: ProcessKit
    what: Wanted

    def __call__(self, report: object) -> list[Proposal]:
        from hearthline.core.matching.proposals import proposals  # late: the engine loads its kernels on this thread

        try:
            return proposals(self.kit, self.what.load, self.what.wanted, self.what.frequency)
        except ValueError as error:
            raise HearthlineError(str(error)) from None


class Matching(QObject):
    """`asked` is what `found` answers; `start` is what a chart proposes to begin with."""

    changed = pyqtSignal()
    started = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.asked: Wanted | None = None
        self.start: Wanted | None = None
        self.found: list[Proposal] = []
        self.error: HearthlineError | None = None
        self._worker = NewestWins("matching", self)
        self._worker.answered.connect(self._take)
        self._worker.refused.connect(self._refuse)

    @property
    def busy(self) -> bool:
        """Whether it is being looked for."""
        return self._worker.busy

    def begin_with(self, what: Wanted) -> None:
        """A reflection that a person pointed at."""
        self.start = what
        self.started.emit()

    def ask(self, kit: ProcessKit | None, what: Wanted) -> None:
        """All networks with the kit's parts."""
        if kit is not None:
            self.asked, self.found, self.error = what, [], None
            self._worker.ask(_Question(kit, what))
            self.changed.emit()

    def close(self) -> None:
        """Ends the thread."""
        self._worker.close()

    def _take(self, found: list[Proposal]) -> None:
        self.found = found
        self.changed.emit()

    def _refuse(self, error: HearthlineError) -> None:
        self.error = error
        self.changed.emit()
