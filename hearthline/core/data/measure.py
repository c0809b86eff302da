"""Numbers and curves taken from curves. Curves are (lanes, points) over x (points,); numbers are (lanes, 1)."""

from __future__ import annotations

import numpy as np


class Mistake(Exception):  # noqa: N818 - not for a person
    """What is wrong with the arguments of a function; the formula adds the place."""


Curve = np.ndarray


def deriv(curve: Curve, x: np.ndarray) -> Curve:
    """Slope by x: second-order differences, one-sided at the ends."""
    return np.gradient(curve, x, axis=1, edge_order=2)


def integral(curve: Curve, x: np.ndarray) -> Curve:
    """Area under the curve by the trapezoidal rule."""
    return np.trapezoid(curve, x, axis=1)[:, None]


def mean(curve: Curve, x: np.ndarray) -> Curve:
    """Mean over x."""
    return integral(curve, x) / (x[-1] - x[0])


def rms(curve: Curve, x: np.ndarray) -> Curve:
    """Root of the mean square over x."""
    return np.sqrt(mean(curve * curve, x))


def peak(curve: Curve, x: np.ndarray) -> Curve:
    """Greatest value, of the parabola through the greatest point and its neighbours."""
    top = np.argmax(np.where(np.isnan(curve), -np.inf, curve), axis=1)
    rows = np.arange(len(curve))
    inside = np.clip(top, 1, max(1, curve.shape[1] - 2))
    if curve.shape[1] < 3:
        return curve[rows, top][:, None]
    left, middle, right = curve[rows, inside - 1], curve[rows, inside], curve[rows, inside + 1]
    bend = left - 2 * middle + right
    with np.errstate(divide="ignore", invalid="ignore"):
        vertex = middle - (right - left) ** 2 / (8 * bend)
    smooth = (inside == top) & (bend < 0)
    return np.where(smooth, vertex, curve[rows, top])[:, None]


def peak_places(curve: Curve, x: np.ndarray) -> Curve:
    """x of the greatest point (lanes, 1)."""
    return x[np.argmax(np.where(np.isnan(curve), -np.inf, curve), axis=1)][:, None]


def at(curve: Curve, x: np.ndarray, where: Curve | float) -> Curve:
    """Value at x = where, straight between points; NaN outside."""
    places = np.broadcast_to(np.asarray(where, float).reshape(-1), (len(curve),))
    return np.array([[np.interp(p, x, row, np.nan, np.nan)] for p, row in zip(places, curve, strict=True)])


def cross(curve: Curve, x: np.ndarray, level: Curve | float = 0.0, number: int = 1) -> Curve:
    """x where the curve meets `level` the `number`-th time (-1: the last), straight between points; NaN if it does not."""
    away = curve - level
    result = np.full((len(curve), 1), np.nan)
    for lane, row in enumerate(away):
        places = _crossings(row, x)
        index = int(number) - 1 if number > 0 else int(number)
        if places and -len(places) <= index < len(places):
            result[lane, 0] = places[index]
    return result


def _crossings(row: np.ndarray, x: np.ndarray) -> list[float]:
    """Every zero of the polygon; a point exactly on zero counts once, and where the curve lies on it, where it arrives."""
    sign = np.sign(row)
    places = list(x[(sign == 0) & (np.concatenate([[1.0], sign[:-1]]) != 0)])
    k = np.flatnonzero(sign[:-1] * sign[1:] < 0)
    places += list(x[k] - row[k] * (x[k + 1] - x[k]) / (row[k + 1] - row[k]))
    return sorted(float(place) for place in places)
