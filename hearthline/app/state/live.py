"""Solves the live operating point off the window's thread: the newest request wins, stale answers are dropped."""

from __future__ import annotations

import time
from dataclasses import dataclass
from functools import cached_property

from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.values import PointValues
from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.netlist import Element
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import HearthlineError
from hearthline.core.spread.draws import Draws
from hearthline.core.spread.pvt import Condition


class Kept:
    """What lowering may use again for the next point; made on the thread that solves, where the engine is loaded."""

    @cached_property
    def recall(self):
        """The one of this solver."""
        from hearthline.core.engine.recall import Recall

        return Recall()


@dataclass(frozen=True)
class PointRequest:
    """A frozen question; calling it gives the answer, on whatever thread."""

    snapshot: Snapshot
    before: Dataset | None = None
    kept: Kept | None = None
    condition: Condition | None = None
    draws: Draws | None = None

    def __call__(self) -> PointAnswer:
        from hearthline.core.bench.run import solve_point  # late: the engine loads its kernels on this thread

        begin = time.perf_counter()
        try:
            recall = self.kept.recall if self.kept else None
            dataset, error = solve_point(self.snapshot, self.before, recall, self.condition, self.draws), None
        except HearthlineError as problem:
            dataset, error = None, problem
        answer = PointAnswer(self.snapshot, dataset, error, 1e3 * (time.perf_counter() - begin))
        _ = answer.values  # sorted here, not on the window's thread
        return answer


@dataclass(frozen=True)
class PointAnswer:
    """The operating point, or why there is none, and how long it took [ms]."""

    snapshot: Snapshot
    dataset: Dataset | None
    error: HearthlineError | None
    milliseconds: float

    def inside(self, prefix: str) -> tuple[Element, ...]:
        """The elements of the block whose flat names begin with `prefix`."""
        return tuple(element for element in self._elements if element.name.startswith(prefix))

    def value_of(self, swept: str) -> float | None:
        """What a source, a parameter or the temperature is at this point: [V], [A] or [degC]; None where it is not known."""
        data = self.dataset
        if data is None:
            return None
        if swept in data.conditions:
            return float(data.conditions[swept][0])
        element = next((one for one in self._elements if one.name == swept), None)
        if element is None or element.kind != "V":
            current = data.curves.get(f"{swept}.i")
            return float(current[0, 0]) if current is not None and element is not None else None
        ends = [0.0 if net == "0" else float(data.curves[f"V({net})"][0, 0]) for net in element.nets[:2]]
        return ends[0] - ends[1]

    @cached_property
    def _elements(self) -> tuple[Element, ...]:
        return self.snapshot.netlist().elements

    @cached_property
    def values(self) -> PointValues | None:
        """The values sorted by part and net; None where there is no solution."""
        return PointValues(self.dataset) if self.dataset else None


@dataclass(frozen=True)
class CheckRequest:
    """Asks what the checks find on a cell of a snapshot."""

    snapshot: Snapshot
    cell: Cell

    def __call__(self, report: object) -> tuple:
        from hearthline.core.bench.findings import find_all  # late: see PointRequest

        return find_all(self.snapshot, self.cell)


class LiveSolver(QObject):
    """Solves the newest request on a thread of its own. `answered` arrives on the window's thread."""

    answered = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._last: PointAnswer | None = None
        self._kept = Kept()
        self._worker = NewestWins("operating point", self)
        self._worker.answered.connect(self._receive)
        self._worker.refused.connect(self._refuse)
        self._asked: Snapshot | None = None

    def ask(self, snapshot: Snapshot, condition: Condition | None = None, draws: Draws | None = None) -> None:
        """Replaces whatever was waiting; begins from the last point of the same cell. Without a condition it is the bench's
        own point; with `draws` that of a sample."""
        self._asked = snapshot
        near = self._last is not None and self._last.snapshot.bench.subject == snapshot.bench.subject
        request = PointRequest(snapshot, self._last.dataset if near else None, self._kept, condition, draws)
        self._worker.ask(lambda report: request())

    @property
    def busy(self) -> bool:
        """Whether an answer is still to come."""
        return self._worker.busy

    def close(self) -> None:
        """Ends the thread."""
        self._worker.close()

    def _refuse(self, error: HearthlineError) -> None:
        """A fault on the way: there is no operating point, and the values that are shown are old."""
        self._last = None
        self.answered.emit(PointAnswer(self._asked, None, error, 0.0))

    def _receive(self, answer: PointAnswer) -> None:
        if answer.dataset is not None:
            self._last = answer
        self.answered.emit(answer)
