"""Readings of waveforms: edges, delays, periods, settling. Curves are (lanes, points) over time x (points,) [s]; numbers are
(lanes, 1), NaN where there is no such event.

Definitions as IEEE Std 181 has them: levels are shares of the step between two states, which are the first and last values
unless `low` and `high` are given.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike

from hearthline.core.data.measure import Curve


def _lanewise(curve: Curve, reading: Callable[[np.ndarray], float]) -> Curve:
    return np.array([[reading(row)] for row in curve], float)


def crossings(row: np.ndarray, x: np.ndarray, level: float, direction: int = 0) -> np.ndarray:
    """Every x where one waveform passes `level`, straight between points; upwards (1), downwards (-1) or both (0)."""
    above = row >= level
    k = np.flatnonzero(above[1:] != above[:-1])
    if direction:
        k = k[above[k + 1] == (direction > 0)]
    step = row[k + 1] - row[k]
    return x[k] + (level - row[k]) / step * (x[k + 1] - x[k])


def _numbered(places: np.ndarray, number: int) -> float:
    index = number - 1 if number > 0 else number
    return float(places[index]) if -len(places) <= index < len(places) else np.nan


def rising(curve: Curve, x: np.ndarray, level: float, number: int = 1) -> Curve:
    """x where the curve passes `level` upwards the `number`-th time (-1: the last)."""
    levels = _per_lane(level, curve)
    return np.array([[_numbered(crossings(r, x, v, 1), int(number))] for r, v in zip(curve, levels, strict=True)])


def falling(curve: Curve, x: np.ndarray, level: float, number: int = 1) -> Curve:
    """x where the curve passes `level` downwards."""
    levels = _per_lane(level, curve)
    return np.array([[_numbered(crossings(r, x, v, -1), int(number))] for r, v in zip(curve, levels, strict=True)])


def _per_lane(value: ArrayLike, curve: Curve) -> np.ndarray:
    return np.broadcast_to(np.asarray(value, float).reshape(-1), (len(curve),))


def rise(curve: Curve, x: np.ndarray, low: float = 0.1, high: float = 0.9) -> Curve:
    """Time [s] of the first upward step from the share `low` to the share `high` between the least and greatest values."""
    return between(rise_places(curve, x, low, high))


def rise_places(curve: Curve, x: np.ndarray, low: float = 0.1, high: float = 0.9) -> Curve:
    """Where that step begins and ends (lanes, 2)."""
    return np.array([_transition(row, x, low, high) for row in curve])


def fall(curve: Curve, x: np.ndarray, low: float = 0.1, high: float = 0.9) -> Curve:
    """Time [s] of the first downward step from the share `high` to the share `low`."""
    return between(fall_places(curve, x, low, high))


def fall_places(curve: Curve, x: np.ndarray, low: float = 0.1, high: float = 0.9) -> Curve:
    """Where that step begins and ends (lanes, 2)."""
    return np.array([_transition(row, x, 1.0 - high, 1.0 - low) for row in -curve])


def between(places: Curve) -> Curve:
    """From the first of two places to the second."""
    return places[:, 1:] - places[:, :1]


def _transition(row: np.ndarray, x: np.ndarray, low: float, high: float) -> tuple[float, float]:
    minimum, maximum = row.min(), row.max()
    start_level, end_level = minimum + low * (maximum - minimum), minimum + high * (maximum - minimum)
    ends = crossings(row, x, end_level, 1)
    if not len(ends):
        return np.nan, np.nan
    starts = crossings(row, x, start_level, 1)
    starts = starts[starts <= ends[0]]
    return (float(starts[-1]), float(ends[0])) if len(starts) else (np.nan, np.nan)


def delay(
    first: Curve, x: np.ndarray, second: Curve, level: float = np.nan, level2: float = np.nan, number: int = 1
) -> Curve:
    """Time [s] from the `number`-th passing of `level` by the first curve, either way, to the next passing of `level2` by
    the second. Without levels: halfway between least and greatest of each; without `level2` the same as `level`."""
    return between(delay_places(first, x, second, level, level2, number))


def delay_places(
    first: Curve, x: np.ndarray, second: Curve, level: float = np.nan, level2: float = np.nan, number: int = 1
) -> Curve:
    """Where the two pass (lanes, 2)."""
    found = []
    levels = zip(_per_lane(level, first), _per_lane(level2, first), strict=True)
    for a, b, (given, given2) in zip(first, second, levels, strict=True):
        one = 0.5 * (a.min() + a.max()) if np.isnan(given) else given
        two = (0.5 * (b.min() + b.max()) if np.isnan(given) else one) if np.isnan(given2) else given2
        start = _numbered(crossings(a, x, one), int(number))
        later = crossings(b, x, two)
        later = later[later >= start]
        found.append([start, float(later[0]) if len(later) else np.nan])
    return np.array(found)


def period(curve: Curve, x: np.ndarray, level: float = np.nan) -> Curve:
    """Mean time [s] between upward passings of `level` (the mean of least and greatest where none is given) in the second
    half of the curve, when it has settled; of the whole curve where that has fewer than three."""
    found = []
    for row, one in zip(curve, _per_lane(level, curve), strict=True):
        places = _late_passings(row, x, one)
        found.append([(places[-1] - places[0]) / (len(places) - 1) if len(places) > 1 else np.nan])
    return np.array(found, float)


def period_places(curve: Curve, x: np.ndarray, level: float = np.nan) -> Curve:
    """The first two of those passings (lanes, 2)."""
    found = [_late_passings(row, x, one)[:2] for row, one in zip(curve, _per_lane(level, curve), strict=True)]
    return np.array([places if len(places) == 2 else (np.nan, np.nan) for places in found], float)


def _late_passings(row: np.ndarray, x: np.ndarray, level: float) -> np.ndarray:
    level = 0.5 * (row.min() + row.max()) if np.isnan(level) else level
    if row.max() - row.min() <= 1e-9 * max(1e-30, np.abs(row).max()):
        return np.zeros(0)
    places = crossings(row, x, level, 1)
    late = places[places >= 0.5 * (x[0] + x[-1])]
    return late if len(late) > 2 else places


def frequency(curve: Curve, x: np.ndarray, level: float = np.nan) -> Curve:
    """One over the period [Hz]."""
    return 1.0 / period(curve, x, level)


def duty(curve: Curve, x: np.ndarray, level: float = np.nan) -> Curve:
    """Share of the last whole period that the curve is above `level`."""
    return np.array([[_duty(row, x, v)] for row, v in zip(curve, _per_lane(level, curve), strict=True)])


def _duty(row: np.ndarray, x: np.ndarray, level: float) -> float:
    level = 0.5 * (row.min() + row.max()) if np.isnan(level) else level
    up, down = crossings(row, x, level, 1), crossings(row, x, level, -1)
    if len(up) < 2:
        return np.nan
    inside = down[(down > up[-2]) & (down < up[-1])]
    return float((inside[0] - up[-2]) / (up[-1] - up[-2])) if len(inside) else np.nan


def slew(curve: Curve, x: np.ndarray, low: float = 0.1, high: float = 0.9) -> Curve:
    """Mean slope [units/s] of the step from first to last value, between the shares `low` and `high` of it."""
    step = curve[:, -1:] - curve[:, :1]
    return (high - low) * step / between(slew_places(curve, x, low, high))


def slew_places(curve: Curve, x: np.ndarray, low: float = 0.1, high: float = 0.9) -> Curve:
    """Where the step passes those shares (lanes, 2)."""

    def places(row: np.ndarray) -> tuple[float, float]:
        step = row[-1] - row[0]
        if step == 0:
            return np.nan, np.nan
        share = (row - row[0]) / step
        start, end = crossings(share, x, low, 1), crossings(share, x, high, 1)
        return (start[0], end[0]) if len(start) and len(end) and end[0] > start[0] else (np.nan, np.nan)

    return np.array([places(row) for row in curve], float)


def settling(curve: Curve, x: np.ndarray, band: float = 0.01) -> Curve:
    """Time [s] from the first point until the curve stays within the share `band` of its step around its last value."""
    return settling_places(curve, x, band) - x[0]


def settling_places(curve: Curve, x: np.ndarray, band: float = 0.01) -> Curve:
    """When it does (lanes, 1)."""

    def place(row: np.ndarray) -> float:
        reach = band * abs(row[-1] - row[0])
        outside = np.abs(row - row[-1]) - reach
        if reach == 0 or outside[-1] > 0:
            return np.nan
        places = crossings(outside, x, 0.0, -1)
        return float(places[-1]) if len(places) else float(x[0])

    return _lanewise(curve, place)


def overshoot(curve: Curve, x: np.ndarray) -> Curve:
    """How far the curve goes beyond its last value, as a share of its step."""

    def reading(row: np.ndarray) -> float:
        step = row[-1] - row[0]
        return float(max(0.0, np.max((row - row[-1]) / step))) if step else np.nan

    return _lanewise(curve, reading)


def overshoot_places(curve: Curve, x: np.ndarray) -> Curve:
    """Where it is farthest (lanes, 1)."""
    return _lanewise(curve, lambda row: x[int(np.argmax((row - row[-1]) * np.sign(row[-1] - row[0])))])
