"""Other plans of the die, tried beside each other off the window's thread."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job
from hearthline.core.errors import HearthlineError

if TYPE_CHECKING:
    from hearthline.core.bench.heat_trying import Tried


class Trials(QObject):
    """One at a time, off the window's thread."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.found: Tried | None = None
        self.error: HearthlineError | None = None
        self.job = Job()
        self._worker = NewestWins("trials", self)
        self._worker.answered.connect(self._take)
        self._worker.refused.connect(self._refuse)

    @property
    def busy(self) -> bool:
        """Whether something is being tried."""
        return self._worker.busy

    def ask(self, snapshot: Snapshot, part: str, way: str) -> None:
        """All values of a way."""
        job = self.job = Job()
        self.found, self.error = None, None

        def question(report: object) -> Tried:
            from hearthline.core.bench.heat_trying import tried  # late: the engine loads its kernels on this thread

            return tried(snapshot, part, way, job)

        self._worker.ask(question)
        self.changed.emit()

    def forget(self) -> None:
        """The plan is another one now."""
        self.job.stop()
        if self.found is not None or self.error is not None:
            self.found, self.error = None, None
            self.changed.emit()

    def close(self) -> None:
        """Ends the thread."""
        self.job.stop()
        self._worker.close()

    def _take(self, found: Tried) -> None:
        self.found = found
        self.changed.emit()

    def _refuse(self, error: HearthlineError) -> None:
        self.error = error
        self.changed.emit()
