"""What a deck asks for, ready to run: each analysis with its table."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.kind import Piece
from hearthline.core.analyses.plan import Plan, Share
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.rows import columns_of
from hearthline.core.elements.deck_line import Line
from hearthline.core.engine.job import Job
from hearthline.core.engine.system import System
from hearthline.core.formats.table import TableFile, write_csv

if TYPE_CHECKING:  # time steps are loaded when they are wanted
    from hearthline.core.engine.transient.run import Keeper


@dataclass(frozen=True)
class Task:
    """One analysis of a deck, lowered."""

    line: Line
    plan: Plan
    share: Share

    @property
    def kind(self) -> str:
        """What its table is called."""
        return self.plan.kind.table

    @property
    def system(self) -> System:
        """What will be solved."""
        return self.share.work.system

    @property
    def header(self) -> list[str]:
        """Names of the columns of what is written row by row: the time, voltages and currents."""
        return ["time", *(unknown.label for unknown in self.system.unknowns if unknown.kind)]

    def run(self, job: Job | None = None, path: Path | None = None) -> Piece:
        """Solves it. With `path` its table is written there, when all is well; one that may be long as it is made, and is not
        kept. Raises FileError where it cannot be written."""
        job = job or Job()
        stream = self.share.work.stream
        if path is not None and stream is not None:
            return self._streamed(lambda keeper: stream(job, keeper), path)
        found = self.plan.solved([self.share], job)
        if path is not None and not found.failures:
            write_csv(path, self.columns(found))
        return found

    def _streamed(self, solve: Callable[[Keeper], Piece], path: Path) -> Piece:
        with TableFile(path, self.header) as table:
            found = solve(lambda track, rows: table.write(rows))
            if found.dataset.complete.all():
                table.finish()
        return found

    def columns(self, found: Piece) -> dict[str, np.ndarray]:
        """The table: what was swept, the fastest first; then `V(..)`, `I(..)` and the rest, one row a point."""
        data, names = found.dataset, self.plan.kind.columns(self.plan)
        table = {**_axis(data), **_within(data, self.plan)}
        table |= columns_of(data)
        return {names.get(name, name): values for name, values in table.items()}


def _axis(data: Dataset) -> dict[str, np.ndarray]:
    if data.axis == "point":
        return {}
    return {data.axis: np.broadcast_to(data.points, data.outcomes.shape).reshape(-1)}


def _within(data: Dataset, plan: Plan) -> dict[str, np.ndarray]:
    if "within" not in plan.settings:
        return {}
    name = plan.settings["within"]
    return {name: np.repeat(data.conditions[name], data.width)}
