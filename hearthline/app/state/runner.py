"""Runs a bench off the window's thread, with progress by condition, and stop."""

from __future__ import annotations

import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hearthline.core.bench.readings import Numbers, Reader, Run
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import write

POLL_MILLISECONDS = 30
REDRAW_SECONDS = 0.05
"""Between two looks at a run that grows."""
ASK_POINTS, ASK_BYTES = 20_000_000, 2e9
"""Beyond either the person is asked before a run begins."""
ASK_SAMPLE_BYTES, ASK_SECONDS = 2e8, 300.0
"""The same of samples."""


@dataclass(frozen=True)
class RunRequest:
    """What is to be run: the analyses of `names` (None: all), taking over what `before` holds; `asked` when the person has said
    yes to its size."""

    snapshot: Snapshot
    folder: Path
    names: tuple[str, ...] | None = None
    before: Run | None = None
    asked: bool = False
    note: str = ""


@dataclass(frozen=True)
class RunAnswer:
    """A run with its numbers, or the error, or how large it would be (`size`, in words)."""

    request: RunRequest
    made: datetime
    run: Run | None = None
    numbers: dict[str, Numbers] = field(default_factory=dict)
    error: HearthlineError | None = None
    size: str = ""


@dataclass(frozen=True)
class Progress:
    """How far a run is: the analysis by its number of how many, the share of it that is done, conditions that are ready of how
    many, and about how many seconds the analysis still takes, where that can be told."""

    analysis: str
    number: int
    count: int
    share: float
    ready: int
    conditions: int
    left: float | None = None

    @property
    def words(self) -> str:
        """As it stands beside the bar."""
        which = f"{self.analysis} ({self.number} of {self.count})" if self.count > 1 else self.analysis
        words = f"{which}: {self.ready} of {self.conditions} conditions"
        return words if self.left is None else f"{words}, {duration(self.left)} left"


def duration(seconds: float) -> str:
    """About how long: `8 s`, `3 min`, `2 h`."""
    if seconds < 90:
        return f"{max(1, round(seconds))} s"
    return f"{round(seconds / 60)} min" if seconds < 5400 else f"{round(seconds / 3600)} h"


class Runner(QObject):
    """One run at a time. `progressed` carries a Progress, `grown` the RunAnswer of a run as far as it is, `finished` the last
    one, and `stored` the path of its file or the error, some time later."""

    started = pyqtSignal()
    progressed = pyqtSignal(object)
    finished = pyqtSignal(object)
    stored = pyqtSignal(object, object)
    grown = pyqtSignal(object)
    _arrived = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._job: Job | None = None
        self._stage, self._begun = ("", 0, 0), 0.0
        self._thread: threading.Thread | None = None
        self._poll = QTimer(self)
        self._poll.setInterval(POLL_MILLISECONDS)
        self._poll.timeout.connect(self._report)
        self._arrived.connect(self._receive)

    @property
    def busy(self) -> bool:
        """Whether a run is going on."""
        return self._job is not None

    def run(self, request: RunRequest) -> None:
        """Starts a run whose result is stored; does nothing while another goes on."""
        if self.busy:
            return
        if self._thread:
            self._thread.join()  # it is writing the last one
        self._job = Job()
        self._thread = threading.Thread(target=self._work, args=(request, self._job), name="run", daemon=True)
        self._thread.start()
        self._poll.start()
        self.started.emit()

    def stop(self) -> None:
        """Stops the run; what is done is kept."""
        if self._job:
            self._job.stop()

    def close(self) -> None:
        """Stops and waits for the thread."""
        self.stop()
        self._poll.stop()
        if self._thread:
            self._thread.join()

    def _work(self, request: RunRequest, job: Job) -> None:
        from hearthline.core.bench.run import run_bench, size_of, with_cold  # late: see PointRequest
        from hearthline.core.formats.run_file import write_run

        made = datetime.now()
        try:
            points, size = size_of(request.snapshot, request.names)
            if not request.asked and (points > ASK_POINTS or size > ASK_BYTES):
                words = f"{points:,}".replace(",", " ") + f" points, about {write(size, '', 2)}B in memory"
                self._arrived.emit(RunAnswer(request, made, size=words))
                return
            if words := self._size_of_samples(request):
                self._arrived.emit(RunAnswer(request, made, size=words))
                return
            tell = self._teller(request, made)
            run = run_bench(request.snapshot, job, request.names, request.before, tell)
            run = with_cold(self._sampled(request, run, job, tell), request.snapshot, job, request.names)
            numbers = Reader(request.snapshot.bench, run.results).all()
        except HearthlineError as error:
            self._arrived.emit(RunAnswer(request, made, error=error))
            return
        except MemoryError:
            problem = HearthlineError("there is not enough memory for this run; take fewer points or conditions")
            self._arrived.emit(RunAnswer(request, made, error=problem))
            return
        except Exception as fault:  # the window goes on; the trace goes where those of the window go
            sys.excepthook(type(fault), fault, fault.__traceback__)
            problem = HearthlineError(f"this could not be computed: {fault or type(fault).__name__}")
            self._arrived.emit(RunAnswer(request, made, error=problem))
            return
        self._arrived.emit(RunAnswer(request, made, run, numbers))
        try:
            self.stored.emit(write_run(request.folder, run, made, request.note, numbers), None)
        except HearthlineError as error:
            self.stored.emit(None, error)

    @staticmethod
    def _size_of_samples(request: RunRequest) -> str:
        """In words, where it is so large that a person is asked."""
        from hearthline.core.bench.sampled import sample_plan, seconds_of

        if request.snapshot.bench.samples is None or request.asked or request.names is not None:
            return ""
        plan = sample_plan(request.snapshot)
        before = request.before.samples if request.before is not None else None
        seconds = seconds_of(plan, before.count if before is not None else 0)
        if plan.bytes <= ASK_SAMPLE_BYTES and seconds <= ASK_SECONDS:
            return ""
        count = f"{plan.sampling.count:,}".replace(",", " ")
        return f"{count} samples, about {write(plan.bytes, '', 2)}B and {duration(seconds)}"

    @staticmethod
    def _sampled(request: RunRequest, run: Run, job: Job, tell: Callable[[Run], None]) -> Run:
        """With the samples of the bench, as far as they are not there; those that were drawn before are kept."""
        from hearthline.core.bench.sampled import run_samples, sample_plan

        before = request.before.samples if request.before is not None else None
        if request.snapshot.bench.samples is None or job.stopped or request.names is not None:
            return replace(run, samples=before)
        plan = sample_plan(request.snapshot)
        tell(replace(run, samples=before))
        samples = run_samples(plan, job, before, lambda some: tell(replace(run, samples=some)))
        return replace(run, samples=samples)

    def _teller(self, request: RunRequest, made: datetime) -> Callable[[Run], None]:
        """Hands on a run as far as it is, with its readings, not too often."""
        last = 0.0

        def tell(run: Run) -> None:
            nonlocal last
            if time.monotonic() - last >= REDRAW_SECONDS:
                numbers = Reader(request.snapshot.bench, run.results).all()
                last = time.monotonic()
                self.grown.emit(RunAnswer(request, made, run, numbers))

        return tell

    def _report(self) -> None:
        if not self._job or not self._job.total:
            return
        job, now = self._job, time.monotonic()
        if self._stage != job.stage:
            self._stage, self._begun = job.stage, now
        share, done, lanes = job.share, job.whole, job.lanes
        per = max(1, len(lanes) // max(1, done[1]))
        ready = done[0] + int((lanes >= 1).sum()) // per
        spent = now - self._begun
        left = spent * (1 - share) / share if share > 0 and spent > 1.0 else None
        self.progressed.emit(Progress(*job.stage, share, ready, done[2] if done[2] > 1 else len(lanes), left))

    def _receive(self, answer: RunAnswer) -> None:
        self._report()
        self._poll.stop()
        self._job = None
        self.finished.emit(answer)
