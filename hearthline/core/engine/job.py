"""A running solution seen from outside: how far it is, and the way to stop it."""

from __future__ import annotations

import os

import numpy as np

SHARES_PER_WORKER = 4


def worker_count() -> int:
    """How many threads solve at a time: the processors this process may use."""
    return max(1, len(os.sched_getaffinity(0)))


class Job:
    """Progress and stop of one run. Compiled code polls the array once an iteration, so a stop takes effect at once."""

    def __init__(self, workers: int | None = None):
        self.workers = workers or worker_count()
        self.shares = 1 if self.workers == 1 else SHARES_PER_WORKER * self.workers
        self.control = np.zeros(1 + self.shares, np.int64)
        self.total = 0

    def stop(self) -> None:
        """Asks every worker to return what it has."""
        self.control[0] = 1

    @property
    def done(self) -> int:
        """Points solved or given up, of `total`."""
        return int(self.control[1:].sum())
