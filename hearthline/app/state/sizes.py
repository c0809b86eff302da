"""Which size does most to a reading: looked for when a person asks, and proved by a run of the changed circuit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job
from hearthline.core.errors import HearthlineError

if TYPE_CHECKING:
    from hearthline.core.bench.sizing import Leverage


@dataclass(frozen=True)
class Proved:
    """A size of a list, so many times as large, and every reading of the circuit with it."""

    of: Leverage
    size: int
    factor: float
    values: Mapping[str, np.ndarray]


class Sizes(QObject):
    """`found` is the answer for the circuit as it is; None where nobody asked, or the circuit has changed since."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.found: Leverage | None = None
        self.proofs: dict[int, Proved] = {}
        self.error: HearthlineError | None = None
        self.proving = -1
        self.job = Job()
        self._worker = NewestWins("sizes", self)
        self._worker.answered.connect(self._take)
        self._worker.refused.connect(self._refuse)

    @property
    def busy(self) -> bool:
        """Whether sizes are tried or one is proved."""
        return self._worker.busy

    def ask(self, snapshot: Snapshot | None) -> None:
        """Tries every size."""
        if snapshot is None:
            return
        job = self.job = Job()

        def question(report: object) -> Leverage:
            from hearthline.core.bench.sizing import leverage  # late: the engine loads its kernels on this thread

            return leverage(snapshot, job)

        self.found, self.error, self.proofs, self.proving = None, None, {}, -1
        self._worker.ask(question)
        self.changed.emit()

    def prove(self, size: int, factor: float) -> None:
        """Runs the circuit with a size of the list changed as it would be typed."""
        found = self.found
        if found is None or self.busy:
            return
        job = self.job = Job()

        def question(report: object) -> Proved:
            from hearthline.core.bench.sizing import readings_at_point, with_size

            changed = with_size(found.snapshot, found.sizes[size], factor)
            return Proved(found, size, factor, readings_at_point(changed, job))

        self.error, self.proving = None, size
        self._worker.ask(question)
        self.changed.emit()

    def stop(self) -> None:
        """Ends what is under way."""
        self.job.stop()

    def forget(self) -> None:
        """The circuit is another one now."""
        self.job.stop()
        if self.found is not None or self.error is not None:
            self.found, self.error, self.proofs, self.proving = None, None, {}, -1
            self.changed.emit()

    def close(self) -> None:
        """Ends the thread."""
        self.job.stop()
        self._worker.close()

    def _take(self, answer: Leverage | Proved) -> None:
        self.proving = -1
        if isinstance(answer, Proved):
            if answer.of is self.found:
                self.proofs[answer.size] = answer
        else:
            self.found = answer
        self.changed.emit()

    def _refuse(self, error: HearthlineError) -> None:
        self.error, self.proving = error, -1
        self.changed.emit()
