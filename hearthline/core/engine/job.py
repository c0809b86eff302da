"""A running solution seen from outside: how far it is, and the way to stop it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from hearthline.core.workers import worker_count


class Job:
    """Progress and stop of one run at a time: compiled code writes into `progress`, so that two runs never share a job. It
    polls `flag` once an iteration, so a stop takes effect at once."""

    def __init__(self, workers: int | None = None):
        self.workers = workers or worker_count()
        self.flag = np.zeros(1, np.int64)
        self.progress = np.zeros(1, np.int64)
        self.total = 0
        self.stage = ("", 0, 0)
        self.on_stage: Callable[[str, int, int], None] | None = None
        self.whole = (0, 1, 1)
        """Conditions that are done already, those being worked on, and all."""
        self._lanes: Callable[[], np.ndarray] = lambda: np.zeros(0)

    def begin(self, total: int, shares: int) -> None:
        """Called by the solver: how many points there are, in how many shares of lanes."""
        self.total, self.progress = total, np.zeros(shares, np.int64)
        progress = self.progress
        self._lanes = lambda: progress * shares / max(1, total)

    def beside(self) -> Job:
        """Another one, of one thread, that is stopped with this."""
        found = Job(1)
        found.flag = self.flag
        return found

    def follow(self, lanes: Callable[[], np.ndarray]) -> None:
        """Called by a solver that shares out lanes: asks how far each lane is, from 0 to 1."""
        self._lanes = lanes

    def name(self, stage: str, number: int, count: int) -> None:
        """What is being done now, as the `number`-th of `count` things."""
        self.stage = (stage, number, count)
        if self.on_stage:
            self.on_stage(*self.stage)

    def portion(self, done: int, count: int, total: int) -> None:
        """What is solved next is `count` conditions of `total`, of which `done` are ready."""
        self.whole = (done, count, total)

    @property
    def share(self) -> float:
        """How much of all conditions is done, from 0 to 1."""
        done, count, total = self.whole
        here = self.done / self.total if self.total else 0.0
        return min(1.0, (done + count * min(1.0, here)) / total)

    @property
    def stopped(self) -> bool:
        """Whether somebody asked for the end."""
        return bool(self.flag[0])

    @property
    def lanes(self) -> np.ndarray:
        """How far each lane of what is being done now is (lanes,), from 0 to 1."""
        return np.minimum(1.0, self._lanes())

    def stop(self) -> None:
        """Asks every worker to return what it has."""
        self.flag[0] = 1

    @property
    def done(self) -> int:
        """Points solved or given up, of `total`."""
        return int(self.progress.sum())
