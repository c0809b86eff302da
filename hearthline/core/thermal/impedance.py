"""How heat follows in time: the die's own modes, gathered to a few time constants.

A mode of the box decays with τ = c / (k λ) and takes its share of the double cosine series (see `thermal.depth`). Modes of
neighbouring λ go together: what each gathering adds is a sum of squares, so that the whole gives out no more heat than it
takes, and at rest it is the series.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.fields.cosines import cosine_means
from hearthline.core.thermal.depth import Depth, depth_of
from hearthline.core.thermal.die import Plan
from hearthline.core.thermal.package import Through, through
from hearthline.core.thermal.series import doubled, mode_weights, terms_of

A_DECADE = 4
"""Time constants for a factor of ten."""
MOST_MODES, MOST_PROBED = 1e6, 2e5
"""Modes along both axes that are gathered, and that the error is looked at with: the others go together."""
LEAST_DEEP = 12
"""Half waves into the depth of the die at least, where fingers are larger than it is deep."""
NOTHING = 1e-9
"""Share of a resistance that is none."""
PROBED, ENOUGH = 12, 5.0
"""Frequencies at which the error is looked at; and terms along an axis for each time that the smallest finger fits into it: the
others are over before anything follows."""


@dataclass(frozen=True)
class Following:
    """Time constants (times,) [s] at 300 K, the share of each part's rise by power in every other that follows with each, times
    the conductivity (times, parts, parts) [1/m], and how far this is from the series at any frequency, as a share of the
    resistance; how heat comes through to what is behind."""

    times: np.ndarray
    matrices: np.ndarray
    error: float
    through: Through


def following(plan: Plan, between: np.ndarray) -> Following:
    """Of a die that holds heat; `between` is the whole rise of each part by power in every other, times the conductivity
    (parts, parts) [1/m]. What decays faster than the smallest finger goes together."""
    die = plan.die
    sides, gamma2 = _spectrum(plan, MOST_MODES)
    finest = np.pi / float(plan.boxes[:, 2:].min())
    depth = depth_of(die, finest)
    largest = (max(LEAST_DEEP, finest * die.thickness / np.pi) * np.pi / die.thickness) ** 2
    count = int(np.ceil(A_DECADE * np.log10(largest / depth.slowest))) + 1
    steps = (np.arange(1, count) - 0.5) / (count - 1)
    edges = np.append(depth.slowest * (largest / depth.slowest) ** steps, largest)
    factor = doubled(np.ones_like(gamma2)) / (die.length * die.width)
    matrices, moments = [], []
    below = np.zeros((2, *gamma2.shape))
    for edge in edges:
        upto = depth.upto(gamma2, edge)
        share, slow = factor * (upto - below)
        below = upto
        matrices.append(_between(sides, share))
        moments.append(float(np.trace(_between(sides, slow))))
    rises, each = np.array(matrices), np.array(moments)
    sizes = np.einsum("kii->k", rises)
    kept = sizes > NOTHING * np.trace(between)
    later = factor * (depth.whole(gamma2) - below[1])
    beyond = _moments(plan, depth, np.inf) - _moments(plan, depth, MOST_MODES)
    own = float(np.trace(_between(sides, later))) + beyond
    rest = between - rises.sum(axis=0)
    rates, rises = each[kept] / sizes[kept], rises[kept]
    if np.trace(rest) > NOTHING * np.trace(between):
        rates, rises = np.append(rates, own / np.trace(rest)), np.concatenate([rises, rest[None]])
    least = 1e-3 * rates.min(initial=np.inf, where=rates > 0)
    times = die.capacity / die.conductivity * np.maximum(rates, least)
    return Following(times, rises, _error(plan, depth, times, rises), through(die))


def _between(sides: tuple[np.ndarray, np.ndarray], weights: np.ndarray) -> np.ndarray:
    """Each part by every other, of weights (terms, terms): (parts, parts)."""
    across, along = sides
    found = np.empty((len(across), len(across)))
    for a in range(len(across)):
        for b in range(a + 1):
            found[a, b] = found[b, a] = float((across[a] * across[b]) @ weights @ (along[a] * along[b]))
    return found


def _moments(plan: Plan, depth: Depth, most: float) -> float:
    """What modes take of the series over their λ, of the parts by themselves and together [m]; of so many along both axes."""
    sides, gamma2 = _spectrum(plan, most)
    weights = doubled(depth.slope(gamma2)) / (plan.die.length * plan.die.width)
    return float(np.einsum("im,mn,in->", sides[0] ** 2, weights, sides[1] ** 2, optimize=True))


def _spectrum(plan: Plan, most: float) -> tuple[tuple[np.ndarray, np.ndarray], np.ndarray]:
    """Means of the cosines over each part along both axes, as many as matter in time and no more than so many products of
    both, and γ² [1/m²]."""
    die, boxes = plan.die, plan.boxes
    rows, columns = terms_of(die, boxes, ENOUGH)
    fewer = min(1.0, float(np.sqrt(most / (rows * columns))))
    rows, columns = max(1, int(fewer * rows)), max(1, int(fewer * columns))
    sides = (
        _by_part(cosine_means(die.length, boxes[:, 0], boxes[:, 2], rows), plan.owners),
        _by_part(cosine_means(die.width, boxes[:, 1], boxes[:, 3], columns), plan.owners),
    )
    m, n = np.arange(rows) / die.length, np.arange(columns) / die.width
    return sides, np.pi**2 * np.add.outer(m**2, n**2)


def _by_part(rows: np.ndarray, owners: np.ndarray) -> np.ndarray:
    """Means over the fingers of each part, which share what is along the second axis."""
    share = owners[None, :] == np.arange(owners.max() + 1)[:, None]
    return (share / share.sum(axis=1, keepdims=True)) @ rows


def _error(plan: Plan, depth: Depth, times: np.ndarray, matrices: np.ndarray) -> float:
    """Over frequency, of each part by itself."""
    die, ((across, along), gamma2) = plan.die, _spectrum(plan, MOST_PROBED)
    factor = doubled(np.ones_like(gamma2)) / (die.length * die.width)
    own = np.einsum("kii->ki", matrices)
    at_rest = np.einsum("im,mn,in->i", across**2, mode_weights(die, *gamma2.shape), along**2, optimize=True)
    beyond, found = own.sum(axis=0) - at_rest, 0.0
    for omega in np.geomspace(0.1 / times.max(), 1.0 / times.min(), PROBED):
        whole = factor * depth.at(gamma2, 1j * omega * die.capacity / die.conductivity)
        exact = np.einsum("im,mn,in->i", across**2, whole, along**2, optimize=True)
        exact += beyond / (1.0 + 1j * omega * times[-1])
        made = (own / (1.0 + 1j * omega * times)[:, None]).sum(axis=0)
        found = max(found, float((np.abs(made - exact) / own.sum(axis=0)).max()))
    return found
