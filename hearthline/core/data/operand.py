"""What stands between the parts of a formula: numbers or curves with their unit and what they run over."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.data.dataset import Dataset
from hearthline.core.data.units import PLAIN, Unit, unit_of


@dataclass(frozen=True)
class Axis:
    """What a curve runs over: name, unit and values, (points,) or (lanes, points) with NaN behind the last."""

    name: str
    unit: Unit
    points: np.ndarray

    @property
    def ragged(self) -> bool:
        """Whether each lane has points of its own."""
        return self.points.ndim == 2

    def row(self, lane: int) -> np.ndarray:
        """The values of a lane, without what is behind its last."""
        if not self.ragged:
            return self.points
        row = self.points[lane]
        return row[: np.count_nonzero(np.isfinite(row))]

    def same(self, other: Axis) -> bool:
        """Whether curves over both may be added point by point."""
        return self is other or (self.name == other.name and np.array_equal(self.points, other.points, equal_nan=True))


@dataclass(frozen=True)
class Operand:
    """`values` are (lanes, points) over `axis`, or (lanes, 1) without one, with one lane where it is the same in all. Without a
    unit it is a bare number, which may stand for any quantity."""

    values: np.ndarray
    unit: Unit | None = None
    axis: Axis | None = None

    @property
    def known(self) -> Unit:
        """The unit, that of a bare number being none."""
        return self.unit or PLAIN


def axis_of(data: Dataset) -> Axis:
    """The axis of a dataset; the same object each time it is asked of the same points, so that comparing is quick."""
    return Axis(data.axis, unit_of(data.axis_unit), data.points)


def number(value: float | complex) -> Operand:
    """A bare number."""
    return Operand(np.array([[value if isinstance(value, complex) else float(value)]]))
