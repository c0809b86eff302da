"""Readings of noise densities (lanes, points) over frequency x (points,) [Hz]: what they add up to, and where they bend."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from hearthline.core.data.measure import Curve
from hearthline.core.data.timing import crossings


def integrate_power(
    frequencies: np.ndarray, power: np.ndarray, low: ArrayLike | None = None, high: ArrayLike | None = None
) -> np.ndarray:
    """The integral of a density (lanes, frequencies) over frequency, exact for powers of the frequency between points."""
    low = frequencies[0] if low is None else max(low, frequencies[0])
    high = frequencies[-1] if high is None else min(high, frequencies[-1])
    inside = frequencies[(frequencies > low) & (frequencies < high)]
    points = np.concatenate([[low], inside, [high]])
    floor = np.maximum(power, 1e-300)
    values = np.exp([np.interp(np.log(points), np.log(frequencies), row) for row in np.log(floor)])
    a, b, fa, fb = points[:-1], points[1:], values[:, :-1], values[:, 1:]
    ratio = np.log(b / np.where(b > a, a, 0.5 * b))
    slope = np.log(fb / fa) / ratio + 1.0
    with np.errstate(divide="ignore", invalid="ignore"):
        pieces = np.where(np.abs(slope) > 1e-9, (fb * b - fa * a) / slope, fa * a * ratio)
    return np.where(b > a, pieces, 0.0).sum(axis=1)


def integrated_noise(curve: Curve, x: np.ndarray, low: float | None = None, high: float | None = None) -> Curve:
    """Root of the integral of the squared density between two frequencies [Hz]: V/√Hz becomes V."""
    ends = [None if end is None else float(np.asarray(end).reshape(-1)[0]) for end in (low, high)]
    return np.sqrt(integrate_power(x, np.abs(curve) ** 2, *ends))[:, None]


def corner_frequency(curve: Curve, x: np.ndarray) -> Curve:
    """Frequency [Hz] where flicker and white noise are equal: the power is twice its least, on the way down."""
    found = []
    for row in np.abs(curve) ** 2:
        k = int(np.argmin(row))
        places: Sequence[float] | np.ndarray = (
            crossings(np.log(row[: k + 1]), np.log(x[: k + 1]), np.log(2 * row[k]), -1) if row[k] > 0 else []
        )
        found.append([float(np.exp(places[-1])) if len(places) else np.nan])
    return np.array(found)
