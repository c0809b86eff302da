"""Analyses that the circuit on the drawing asks for, looked for while the bench is open."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.snapshot import Snapshot

if TYPE_CHECKING:
    from hearthline.core.bench.offered import Offer


@dataclass(frozen=True)
class _Question:
    snapshot: Snapshot

    def __call__(self, report: object) -> tuple[Offer, ...]:
        from hearthline.core.bench.offered import offered  # late: the engine loads its kernels on this thread

        return offered(self.snapshot)


class Offers(QObject):
    """`found` are those of the circuit that was asked about last."""

    changed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.found: tuple[Offer, ...] = ()
        self._of: Snapshot | None = None
        self._worker = NewestWins("offers", self)
        self._worker.answered.connect(self._take)

    @property
    def busy(self) -> bool:
        """Whether they are being looked for."""
        return self._worker.busy

    def ask(self, snapshot: Snapshot | None) -> None:
        """Looks at the circuit, unless it is the one that was looked at."""
        if snapshot is not None and snapshot is not self._of:
            self._of = snapshot
            self._worker.ask(_Question(snapshot))

    def close(self) -> None:
        """Ends the thread."""
        self._worker.close()

    def _take(self, found: tuple[Offer, ...]) -> None:
        if found != self.found:
            self.found = found
            self.changed.emit()
