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


def heed_signals() -> None:
    """SIGTERM stops as Ctrl-C does, so that nothing half written is left."""

    def stop(number: int, frame: object) -> None:
        raise StoppedError(number)

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
    # a signal between the start and the `try` would leave the thread at work
    before = signal.pthread_sigmask(signal.SIG_BLOCK, (signal.SIGTERM, signal.SIGINT))
    try:
        thread.start()
        signal.pthread_sigmask(signal.SIG_SETMASK, before)
        while thread.is_alive():
            thread.join(OFTEN)
    except StoppedError:
        job.stop()
        thread.join()
        raise
    if trouble:
        raise trouble[0]
    return found[0]
