"""Which size does most to a reading: looked for when a person asks, and proved by a run of the changed circuit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject

from hearthline.app.state.asked import Asked
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job
from hearthline.core.errors import HearthlineError

if TYPE_CHECKING:
    from hearthline.core.bench.sizing import Leverage


@dataclass(frozen=True)
class Proved:
    """A size of a list, so many times as large, and every reading of the circuit with it."""

    of: Leverage
    size: int
    factor: float
    values: Mapping[str, np.ndarray]


class Sizes(Asked["Leverage"]):
    """What each does, and `proofs` of some; the number of the one that is being proved, or -1."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__("sizes", parent)
        self.proofs: dict[int, Proved] = {}
        self.proving = -1

    def ask(self, snapshot: Snapshot | None) -> None:
        """Tries every size."""
        if snapshot is None:
            return

        def make(job: Job) -> Leverage:
            from hearthline.core.bench.sizing import leverage  # late: the engine loads its kernels on this thread

            return leverage(snapshot, job)

        self._clear()
        self._question(make)

    def prove(self, size: int, factor: float) -> None:
        """Runs the circuit with a size of the list changed as it would be typed."""
        found = self.found
        if found is None or self.busy:
            return

        def make(job: Job) -> Proved:
            from hearthline.core.bench.sizing import readings_at_point, with_size

            changed = with_size(found.snapshot, found.sizes[size], factor)
            return Proved(found, size, factor, readings_at_point(changed, job))

        self.error, self.proving = None, size
        self._question(make)

    def _clear(self) -> None:
        super()._clear()
        self.proofs, self.proving = {}, -1

    def _answered(self, answer: Leverage | Proved) -> None:
        self.proving = -1
        if isinstance(answer, Proved):
            self.proofs[answer.size] = answer
        else:
            self.found = answer

    def _refuse(self, error: HearthlineError) -> None:
        self.proving = -1
        super()._refuse(error)
