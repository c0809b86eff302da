"""Failures too rare for samples, and the worst points at some sigma: looked for on a thread, with progress and a stop."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hearthline.app.state.judging import Limits
from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job

if TYPE_CHECKING:
    from hearthline.core.bench.rare import RareFailure, Side
    from hearthline.core.spread.samples import SampleSet

PROGRESS_MILLISECONDS = 150


class RareState(QObject):
    """`failure` is the newest answer, of `asked`; `corners` are points that were found, each with its side and sigma."""

    changed = pyqtSignal()
    progressed = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.failure: RareFailure | None = None
        self.asked = ""
        self.corners: list[tuple[Side, float, SampleSet]] = []
        self.snapshot: Snapshot | None = None
        self.job = Job()
        self._worker = NewestWins("rare failures", self)
        self._worker.answered.connect(self._take)
        self.refused = self._worker.refused
        self.refused.connect(lambda _: self._rest())
        self._ticks = QTimer(self, interval=PROGRESS_MILLISECONDS)
        self._ticks.timeout.connect(self.progressed)

    @property
    def busy(self) -> bool:
        """Whether something is looked for."""
        return self._worker.busy

    def forget(self) -> None:
        """Another bench is shown."""
        self.job.stop()
        self.failure, self.asked, self.corners = None, "", []
        self.changed.emit()

    def look(self, snapshot: Snapshot, name: str, limits: Mapping[str, Limits], error: float, most: int) -> None:
        """How rarely the limit of a reading is passed, "" for any of them; the bench's own where no `limits` are given."""
        wanted = {key: both for key, both in limits.items() if name in ("", key)} or None

        def question(job: Job) -> tuple[str, object]:
            from hearthline.core.bench.rare import limits_of_bench, rare_failure
            from hearthline.core.bench.sampled import sample_plan

            plan = sample_plan(snapshot)
            own = wanted or {key: both for key, both in limits_of_bench(plan).items() if name in ("", key)}
            return name, rare_failure(plan, own, job, error, most)

        self._ask(snapshot, question)

    def find_corner(self, snapshot: Snapshot, reading: str, end: str, sigma: float) -> None:
        """The point at which a reading is worst towards one end."""

        def question(job: Job) -> tuple[str, object]:
            from hearthline.core.bench.rare import Side, statistical_corner
            from hearthline.core.bench.sampled import sample_plan

            side = Side(reading, end, 0.0)
            found = statistical_corner(sample_plan(snapshot), side, sigma, job)
            return reading, None if found is None else (side, sigma, found)

        self._ask(snapshot, question)

    def _ask(self, snapshot: Snapshot, question: Callable[[Job], tuple[str, object]]) -> None:
        self.job.stop()
        job = self.job = Job()
        self._worker.ask(lambda report: (job, snapshot, *question(job)))
        self._ticks.start()
        self.changed.emit()

    def stop(self) -> None:
        """Ends what is looked for; what was found before stays."""
        self.job.stop()

    def _take(self, answer: tuple[Job, Snapshot, str, object]) -> None:
        job, snapshot, name, found = answer
        if found is not None and not job.stopped:
            self.snapshot = snapshot
            if isinstance(found, tuple):
                self.corners = [found, *self.corners]
            else:
                self.failure, self.asked = found, name
        self._rest()

    def _rest(self) -> None:
        self._ticks.stop()
        self.changed.emit()

    def close(self) -> None:
        """Ends the thread."""
        self._ticks.stop()
        self.job.stop()
        self._worker.close()
