"""Readings over a band of frequencies: its width, how flat a response is in it, how far an impedance is from a wanted one.

Curves are (lanes, points) over x, the frequency (points,) [Hz]; numbers are (lanes, 1), NaN where there is none.
"""

from __future__ import annotations

import numpy as np

from hearthline.core.data.measure import Curve, Mistake
from hearthline.core.data.response import HALF_POWER, decibels
from hearthline.core.data.timing import crossings


def within(curve: Curve, x: np.ndarray, low: float, high: float) -> Curve:
    """The curve where x is between two values, NaN elsewhere."""
    inside = (x >= low) & (x <= high)
    return np.where(inside, curve, np.nan)


def passband(curve: Curve, x: np.ndarray, down: float = HALF_POWER) -> Curve:
    """Width [Hz] between the frequencies about the peak at which the magnitude is `down` [dB] lower."""
    ends = passband_ends(curve, x, down)
    return ends[:, 1:] - ends[:, :1]


def passband_ends(curve: Curve, x: np.ndarray, down: float = HALF_POWER) -> Curve:
    """Both of these frequencies (lanes, 2)."""
    found = np.full((len(curve), 2), np.nan)
    for lane, row in enumerate(decibels(curve)):
        if np.isnan(row).all():
            continue
        top = int(np.nanargmax(row))
        level = row[top] - down
        below = crossings(row[: top + 1], np.log(x[: top + 1]), level, 1)
        above = crossings(row[top:], np.log(x[top:]), level, -1)
        if len(below):
            found[lane, 0] = np.exp(below[-1])
        if len(above):
            found[lane, 1] = np.exp(above[0])
    return found


def flatness(curve: Curve, x: np.ndarray, low: float | None = None, high: float | None = None) -> Curve:
    """Largest less smallest magnitude [dB] between two frequencies, or over all."""
    rows = _limited(decibels(curve), x, low, high)
    return _largest(rows) + _largest(-rows)


def distance(
    curve: Curve, x: np.ndarray, wanted: complex, low: float | None = None, high: float | None = None
) -> Curve:
    """Largest reflection of an impedance [Ω] against a wanted one, |(Z - W)/(Z + W*)|, between two frequencies or over all: 0
    where it is the wanted one. Raises Mistake for a wanted one that no source has."""
    if not np.real(wanted) > 0:
        raise Mistake(f"wants an impedance with a real part above 0 Ω, and that of {wanted:g} Ω is not")
    with np.errstate(divide="ignore", invalid="ignore"):
        away = np.abs((curve - wanted) / (curve + np.conj(wanted)))
    return _largest(_limited(away, x, low, high))


def _largest(rows: np.ndarray) -> Curve:
    """Of the numbers of each row; NaN where there is none."""
    found = np.where(np.isnan(rows), -np.inf, rows).max(axis=1, keepdims=True)
    return np.where(np.isfinite(found), found, np.nan)


def _limited(rows: np.ndarray, x: np.ndarray, low: float | None, high: float | None) -> np.ndarray:
    """With both ends of the band as points of their own, straight between points over the logarithm of frequency."""
    if low is None or high is None:
        return rows
    place = np.log(x)
    ends = np.array([[np.interp(np.log(end), place, row, np.nan, np.nan) for end in (low, high)] for row in rows])
    return np.concatenate([within(rows, x, low, high), ends], axis=1)


def whole(curve: Curve, x: np.ndarray) -> Curve:
    """The last value, as a whole number."""
    return np.round(np.real(curve[:, -1:]))
