"""Other plans of the die, tried beside each other."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject

from hearthline.app.state.asked import Asked
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.job import Job

if TYPE_CHECKING:
    from hearthline.core.bench.heat_trying import Tried


class Trials(Asked["Tried"]):
    """Of one part and one of its numbers at a time."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__("trials", parent)

    def ask(self, snapshot: Snapshot, part: str, way: str) -> None:
        """All values of a way."""

        def make(job: Job) -> Tried:
            from hearthline.core.bench.heat_trying import tried  # late: the engine loads its kernels on this thread

            return tried(snapshot, part, way, job)

        self._clear()
        self._question(make)
