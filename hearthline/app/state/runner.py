"""Runs a bench off the window's thread, with progress by condition, and stop."""

from __future__ import annotations

import sys
import threading
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hearthline.core.bench.readings import Numbers, Reader, Run
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import write

POLL_MILLISECONDS = 30
ASK_POINTS, ASK_BYTES = 20_000_000, 2e9
"""Beyond either the person is asked before a run begins."""


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
    """How far a run is: the analysis by its number of how many, points done and to do, and the share of each condition."""

    analysis: str
    number: int
    count: int
    done: int
    total: int
    lanes: np.ndarray

    @property
    def words(self) -> str:
        """As it stands beside the bar."""
        ready = int((self.lanes >= 1).sum())
        which = f"{self.analysis} ({self.number} of {self.count})" if self.count > 1 else self.analysis
        return f"{which}: {ready} of {len(self.lanes)} conditions"


class Runner(QObject):
    """One run at a time. `progressed` carries a Progress, `finished` a RunAnswer, and `stored` the path of its file or the
    error, some time later."""

    started = pyqtSignal()
    progressed = pyqtSignal(object)
    finished = pyqtSignal(object)
    stored = pyqtSignal(object, object)
    _arrived = pyqtSignal(object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._job: Job | None = None
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
        from hearthline.core.bench.run import run_bench, size_of  # late: see PointRequest
        from hearthline.core.formats.run_file import write_run

        made = datetime.now()
        try:
            points, size = size_of(request.snapshot, request.names)
            if not request.asked and (points > ASK_POINTS or size > ASK_BYTES):
                words = f"{points:,}".replace(",", " ") + f" points, about {write(size, '', 2)}B in memory"
                self._arrived.emit(RunAnswer(request, made, size=words))
                return
            run = run_bench(request.snapshot, job, request.names, request.before)
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

    def _report(self) -> None:
        if self._job and self._job.total:
            job = self._job
            self.progressed.emit(Progress(*job.stage, job.done, job.total, job.lanes))

    def _receive(self, answer: RunAnswer) -> None:
        self._report()
        self._poll.stop()
        self._job = None
        self.finished.emit(answer)
