"""How heat follows in time: the die's own modes, gathered to a few time constants.

A mode of the box decays with τ = c / (k λ), λ = γ² + ((p + 1/2) π / D)², and takes its share 2 / (D λ) of the double cosine
series, since tanh(γ D) / γ is the sum of these over p (see `thermal.series`). Modes of neighbouring λ go together: what each
gathering adds is a sum of squares, so that the whole gives out no more heat than it takes, and at rest it is the series.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.fields.cosines import cosine_means
from hearthline.core.thermal.die import Plan
from hearthline.core.thermal.package import Through, through
from hearthline.core.thermal.series import mode_weights, terms_of

A_DECADE = 4
"""Time constants for a factor of ten."""
MOST_MODES, MOST_PROBED, DEEP = 1e6, 2e5, 4.0
"""Modes along both axes that are gathered, and that the error is looked at with: the others go together; and γ D from which on
those in depth lie close."""
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
    smallest, largest = (np.array([0.5, max(LEAST_DEEP, finest * die.thickness / np.pi)]) * np.pi / die.thickness) ** 2
    count = int(np.ceil(A_DECADE * np.log10(largest / smallest))) + 1
    edges = np.append(smallest * (largest / smallest) ** ((np.arange(1, count) - 0.5) / (count - 1)), largest)
    factor = mode_weights(die, *gamma2.shape) / _tanh_over(np.sqrt(gamma2), die.thickness)
    shallow = np.sqrt(gamma2) * die.thickness < DEEP
    matrices, moments = [], []
    below = np.zeros((2, *gamma2.shape))
    for edge in edges:
        upto = _upto(gamma2, edge, die.thickness, shallow)
        share, slow = factor * (upto - below)
        below = upto
        matrices.append(_between(sides, share))
        moments.append(float(np.trace(_between(sides, slow))))
    rises, each = np.array(matrices), np.array(moments)
    sizes = np.einsum("kii->k", rises)
    kept = sizes > NOTHING * np.trace(between)
    later = factor * (np.where(shallow, _slope(gamma2, die.thickness), 0.5 / _above_zero(gamma2) ** 1.5) - below[1])
    own = float(np.trace(_between(sides, later))) + _moments(plan, np.inf) - _moments(plan, MOST_MODES)
    rest = between - rises.sum(axis=0)
    rates, rises = each[kept] / sizes[kept], rises[kept]
    if np.trace(rest) > NOTHING * np.trace(between):
        rates, rises = np.append(rates, own / np.trace(rest)), np.concatenate([rises, rest[None]])
    least = 1e-3 * rates.min(initial=np.inf, where=rates > 0)
    times = die.capacity / die.conductivity * np.maximum(rates, least)
    return Following(times, rises, _error(plan, times, rises), through(die))


def _upto(gamma2: np.ndarray, edge: float, thickness: float, shallow: np.ndarray) -> np.ndarray:
    """What the modes in depth with a λ up to an edge [1/m²] take of tanh(γ D) / γ [m], and the same over λ each [m³]:
    (2, terms, terms). One by one where a wave is wide beside the depth, `shallow`; else they lie so close that their sum is an
    integral."""
    with np.errstate(all="ignore"):
        gamma = np.sqrt(gamma2)
        u = np.sqrt(np.maximum(edge / gamma2 - 1.0, 0.0))
        turn = np.arctan(u)
        found = np.stack([2.0 / np.pi * turn / gamma, (turn + u / (1.0 + u * u)) / np.pi / gamma**3])
    few = gamma2[shallow]
    q2 = ((np.arange(max(0, int(np.sqrt(edge) * thickness / np.pi + 0.5))) + 0.5) * np.pi / thickness) ** 2
    rate = few[:, None] + q2[None, :]
    share = np.where(rate <= edge, 2.0 / thickness / rate, 0.0)
    found[0][shallow], found[1][shallow] = share.sum(axis=1), (share / rate).sum(axis=1)
    return found


def _between(sides: tuple[np.ndarray, np.ndarray], weights: np.ndarray) -> np.ndarray:
    """Each part by every other, of weights (terms, terms): (parts, parts)."""
    across, along = sides
    found = np.empty((len(across), len(across)))
    for a in range(len(across)):
        for b in range(a + 1):
            found[a, b] = found[b, a] = float((across[a] * across[b]) @ weights @ (along[a] * along[b]))
    return found


def _moments(plan: Plan, most: float) -> float:
    """What modes take of the series over their λ, of the parts by themselves and together [m]; of so many along both axes."""
    sides, gamma2 = _spectrum(plan, most)
    weights = mode_weights(plan.die, *gamma2.shape) / _tanh_over(np.sqrt(gamma2), plan.die.thickness)
    return float(
        np.einsum(
            "im,mn,in->", sides[0] ** 2, _slope(gamma2, plan.die.thickness) * weights, sides[1] ** 2, optimize=True
        )
    )


def _slope(gamma2: np.ndarray, thick: float) -> np.ndarray:
    """Of all modes in depth: the slope of the impedance at 0 Hz, tanh(γD)/γ less D/cosh²(γD), over 2 γ² [m³]."""
    gamma = np.sqrt(_above_zero(gamma2))
    steep = thick / np.cosh(np.minimum(gamma * thick, 300.0)) ** 2
    found = (np.tanh(gamma * thick) / gamma - steep) / (2.0 * gamma**2)
    found[0, 0] = thick**3 / 3.0
    return found


def _above_zero(gamma2: np.ndarray) -> np.ndarray:
    """With a number in the place of the mean, which has a formula of its own."""
    found = gamma2.copy()
    found[0, 0] = 1.0
    return found


def _tanh_over(gamma: np.ndarray, thick: float) -> np.ndarray:
    with np.errstate(all="ignore"):
        found = np.tanh(gamma * thick) / gamma
    found[0, 0] = thick
    return found


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


def _error(plan: Plan, times: np.ndarray, matrices: np.ndarray) -> float:
    """Over frequency, of each part by itself."""
    die, ((across, along), gamma2) = plan.die, _spectrum(plan, MOST_PROBED)
    factor = mode_weights(die, *gamma2.shape) / _tanh_over(np.sqrt(gamma2), die.thickness)
    own = np.einsum("kii->ki", matrices)
    at_rest = np.einsum("im,mn,in->i", across**2, mode_weights(die, *gamma2.shape), along**2, optimize=True)
    beyond, found = own.sum(axis=0) - at_rest, 0.0
    for omega in np.geomspace(0.1 / times.max(), 1.0 / times.min(), PROBED):
        kappa = np.sqrt(gamma2 + 1j * omega * die.capacity / die.conductivity)
        whole = factor * np.tanh(kappa * die.thickness) / kappa
        exact = np.einsum("im,mn,in->i", across**2, whole, along**2, optimize=True)
        exact += beyond / (1.0 + 1j * omega * times[-1])
        made = (own / (1.0 + 1j * omega * times)[:, None]).sum(axis=0)
        found = max(found, float((np.abs(made - exact) / own.sum(axis=0)).max()))
    return found
