"""How heat comes through a die to its back, behind which a resistance lies: what is behind it follows even more slowly.

With κ² = s c / k and R' the resistance times conductivity and area, the mean over the top shows tanh(κD)/κ before a back of one
temperature, and (R' + tanh(κD)/κ) / (1 + R' κ tanh(κD)) before one with R' behind it (a slab: Carslaw and Jaeger, Conduction of
Heat in Solids). What the second has more, over R', is F = 1 / (cosh²(κD) (1 + R' κ tanh(κD))). Its slowest pole is the slab's
own, q tan(qD) = 1/R'; what is left goes together.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.thermal.die import Die

PROBED = 60
"""Frequencies at which the error is looked at."""


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
    depth = die.thickness
    x = _root(depth / behind)
    norm = 0.5 * depth + 0.25 * depth * np.sin(2.0 * x) / x
    first = depth**2 / (norm * x**2) / behind
    rate, moment = (x / depth) ** 2, depth**2 + behind * depth
    second = (1.0 - first) / (moment - first / rate)
    rates = np.array([rate, second if second > 0.0 else (0.5 * np.pi / depth) ** 2])
    weights = np.array([first, 1.0 - first])
    kappa = np.sqrt(1j * np.geomspace(1e-3 * rates[0], 1e3 * rates[1], PROBED))
    with np.errstate(all="ignore"):
        exact = 1.0 / (np.cosh(kappa * depth) ** 2 * (1.0 + behind * kappa * np.tanh(kappa * depth)))
    made = (weights / (1.0 + kappa[:, None] ** 2 / rates)).sum(axis=1)
    error = float(np.abs(made - np.nan_to_num(exact)).max())
    return Through(die.capacity / die.conductivity / rates, weights, error)


def _root(ratio: float) -> float:
    """x tan x = ratio, below π/2."""
    low, high = 0.0, 0.5 * np.pi
    for _ in range(60):
        middle = 0.5 * (low + high)
        low, high = (middle, high) if middle * np.tan(middle) < ratio else (low, middle)
    return 0.5 * (low + high)
