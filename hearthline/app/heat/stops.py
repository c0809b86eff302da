"""Where a run knows how warm the die is: at every value of a sweep, or of what an analysis is made within."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.bench.readings import describe_lane
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.heat import peak_label, power_label
from hearthline.core.quantity import write
from hearthline.core.thermal.die import Plan

MOST = 200
"""Along an axis."""
ALONG = ("dc", "tran")
"""Analyses whose own axis is what the die follows; others have one temperature a lane."""


@dataclass(frozen=True)
class Stop:
    """Powers of the parts (parts,) [W], temperature of the surroundings and of the hottest spot [°C], and where that is."""

    words: str
    powers: np.ndarray
    celsius: float
    peak: float


def stops_of(data: Dataset | None, plan: Plan, lane: int) -> list[Stop]:
    """Of the condition that a lane belongs to; none where the run tells no powers."""
    if data is None or any(power_label(one.part, 1) not in data.curves for one in plan.sources):
        return []
    if data.kind in ALONG and data.width > 1:
        solved = np.flatnonzero(np.isfinite(_powers(data, plan, lane)).all(axis=1))
        places = [(lane, int(k)) for k in solved[:: max(1, len(solved) // MOST)]]
    else:
        first = lane - lane % data.per_condition
        places = [(one, 0) for one in range(first, first + data.per_condition)]
    found = [_stop(data, plan, *place) for place in places]
    return [one for one in found if np.isfinite(one.powers).all()]


def _powers(data: Dataset, plan: Plan, lane: int) -> np.ndarray:
    """Along the axis (points, parts)."""
    return np.stack(
        [one.fingers * np.real(data.curves[power_label(one.part, 1)][lane]) for one in plan.sources], axis=1
    )


def _stop(data: Dataset, plan: Plan, lane: int, point: int) -> Stop:
    peaks = [float(np.real(data.curves[peak_label(one.part)][lane, point])) for one in plan.sources]
    where = describe_lane(data, lane)
    if data.kind in ALONG and data.width > 1:
        points = data.points[lane] if data.points.ndim > 1 else data.points
        where = f"{data.axis} {write(float(points[point]), data.axis_unit, 4)} at {where}"
    return Stop(where, _powers(data, plan, lane)[point], float(data.conditions["temperature"][lane]), max(peaks))
