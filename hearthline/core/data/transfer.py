"""Readings of transfer curves, an output over the input that is swept: switching point, noise margins, gain, offset, range.

Curves are (lanes, points) over x (points,); `given` is the input itself where it is not what is swept. Numbers are
(lanes, 1). Noise margins are those from the points of slope -1 (Weste and Harris, CMOS VLSI Design; Rabaey, Digital
Integrated Circuits).
"""

from __future__ import annotations

import numpy as np

from hearthline.core.data.measure import Curve, at, cross, deriv

Places = np.ndarray
"""(lanes, places) of x."""


def _input(curve: Curve, x: np.ndarray, given: Curve | None) -> Curve:
    return np.broadcast_to(x[None, :] if given is None else given, curve.shape)


def slope_to(curve: Curve, x: np.ndarray, given: Curve | None) -> Curve:
    """Slope of the output by the input."""
    return deriv(curve, x) if given is None else deriv(curve, x) / deriv(_input(curve, x, given), x)


def switching_point(curve: Curve, x: np.ndarray, given: Curve | None = None) -> Curve:
    """Input at which output and input are equal."""
    where = cross(curve - _input(curve, x, given), x)
    return where if given is None else at(_input(curve, x, given), x, where)


def switching_places(curve: Curve, x: np.ndarray, given: Curve | None = None) -> Places:
    """Where that is on the axis."""
    return cross(curve - _input(curve, x, given), x)


def unity_slopes(curve: Curve, x: np.ndarray, given: Curve | None = None) -> Places:
    """The first and the last point of slope -1."""
    steep = slope_to(curve, x, given) + 1.0
    return np.hstack([cross(steep, x), cross(steep, x, number=-1)])


def noise_margin_low(curve: Curve, x: np.ndarray, given: Curve | None = None) -> Curve:
    """Input at the first point of slope -1, less the output at the last: what a low level may rise by."""
    first, last = np.hsplit(unity_slopes(curve, x, given), 2)
    return at(_input(curve, x, given), x, first) - at(curve, x, last)


def noise_margin_high(curve: Curve, x: np.ndarray, given: Curve | None = None) -> Curve:
    """Output at the first point of slope -1, less the input at the last: what a high level may fall by."""
    first, last = np.hsplit(unity_slopes(curve, x, given), 2)
    return at(curve, x, first) - at(_input(curve, x, given), x, last)


def steepest(curve: Curve, x: np.ndarray, given: Curve | None = None) -> Curve:
    """Slope where it is greatest in size, with its sign: the gain of a transfer curve."""
    slope = slope_to(curve, x, given)
    return np.take_along_axis(slope, _steepest_index(slope), axis=1)


def steepest_places(curve: Curve, x: np.ndarray, given: Curve | None = None) -> Places:
    """Where that is."""
    return x[_steepest_index(slope_to(curve, x, given))]


def _steepest_index(slope: Curve) -> np.ndarray:
    return np.argmax(np.nan_to_num(np.abs(slope), nan=-1.0), axis=1)[:, None]


def offset(curve: Curve, x: np.ndarray, reference: Curve | float = 0.0) -> Curve:
    """Input at which the output is halfway between its least and greatest value, less the reference there."""
    where = offset_places(curve, x)
    away = np.broadcast_to(np.asarray(reference, float), curve.shape)
    return where - at(away, x, where)


def offset_places(curve: Curve, x: np.ndarray, reference: Curve | float = 0.0) -> Places:
    """Where the output is halfway."""
    middle = 0.5 * (curve.min(axis=1) + curve.max(axis=1))
    return cross(curve - middle[:, None], x)


def output_range(curve: Curve, x: np.ndarray, share: float = 0.5, given: Curve | None = None) -> Curve:
    """How far the output goes while its slope stays beyond a share of its greatest."""
    ends = range_places(curve, x, share, given)
    return np.abs(at(curve, x, ends[:, 1]) - at(curve, x, ends[:, 0]))


def range_places(curve: Curve, x: np.ndarray, share: float = 0.5, given: Curve | None = None) -> Places:
    """Ends of that range, about the steepest point."""
    slope = np.abs(slope_to(curve, x, given))
    tops = _steepest_index(slope)[:, 0]
    found = []
    for row, top in zip(slope, tops, strict=True):
        away = row - float(share) * row[top]
        found.append([_end(away, x, top, -1), _end(away, x, top, 1)])
    return np.array(found)


def _end(away: np.ndarray, x: np.ndarray, k: int, step: int) -> float:
    """From the steepest point outwards to where the slope falls under the share, or to the end of the curve."""
    while 0 <= k + step < len(x):
        if away[k + step] < 0:
            return float(x[k] + away[k] / (away[k] - away[k + step]) * (x[k + step] - x[k]))
        k += step
    return float(x[k])
