"""How heat comes through a die to its back, behind which a resistance lies: what is behind it follows even more slowly.

With κ² = s c / k and R' the resistance times conductivity and area, the mean over the top shows tanh(κD)/κ before a back of one
temperature, and (R' + tanh(κD)/κ) / (1 + R' κ tanh(κD)) before one with R' behind it (a slab: Carslaw and Jaeger, Conduction of
Heat in Solids). What the second has more, over R', is F = 1 / (cosh²(κD) (1 + R' κ tanh(κD))). Its slowest pole is the slab's
own, q tan(qD) = 1/R'; what is left goes together.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.thermal.depth import Layered
from hearthline.core.thermal.die import Die

PROBED, FINEST = 60, 30.0
"""Frequencies at which the error is looked at; and waves into the depth of the die that cells are made for."""


@dataclass(frozen=True)
class Through:
    """Time constants of what comes through [s] with their weights; the rest of 1 comes at once. How far that is from the slab
    at any frequency, as a share."""

    times: np.ndarray
    weights: np.ndarray
    error: float = 0.0


def through(die: Die) -> Through:
    """Of a die that holds heat, at 300 K; of nothing where no resistance lies behind it."""
    behind = die.resistance * die.conductivity * die.length * die.width
    if not behind:
        return Through(np.zeros(0), np.zeros(0))
    first, rate, moment = _layered(die, behind) if die.layers else _alone(die.thickness, behind)
    second = (1.0 - first) / (moment - first / rate)
    rates = np.array([rate, second if second > 0.0 else 3.0 * rate])
    weights = np.array([first, 1.0 - first])
    shifts = 1j * np.geomspace(1e-3 * rates.min(), 1e3 * rates.max(), PROBED)
    exact = np.array([_shown(die, behind, one) for one in shifts])
    made = (weights / (1.0 + shifts[:, None] / rates)).sum(axis=1)
    error = float(np.abs(made - exact).max())
    return Through(die.capacity / die.conductivity / rates, weights, error)


def _alone(depth: float, behind: float) -> tuple[float, float, float]:
    """Of a slab: what its slowest decay takes, λ of that [1/m²], and the whole over λ [m²]."""
    x = _root(depth / behind)
    norm = 0.5 * depth + 0.25 * depth * np.sin(2.0 * x) / x
    return float(depth**2 / (norm * x**2) / behind), (x / depth) ** 2, depth**2 + behind * depth


def _layered(die: Die, behind: float) -> tuple[float, float, float]:
    """The same over layers."""
    finest = FINEST / die.thickness
    with_it, without, zero = Layered(die, finest, behind), Layered(die, finest), np.zeros((1, 1))
    rates, shares = with_it.decays[0]
    moment = float((with_it.slope(zero) - without.slope(zero))[0, 0]) / behind
    return float(shares[0] / rates[0] / behind), float(rates[0]), moment


def _shown(die: Die, behind: float, shift: complex) -> complex:
    """F, where s c / k is `shift`."""
    if die.layers:
        both = (Layered(die, FINEST / die.thickness, one).at(np.zeros((1, 1)), shift)[0, 0] for one in (behind, 0.0))
        more, less = both
        return complex((more - less) / behind)
    kappa = np.sqrt(shift)
    if abs(kappa.real * die.thickness) > 300.0:
        return 0j
    reached = np.tanh(kappa * die.thickness)
    return complex(1.0 / (np.cosh(kappa * die.thickness) ** 2 * (1.0 + behind * kappa * reached)))


def _root(ratio: float) -> float:
    """x tan x = ratio, below π/2."""
    low, high = 0.0, 0.5 * np.pi
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if middle * np.tan(middle) < ratio else (low, middle)
    return 0.5 * (low + high)
