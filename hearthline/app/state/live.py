"""Solves the live operating point off the window's thread: the newest request wins, stale answers are dropped."""

from __future__ import annotations

import threading
import time
from dataclasses import dataclass
from functools import cached_property

from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.values import PointValues
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import HearthlineError


@dataclass(frozen=True)
class PointRequest:
    """A frozen question; calling it gives the answer, on whatever thread."""

    number: int
    snapshot: Snapshot
    before: Dataset | None = None

    def __call__(self) -> PointAnswer:
        from hearthline.core.bench.run import solve_point  # late: the engine loads its kernels on this thread

        begin = time.perf_counter()
        try:
            dataset, error = solve_point(self.snapshot, self.before), None
        except HearthlineError as problem:
            dataset, error = None, problem
        return PointAnswer(self.number, self.snapshot, dataset, error, 1e3 * (time.perf_counter() - begin))


@dataclass(frozen=True)
class PointAnswer:
    """The operating point, or why there is none, and how long it took [ms]."""

    number: int
    snapshot: Snapshot
    dataset: Dataset | None
    error: HearthlineError | None
    milliseconds: float

    @cached_property
    def values(self) -> PointValues | None:
        """The values sorted by part and net; None where there is no solution."""
        return PointValues(self.dataset) if self.dataset else None


class LiveSolver(QObject):
    """One thread that solves the newest request. `answered` arrives on the window's thread."""

    answered = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._changed = threading.Condition()
        self._wanted: PointRequest | None = None
        self._closing = False
        self._number = 0
        self._last: PointAnswer | None = None
        self._arrived.connect(self._receive)
        self._thread = threading.Thread(target=self._work, name="operating point", daemon=True)
        self._thread.start()

    _arrived = pyqtSignal(object)

    def ask(self, snapshot: Snapshot) -> None:
        """Replaces whatever was waiting."""
        with self._changed:
            self._number += 1
            near = self._last is not None and self._last.snapshot.bench.cell == snapshot.bench.cell
            before = self._last.dataset if near else None
            self._wanted = PointRequest(self._number, snapshot, before)
            self._changed.notify()

    def close(self) -> None:
        """Ends the thread."""
        with self._changed:
            self._closing = True
            self._changed.notify()
        self._thread.join()

    def _work(self) -> None:
        while True:
            with self._changed:
                self._changed.wait_for(lambda: self._wanted or self._closing)
                request, self._wanted = self._wanted, None
            if self._closing:
                return
            self._arrived.emit(request())

    def _receive(self, answer: PointAnswer) -> None:
        if answer.dataset is not None:
            self._last = answer
        if answer.number == self._number:
            self.answered.emit(answer)
