"""Numbers taken from the characteristic curves of a device, each with the construction that it was read off by.

All functions take one curve, x and y (points,), in SI units. What cannot be found is NaN, with a reason in the formula.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from hearthline.core.constants import BOLTZMANN_OVER_CHARGE

Point = tuple[float, float]


@dataclass(frozen=True)
class Extraction:
    """A number with its unit and formula; `points` that it was taken at and `lines` to draw, in the units of the curve."""

    name: str
    value: float
    unit: str
    formula: str
    points: tuple[Point, ...] = ()
    lines: tuple[tuple[Point, Point], ...] = ()


def _none(name: str, unit: str, reason: str) -> Extraction:
    return Extraction(name, math.nan, unit, reason)


def _clean(x, y) -> tuple[np.ndarray, np.ndarray]:
    x, y = np.asarray(x, float), np.asarray(y, float)
    good = np.isfinite(x) & np.isfinite(y)
    order = np.argsort(x[good], kind="stable")
    return x[good][order], y[good][order]


def value_at(x, y, where: float) -> float:
    """y at x = where, straight between points; NaN outside."""
    x, y = _clean(x, y)
    return float(np.interp(where, x, y, np.nan, np.nan)) if len(x) else math.nan


def slope_at(x, y, where: float) -> float:
    """dy/dx at x = where: of the parabola through the three nearest points."""
    x, y = _clean(x, y)
    if len(x) < 3:
        return math.nan
    k = int(np.clip(np.searchsorted(x, where), 1, len(x) - 2))
    return float(np.polyfit(x[k - 1 : k + 2] - where, y[k - 1 : k + 2], 2)[1])


def threshold_constant_current(vgs, current, size: float, level: float = 100e-9) -> Extraction:
    """Where the current is `level` times W/L (`size`): common practice."""
    name, formula = "threshold, constant current", f"vgs where id = {level * 1e9:g} nA · W/L"
    x, y = _clean(vgs, np.log(np.maximum(np.abs(current), 1e-300)))
    wanted = math.log(level * size)
    above = np.flatnonzero((y[1:] >= wanted) & (y[:-1] < wanted))
    if not len(above):
        return _none(name, "V", "the current does not pass that level")
    k = int(above[0])
    at = float(x[k] + (wanted - y[k]) / (y[k + 1] - y[k]) * (x[k + 1] - x[k]))
    level_now = level * size
    return Extraction(name, at, "V", formula, ((at, level_now),), (((float(x[0]), level_now), (at, level_now)),))


def threshold_extrapolated(vgs, current, vds: float) -> Extraction:
    """The tangent where the transconductance is largest, drawn down to no current, less half of vds: common practice."""
    name, formula = "threshold, extrapolated", "vgs - id/gm - vds/2 at the largest gm"
    x, y = _clean(vgs, np.abs(current))
    if len(x) < 5:
        return _none(name, "V", "too few points")
    gm = np.gradient(y, x)
    k = int(np.argmax(gm))
    if gm[k] <= 0:
        return _none(name, "V", "the current does not rise")
    foot = float(x[k] - y[k] / gm[k])
    return Extraction(
        name, foot - vds / 2, "V", formula, ((float(x[k]), float(y[k])),), (((foot, 0.0), _along(x, y, gm, k)),)
    )


def threshold_second_derivative(vgs, current) -> Extraction:
    """Where the transconductance changes fastest, at small vds: H.-S. Wong et al., Solid-State Electronics 30, 1987."""
    name, formula = "threshold, second derivative", "vgs where d gm / d vgs is largest"
    x, y = _clean(vgs, np.abs(current))
    if len(x) < 9:
        return _none(name, "V", "too few points")
    even = np.linspace(x[0], x[-1], 301)
    smooth = np.interp(even, x, y)
    width = 13  # of the sliding parabola that takes the second derivative, so that steps do not show
    window = np.arange(width) - width // 2
    step = even[1] - even[0]
    weights = np.linalg.pinv(np.vander(window * step, 3))[0] * 2
    bend = np.convolve(smooth, weights[::-1], "valid")
    middle = even[width // 2 : -(width // 2)]
    k = int(np.clip(np.argmax(bend), 1, len(bend) - 2))
    a, b, _ = np.polyfit(middle[k - 1 : k + 2] - middle[k], bend[k - 1 : k + 2], 2)
    at = float(middle[k] - b / (2 * a)) if a < 0 else float(middle[k])
    return Extraction(name, at, "V", formula, ((at, value_at(x, y, at)),))


def lambda_from_two_points(vds, current, first: float, second: float) -> Extraction:
    """Channel-length modulation from two points of the saturated part: the line through them meets id = 0 at -1/lambda."""
    name, formula = "lambda", "(I2 - I1) / (I1·V2 - I2·V1)"
    i1, i2 = (abs(value_at(vds, current, v)) for v in (first, second))
    v1, v2 = abs(first), abs(second)
    if not (math.isfinite(i1) and math.isfinite(i2)) or i1 * v2 == i2 * v1:
        return _none(name, "1/V", "the two points are not on the curve")
    value = (i2 - i1) / (i1 * v2 - i2 * v1)
    sign = math.copysign(1.0, first)
    foot = (-sign / value if value else -math.inf, 0.0)
    signed = [value_at(vds, current, v) for v in (first, second)]
    return Extraction(
        name, value, "1/V", formula, ((first, signed[0]), (second, signed[1])), ((foot, (second, signed[1])),)
    )  # fmt: skip


def early_voltage(vce, current, at: float) -> Extraction:
    """Where the tangent of an output curve meets no current: J. M. Early, Proceedings of the IRE 40, 1952."""
    slope, value = slope_at(vce, current, at), value_at(vce, current, at)
    if not slope or not math.isfinite(slope):
        return _none("Early voltage", "V", "the curve is flat there")
    foot = at - value / slope
    return Extraction("Early voltage", abs(value / slope) - abs(at), "V", "ic / (d ic / d vce) - vce", ((at, value),),
                      (((foot, 0.0), (at, value)),))  # fmt: skip


def slope(x, y, at: float, name: str, unit: str, formula: str) -> Extraction:
    """A small-signal value as the slope of a curve, with its tangent."""
    found, value = slope_at(x, y, at), value_at(x, y, at)
    if not math.isfinite(found):
        return _none(name, unit, "the curve does not reach there")
    reach = 0.15 * (np.nanmax(x) - np.nanmin(x))
    ends = tuple((float(at + d), float(value + found * d)) for d in (-reach, reach))
    return Extraction(name, found, unit, formula, ((at, value),), (ends,))


def on_resistance(vds, current, at: float = 0.05) -> Extraction:
    """vds over id at a small vds: common practice."""
    value = value_at(vds, current, at)
    if not value or not math.isfinite(value):
        return _none("on resistance", "Ω", "no current flows there")
    return Extraction("on resistance", abs(at / value), "Ω", f"vds / id at {abs(at):g} V", ((at, value),),
                      (((0.0, 0.0), (at, value)),))  # fmt: skip


def ideality(v, current, kelvin: float, low: float, high: float) -> Extraction:
    """n from the slope of ln i between two currents [A]: n = dv / (UT · d ln i)."""
    name, formula = "ideality", "(V2 - V1) / (UT · ln(I2/I1))"
    x, y = _clean(v, np.log(np.maximum(np.abs(current), 1e-300)))
    ends = [float(np.interp(math.log(level), y, x, np.nan, np.nan)) for level in (low, high)]
    if not all(math.isfinite(end) for end in ends) or not (np.diff(y) > 0).any():
        return _none(name, "", "the current does not span that range")
    value = (ends[1] - ends[0]) / (BOLTZMANN_OVER_CHARGE * kelvin * math.log(high / low))
    points = ((ends[0], low), (ends[1], high))
    return Extraction(name, value, "", formula, points, (points,))


def series_resistance(v, current, kelvin: float, low: float, high: float) -> Extraction:
    """How far the junction's voltage at the largest current is beyond the exponential that holds at small ones."""
    name, formula = "series resistance", "(V - V of the exponential) / I at the largest current"
    base = ideality(v, current, kelvin, low, high)
    if not math.isfinite(base.value):
        return _none(name, "Ω", base.formula)
    x, y = _clean(v, np.abs(current))
    top_v, top_i = float(x[-1]), float(y[-1])
    ideal = base.points[1][0] + base.value * BOLTZMANN_OVER_CHARGE * kelvin * math.log(top_i / high)
    return Extraction(name, (top_v - ideal) / top_i, "Ω", formula, ((top_v, top_i), (ideal, top_i)),
                      (((ideal, top_i), (top_v, top_i)), (base.points[0], (ideal, top_i))))  # fmt: skip


def largest(x, y, name: str, unit: str, formula: str) -> Extraction:
    """The greatest value of a curve, and where it is."""
    x, y = _clean(x, y)
    if not len(x):
        return _none(name, unit, "there is no curve")
    k = int(np.argmax(y))
    return Extraction(name, float(y[k]), unit, formula, ((float(x[k]), float(y[k])),))


def _along(x, y, slopes, k: int) -> Point:
    """The far end of a tangent at point k."""
    end = min(len(x) - 1, k + max(1, len(x) // 8))
    return float(x[end]), float(y[k] + slopes[k] * (x[end] - x[k]))


def against_reference(x, y, reference: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """A curve at the places of reference points (n, 2), and how far it is off [%]; NaN outside of the curve."""
    model = np.array([value_at(x, y, float(place)) for place in reference[:, 0]])
    with np.errstate(divide="ignore", invalid="ignore"):
        off = 100.0 * (model - reference[:, 1]) / np.abs(reference[:, 1])
    return model, off
