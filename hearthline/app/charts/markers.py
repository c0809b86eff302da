"""Markers on curves: where they snap to, what they say of themselves and of each other. No widget is needed."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from hearthline.app.charts.curves import Trace
from hearthline.core.data.timing import crossings
from hearthline.core.quantity import write

CROSSING, PEAK, SAMPLE, BETWEEN = "crossing", "peak", "point", ""


@dataclass(frozen=True)
class Marker:
    """A place on the curve of a lane: the analysis, the watch by its formula, x, and what it snapped to."""

    analysis: str
    formula: str
    scale: str
    lane: int
    x: float
    snapped: str = ""


def places_of(trace: Trace, lane: int, others: Iterable[Trace] = ()) -> list[tuple[float, str]]:
    """Where a marker may snap to: passings of zero and of the other curves of the strip, summits and valleys."""
    x, y = trace.row(lane)
    if len(x) < 3:
        return []
    found = [(float(p), CROSSING) for p in crossings(y, x, 0.0)] if np.nanmin(y) < 0 < np.nanmax(y) else []
    for other in others:
        ox, oy = other.row(min(lane, other.lanes - 1))
        if other is not trace and len(ox) == len(x) and np.array_equal(ox, x):
            found += [(float(p), CROSSING) for p in crossings(y - oy, x, 0.0)]
    steps = np.sign(np.diff(y))
    turns = np.flatnonzero(steps[:-1] * steps[1:] < 0) + 1
    found += [(float(x[k]), PEAK) for k in turns[:500]]
    return sorted(found)


def snap(trace: Trace, lane: int, x: float, reach: float, others: Iterable[Trace] = ()) -> tuple[float, str]:
    """The nearest crossing or summit within `reach` of x, else the nearest point of the curve within it, else x itself."""
    near = [one for one in places_of(trace, lane, others) if abs(one[0] - x) <= reach]
    if near:
        return min(near, key=lambda one: (one[1] != CROSSING, abs(one[0] - x)))
    xs, _ = trace.row(lane)
    if len(xs):
        k = int(np.argmin(np.abs(xs - x)))
        if abs(xs[k] - x) <= reach:
            return float(xs[k]), SAMPLE
    return x, BETWEEN


def neighbour(trace: Trace, lane: int, x: float, steps: int, kind: str = SAMPLE, others: Iterable[Trace] = ()) -> float:
    """x some points, crossings or summits further on; the same x where there is none."""
    xs = trace.row(lane)[0] if kind == SAMPLE else np.array([p for p, k in places_of(trace, lane, others) if k == kind])
    xs = np.sort(xs)
    if not len(xs):
        return x
    span = 1e-9 * max(abs(xs[-1] - xs[0]), 1e-30)
    if steps > 0:
        after = xs[xs > x + span]
        return float(after[min(steps, len(after)) - 1]) if len(after) else x
    before = xs[xs < x - span]
    return float(before[max(len(before) + steps, 0)]) if len(before) else x


def lines_of(markers: list[Marker], traces: dict[tuple[str, str], Trace], names: dict[int, str]) -> list[str]:
    """A line for each marker: curve, condition, x, y, slope, and the differences to the one before it."""
    found, before = [], None
    for number, marker in enumerate(markers, 1):
        trace = traces.get((marker.formula, marker.scale))
        if trace is None or marker.lane >= trace.lanes:
            found.append(f"{number}  {marker.formula}: not in this run")
            continue
        x, y = marker.x, trace.value(marker.lane, marker.x)
        words = [
            f"{number}  {trace.watch.shown}",
            names.get(marker.lane, ""),
            f"{trace.axis} {write(x, trace.axis_unit, 5)}",
        ]
        words += [f"y {write(y, trace.unit, 5)}", f"slope {write(trace.slope(marker.lane, x), trace.slope_unit, 3)}"]
        if before is not None and before[2].axis == trace.axis:
            dx = x - before[0]
            words.append(f"Δ{trace.axis} {write(dx, trace.axis_unit, 4)}")
            if before[2].unit == trace.unit:
                words.append(f"Δy {write(y - before[1], trace.unit, 4)}")
            if trace.axis_unit == "s" and dx:
                words.append(f"1/Δ {write(1 / abs(dx), 'Hz', 4)}")
        before = (x, y, trace)
        found.append("   ".join(word for word in words if word))
    return found
