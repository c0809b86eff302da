"""Readings over whole cycles of a periodic waveform: charge, energy, average power. Curves are (lanes, points) over time
x (points,) [s]; the last cycle counts, between two upward passings of the middle of `clock`, or of the curve itself."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hearthline.core.data.measure import Curve
from hearthline.core.data.timing import crossings


def last_cycle(curve: Curve, x: np.ndarray, clock: Curve | None = None) -> np.ndarray:
    """Begin and end of the last whole cycle (lanes, 2); NaN where there is none."""
    found = []
    for row in np.broadcast_to(curve if clock is None else clock, curve.shape):
        ups: Sequence[float] | np.ndarray = (
            crossings(row, x, 0.5 * (row.min() + row.max()), 1) if row.max() > row.min() else []
        )
        found.append([ups[-2], ups[-1]] if len(ups) > 1 else [np.nan, np.nan])
    return np.array(found)


def per_cycle(curve: Curve, x: np.ndarray, clock: Curve | None = None) -> Curve:
    """Area under the last whole cycle: the charge of a current [C], the energy of a power [J]."""
    ends = last_cycle(curve, x, clock)
    return np.array([[area_between(row, x, *pair)] for row, pair in zip(curve, ends, strict=True)])


def average(curve: Curve, x: np.ndarray, clock: Curve | None = None) -> Curve:
    """Mean over the last whole cycle; over the whole curve where there is none."""
    ends = last_cycle(curve, x, clock)
    ends = np.where(np.isfinite(ends), ends, [x[0], x[-1]])
    return np.array([[area_between(r, x, *p) / (p[1] - p[0])] for r, p in zip(curve, ends, strict=True)])


def area_between(row: np.ndarray, x: np.ndarray, begin: float, end: float) -> float:
    """Area by the trapezoidal rule between two places, straight between points."""
    if not end > begin:
        return np.nan
    inside = (x > begin) & (x < end)
    places = np.concatenate([[begin], x[inside], [end]])
    values = np.concatenate([[np.interp(begin, x, row)], row[inside], [np.interp(end, x, row)]])
    return float(np.trapezoid(values, places))
