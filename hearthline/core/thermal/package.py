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
    slab = _Layers(die, behind) if die.layers else _Slab(die.thickness, behind)
    first, rate, moment = slab.first, slab.rate, slab.moment
    second = (1.0 - first) / (moment - first / rate)
    rates = np.array([rate, second if second > 0.0 else 3.0 * rate])
    weights = np.array([first, 1.0 - first])
    shifts = 1j * np.geomspace(1e-3 * rates.min(), 1e3 * rates.max(), PROBED)
    exact = np.array([slab.at(one) for one in shifts])
    made = (weights / (1.0 + shifts[:, None] / rates)).sum(axis=1)
    error = float(np.abs(made - exact).max())
    return Through(die.capacity / die.conductivity / rates, weights, error)


class _Slab:
    """A die alone: what its slowest decay takes, λ of that [1/m²], and of the whole what it is over λ [m²]."""

    def __init__(self, depth: float, behind: float):
        self.depth, self.behind = depth, behind
        x = _root(depth / behind)
        norm = 0.5 * depth + 0.25 * depth * np.sin(2.0 * x) / x
        self.first, self.rate = float(depth**2 / (norm * x**2) / behind), (x / depth) ** 2
        self.moment = depth**2 + behind * depth

    def at(self, shift: complex) -> complex:
        """F, where s c / k is `shift`."""
        kappa = np.sqrt(shift)
        if abs(kappa.real * self.depth) > 300.0:
            return 0j
        reached = np.tanh(kappa * self.depth)
        return complex(1.0 / (np.cosh(kappa * self.depth) ** 2 * (1.0 + self.behind * kappa * reached)))


class _Layers:
    """The same over layers: by what they show with the resistance and without."""

    def __init__(self, die: Die, behind: float):
        self.behind, finest = behind, FINEST / die.thickness
        self._both = Layered(die, finest, behind), Layered(die, finest)
        (rates, shares), (bare_rates, bare_shares) = (one.of_mean for one in self._both)
        self.first, self.rate = float(shares[0] / rates[0] / behind), float(rates[0])
        self.moment = float((shares / rates**2).sum() - (bare_shares / bare_rates**2).sum()) / behind

    def at(self, shift: complex) -> complex:
        """F, where s c / k is `shift`."""
        more, less = (one.at(np.zeros((1, 1)), shift)[0, 0] for one in self._both)
        return complex((more - less) / self.behind)


def _root(ratio: float) -> float:
    """x tan x = ratio, below π/2."""
    low, high = 0.0, 0.5 * np.pi
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if middle * np.tan(middle) < ratio else (low, middle)
    return 0.5 * (low + high)
