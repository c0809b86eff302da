"""Curves of watches, and what a cursor reads from them. No widget is needed for either."""

from __future__ import annotations

import numpy as np

from hearthline.core.bench.bench import Watch
from hearthline.core.bench.readings import describe_lane
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.formula import Formula
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import write

NOTHING = 1e-9
"""Share of the largest value under which the cursor reads 0: the solver's tolerance, not the circuit."""


def watch_curve(dataset: Dataset, watch: Watch) -> np.ndarray:
    """The watched curve (lanes, points); NaN where the run does not have what its formula needs."""
    shape = (dataset.lanes, len(dataset.points))
    try:
        return np.array(np.broadcast_to(Formula.parse(watch.formula).value(dataset), shape))
    except HearthlineError:
        return np.full(shape, np.nan)


def values_at(dataset: Dataset, curve: np.ndarray, x: float) -> np.ndarray:
    """The curve of every lane at a swept value (lanes,), straight between points."""
    values = np.array([np.interp(x, dataset.points, row) for row in curve])
    values[np.abs(values) < NOTHING * np.nanmax(np.abs(curve), initial=0.0)] = 0.0
    return values


def slope_at(dataset: Dataset, row: np.ndarray, x: float) -> float:
    """Slope of one lane's curve at a swept value."""
    slope = float(np.interp(x, dataset.points, np.gradient(row, dataset.points)))
    span = dataset.points[-1] - dataset.points[0]
    return 0.0 if abs(slope) * span < NOTHING * np.nanmax(np.abs(row), initial=0.0) else slope


def cursor_text(dataset: Dataset, watch: Watch, curve: np.ndarray, lane: int, x: float) -> str:
    """The swept value, the curve of `lane` with its slope, and the range of all curves."""
    values = values_at(dataset, curve, x)
    slope_unit = "" if watch.unit == dataset.axis_unit else f"{watch.unit}/{dataset.axis_unit}"
    found = values[np.isfinite(values)]
    low, high = (found.min(), found.max()) if len(found) else (np.nan, np.nan)
    return (
        f"{dataset.axis} {write(x, dataset.axis_unit, 4)}\n"
        f"{describe_lane(dataset, lane)}: {write(float(values[lane]), watch.unit, 4)}\n"
        f"slope {write(slope_at(dataset, curve[lane], x), slope_unit, 3)}\n"
        f"all {write(float(low), watch.unit, 3)} … {write(float(high), watch.unit, 3)}"
    )
