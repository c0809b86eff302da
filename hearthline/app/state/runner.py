"""Runs a bench off the window's thread, with progress and stop."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hearthline.core.bench.readings import Run
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job
from hearthline.core.errors import HearthlineError

POLL_MILLISECONDS = 30


@dataclass(frozen=True)
class RunAnswer:
    """A run and the file it was stored in, or the error; a run may be there and not be stored."""

    made: datetime
    run: Run | None
    path: Path | None
    error: HearthlineError | None


class Runner(QObject):
    """One run at a time. `progressed` carries points done and to do, `finished` a RunAnswer."""

    started = pyqtSignal()
    progressed = pyqtSignal(int, int)
    finished = pyqtSignal(object)
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

    def run(self, snapshot: Snapshot, folder: Path) -> None:
        """Starts a run whose result is stored in `folder`; does nothing while another goes on."""
        if self.busy:
            return
        self._job = Job()
        self._thread = threading.Thread(target=self._work, args=(snapshot, folder, self._job), name="run", daemon=True)
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

    def _work(self, snapshot: Snapshot, folder: Path, job: Job) -> None:
        from hearthline.core.bench.run import run_bench  # late: see PointRequest
        from hearthline.core.formats.run_file import write_run

        made = datetime.now()
        run, path, problem = None, None, None
        try:
            run = run_bench(snapshot, job)
            path = write_run(folder, run, made)
        except HearthlineError as error:
            problem = error
        self._arrived.emit(RunAnswer(made, run, path, problem))

    def _report(self) -> None:
        if self._job and self._job.total:
            self.progressed.emit(self._job.done, self._job.total)

    def _receive(self, answer: RunAnswer) -> None:
        self._report()
        self._poll.stop()
        self._job = None
        self.finished.emit(answer)
