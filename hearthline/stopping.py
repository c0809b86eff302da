"""Work that can be stopped from the keyboard or by a signal: compiled loops do not look at either, so they run beside a thread
that does."""

from __future__ import annotations

import signal
import threading
from collections.abc import Callable
from typing import TypeVar

from hearthline.core.engine.job import Job

Found = TypeVar("Found")
OFTEN = 0.05
"""Seconds between looks at whether the work is done."""


class StoppedError(Exception):
    """The work was stopped; `signal` says by what."""

    def __init__(self, number: int):
        super().__init__("stopped; what was finished before stays")
        self.signal = number


class _Work:
    """The work that a signal stops, and which signal came first."""

    job: Job | None = None
    number: int | None = None


def heed_signals() -> None:
    """SIGTERM stops as Ctrl-C does, so that nothing half written is left. A second signal does not wait for that."""

    def stop(number: int, frame: object) -> None:
        if _Work.job is None or _Work.number is not None:
            raise StoppedError(number)
        # not raised here: CPython 3.11 takes a thread for ended when its `join` is left by an exception
        _Work.number = number
        _Work.job.stop()

    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, stop)


def stoppable(work: Callable[[Job], Found]) -> Found:
    """What `work` gives back. Raises StoppedError when it was stopped, after its threads have ended."""
    job, found, trouble = Job(), [], []

    def run() -> None:
        try:
            found.append(work(job))
        except BaseException as error:
            trouble.append(error)

    thread = threading.Thread(target=run, daemon=True)
    _Work.job, _Work.number = job, None
    try:
        thread.start()
        while thread.is_alive():
            thread.join(OFTEN)
    finally:
        _Work.job = None
    if _Work.number is not None:
        raise StoppedError(_Work.number)
    if trouble:
        raise trouble[0]
    return found[0]
