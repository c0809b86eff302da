"""What is worked out of the circuit when a person asks, and holds until the circuit is another one."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.worker import NewestWins
from hearthline.core.engine.job import Job
from hearthline.core.errors import HearthlineError

Found = TypeVar("Found")


class Asked(QObject, Generic[Found]):
    """`found` is the answer for the circuit as it is, `error` why there is none; both None where nobody asked, or the circuit
    has changed since. An answer to what was stopped or forgotten is dropped."""

    changed = pyqtSignal()

    def __init__(self, name: str, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.found: Found | None = None
        self.error: HearthlineError | None = None
        self.job = Job()
        self._worker = NewestWins(name, self)
        self._worker.answered.connect(self._take)
        self._worker.refused.connect(self._refuse)

    @property
    def busy(self) -> bool:
        """Whether an answer is still to come."""
        return self._worker.busy

    def _question(self, make: Callable[[Job], object]) -> None:
        """Asks for what `make` gives, off the window's thread; what was asked before is not wanted any more."""
        self.job.stop()
        job = self.job = Job()
        self._worker.ask(lambda report: (job, make(job)))
        self.changed.emit()

    def stop(self) -> None:
        """Ends what is under way."""
        self.job.stop()

    def forget(self) -> None:
        """The circuit is another one now."""
        self.job.stop()
        if self.found is not None or self.error is not None:
            self._clear()
            self.changed.emit()

    def close(self) -> None:
        """Ends the thread."""
        self.job.stop()
        self._worker.close()

    def _clear(self) -> None:
        self.found, self.error = None, None

    def _answered(self, answer: Found) -> None:
        self.found = answer

    def _take(self, answer: tuple[Job, Found]) -> None:
        job, found = answer
        if not job.stopped:
            self._answered(found)
        self.changed.emit()

    def _refuse(self, error: HearthlineError) -> None:
        if not self.job.stopped:
            self.error = error
        self.changed.emit()
