"""Readings of frequency responses: gain, bandwidth, margins. Curves are complex (lanes, points) over x, the frequency (points,)
[Hz]; numbers are (lanes, 1), NaN where the response has no such point. Between points magnitude is taken straight in decibels
over the logarithm of frequency, phase straight over it.
"""

from __future__ import annotations

import numpy as np

from hearthline.core.data.measure import Curve
from hearthline.core.data.timing import crossings

HALF_POWER = 10 * np.log10(2.0)
"""[dB]"""


def decibels(curve: Curve) -> Curve:
    """Magnitude of a voltage or current ratio [dB]."""
    with np.errstate(divide="ignore"):
        return 20 * np.log10(np.abs(curve))


def phase_deg(curve: Curve, x: np.ndarray | None = None) -> Curve:
    """Phase [degrees], continuous over frequency, and between -180 and 180 at the first point."""
    return np.degrees(np.unwrap(np.angle(curve), axis=-1))


def gain(curve: Curve, x: np.ndarray, where: Curve | float | None = None) -> Curve:
    """Magnitude [dB] at a frequency, or at the lowest."""
    level = decibels(curve)
    if where is None:
        return level[:, :1]
    places = np.log(np.broadcast_to(np.asarray(where, float).reshape(-1), (len(curve),)))
    return np.array([[np.interp(p, np.log(x), row, np.nan, np.nan)] for p, row in zip(places, level, strict=True)])


def bandwidth(curve: Curve, x: np.ndarray, down: float = HALF_POWER) -> Curve:
    """Frequency [Hz] at which the magnitude has fallen by `down` [dB] from the lowest frequency."""
    return np.array([[_first(row, x, row[0] - down, -1)] for row in decibels(curve)])


def unity_gain(curve: Curve, x: np.ndarray) -> Curve:
    """Frequency [Hz] at which the magnitude falls through 1."""
    return np.array([[_first(row, x, 0.0, -1)] for row in decibels(curve)])


def _first(row: np.ndarray, x: np.ndarray, level: float, direction: int) -> float:
    places = crossings(row, np.log(x), level, direction)
    return float(np.exp(places[0])) if len(places) else np.nan


def phase_margin(curve: Curve, x: np.ndarray) -> Curve:
    """Degrees that are left to -180 where a loop gain, positive at low frequencies, falls through 1."""
    phases, found = phase_deg(curve), []
    for row, phase in zip(decibels(curve), phases, strict=True):
        where = _first(row, x, 0.0, -1)
        found.append([180.0 + np.interp(np.log(where), np.log(x), phase) if np.isfinite(where) else np.nan])
    return np.array(found)


def gain_margin(curve: Curve, x: np.ndarray) -> Curve:
    """Decibels that are left to 1 where the phase of a loop gain falls through -180 degrees."""
    return -gain(curve, x, margin_places(curve, x))


def margin_places(curve: Curve, x: np.ndarray) -> Curve:
    """Frequency [Hz] where the phase falls through -180 degrees (lanes, 1)."""
    found = []
    for phase in phase_deg(curve):
        places = crossings(phase, np.log(x), -180.0, -1)
        found.append([float(np.exp(places[0])) if len(places) else np.nan])
    return np.array(found)


def rejection(wanted: Curve, x: np.ndarray, unwanted: Curve, where: Curve | float | None = None) -> Curve:
    """How much more [dB] of one response comes through than of another, at a frequency or at the lowest: CMRR, PSRR."""
    return gain(wanted, x, where) - gain(unwanted, x, where)
