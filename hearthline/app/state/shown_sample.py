"""One sample, or any other point of the statistics, on the whole desk in the place of the nominal circuit."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from hearthline.app.state.results import Results, Shown
from hearthline.app.state.worker import NewestWins
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.spread.draws import Draws, Space
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.variables import Variable


@dataclass(frozen=True)
class PointOfStatistics:
    """Numbers (variables,) that go together as the variables do, what it is called, and which sample it is, -1 for none."""

    name: str
    variables: Sequence[Variable]
    normal: np.ndarray
    number: int = -1

    @property
    def draws(self) -> Draws:
        """What the circuit deviates by."""
        return Space(tuple(self.variables)).draws(self.normal[None])


def point_of(samples: SampleSet, number: int, name: str = "") -> PointOfStatistics:
    """One sample of a set; a `name` of its own where it is not one of the run's."""
    own = name or f"sample {number + 1}"
    return PointOfStatistics(own, samples.variables, samples.normal[number], -1 if name else number)


class ShownSample(QObject):
    """`point` is what is shown, None for the nominal circuit."""

    changed = pyqtSignal()

    def __init__(self, results: Results, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.results = results
        self.point: PointOfStatistics | None = None
        self._nominal: Shown | None = None
        self._solver = NewestWins("one sample", self)
        self._solver.answered.connect(self._take)
        self.refused = self._solver.refused

    @property
    def number(self) -> int:
        """Of the shown sample, -1 where there is none."""
        return self.point.number if self.point is not None else -1

    @property
    def busy(self) -> bool:
        """Whether its curves are still to come."""
        return self._solver.busy

    @property
    def draws(self) -> Draws | None:
        """What the circuit deviates by."""
        return self.point.draws if self.point is not None else None

    def forget(self) -> None:
        """Another run is shown."""
        if self.point is not None:
            self.point = None
            self.changed.emit()
        self._nominal = None

    def back(self) -> None:
        """The nominal circuit again."""
        if self.point is None:
            return
        self.point, nominal, self._nominal = None, self._nominal, None
        if nominal is not None:
            self.results.show_for_now(nominal)
        self.changed.emit()

    def show(self, point: PointOfStatistics, snapshot: Snapshot | None) -> None:
        """Operating point, curves and readings of a point everywhere."""
        if snapshot is None or (self.point is not None and point.name == self.point.name):
            return
        self.point = point
        shown = self._nominal = self._nominal or self.results.shown
        if shown is not None:
            self._solver.ask(lambda report: (point, _curves(point, snapshot, shown)))
        self.changed.emit()

    def _take(self, answer: tuple[PointOfStatistics, Shown]) -> None:
        point, shown = answer
        if point is self.point:
            self.results.show_for_now(shown)

    def close(self) -> None:
        """Ends the thread."""
        self._solver.close()


def _curves(point: PointOfStatistics, snapshot: Snapshot, shown: Shown) -> Shown:
    from hearthline.core.bench.sampled import one_sample, sample_plan

    plan = sample_plan(snapshot)
    plan = replace(plan, space=Space(tuple(point.variables), plan.space.root))
    run = replace(shown.run, results=one_sample(plan, point.normal), conditions=plan.conditions, failures={})
    return replace(shown, run=run, note=point.name)
