"""How warm the shown circuit is: which terminals come near to oscillating, looked for when a person asks."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.instance import Instance
from hearthline.core.errors import HearthlineError

if TYPE_CHECKING:
    from hearthline.core.bench.nearness import Near, Nearness

COOL = 0.05
"""Heat under which nothing is shown."""


@dataclass(frozen=True)
class _Question:
    snapshot: Snapshot

    def __call__(self, report: object) -> tuple[Snapshot, Nearness]:
        from hearthline.core.bench.nearness import nearness  # late: the engine loads its kernels on this thread

        return self.snapshot, nearness(self.snapshot)


class Warmth(QObject):
    """`found` is the answer for the circuit as it is; None where nobody asked, or the circuit has changed since."""

    changed = pyqtSignal()
    failed = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.found: Nearness | None = None
        self.error: HearthlineError | None = None
        self._of: Snapshot | None = None
        self._worker = NewestWins("terminals", self)
        self._worker.answered.connect(self._take)
        self._worker.refused.connect(self._refuse)

    @property
    def busy(self) -> bool:
        """Whether it is being looked for."""
        return self._worker.busy

    def ask(self, snapshot: Snapshot | None) -> None:
        """Looks at every terminal of every transistor, at all conditions."""
        if snapshot is not None:
            self.found, self.error = None, None
            self._worker.ask(_Question(snapshot))
            self.changed.emit()

    def forget(self) -> None:
        """The circuit is another one now."""
        if self.found is not None or self.error is not None:
            self.found, self.error = None, None
            self.changed.emit()

    def close(self) -> None:
        """Ends the thread."""
        self._worker.close()

    def _take(self, answer: tuple[Snapshot, Nearness]) -> None:
        self._of, self.found = answer
        self.changed.emit()

    def _refuse(self, error: HearthlineError) -> None:
        self.error = error
        self.changed.emit()

    def on(self, cell: Cell, instance: Instance) -> Iterator[tuple[str, str, float]]:
        """(part, terminal, heat) on a shown cell; of a block, whose terminal is "", the warmest inside it."""
        if self.found is None:
            return
        hot = [one for one in self.found.terminals if one.heat > COOL]
        for part in cell.parts:
            flat = instance.part(part.name)
            own = [one for one in hot if one.terminal.startswith(f"{flat}.")]
            for one in own:
                rest = one.terminal[len(flat) + 1 :]
                if "." not in rest:
                    yield part.name, rest, one.heat
            inner = [one.heat for one in own if "." in one.terminal[len(flat) + 1 :]]
            if inner:
                yield part.name, "", max(inner)

    def of_terminal(self, terminal: str) -> Near | None:
        """What was found at one."""
        return next((one for one in self.found.terminals if one.terminal == terminal), None) if self.found else None
