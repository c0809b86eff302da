"""How heat follows in time: the die's own modes, gathered to a few time constants.

A mode of the box decays with τ = c / (k λ), λ = γ² + ((p + 1/2) π / D)², and takes its share 2 / (D λ) of the double cosine
series, since tanh(γ D) / γ is the sum of these over p (see `thermal.series`). Modes of neighbouring λ go together: what each
gathering adds is a sum of squares, so that the whole gives out no more heat than it takes, and at rest it is the series.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.thermal.die import Plan
from hearthline.core.thermal.series import cosine_means, mode_weights, terms_of

A_DECADE = 4
"""Time constants for a factor of ten."""
MOST_MODES = 1e7
"""That are gathered one by one; where fingers are so small that there are more, the others have one time constant together."""
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
    resistance."""

    times: np.ndarray
    matrices: np.ndarray
    error: float


def following(plan: Plan, between: np.ndarray) -> Following:
    """Of a die that holds heat; `between` is the whole rise of each part by power in every other, times the conductivity
    (parts, parts) [1/m]. What decays faster than the smallest finger goes together."""
    die, owners, boxes = plan.die, plan.owners, plan.boxes
    finest = max(float(boxes[:, 2:].min()), float(np.cbrt(die.length * die.width * die.thickness / MOST_MODES)))
    largest = max(np.pi / finest, LEAST_DEEP * np.pi / die.thickness) ** 2
    terms = [int(np.ceil(span * np.sqrt(largest) / np.pi)) + 1 for span in (die.length, die.width, die.thickness)]
    across = _by_part(cosine_means(die.length, boxes[:, 0], boxes[:, 2], terms[0]), owners)
    along = _by_part(cosine_means(die.width, boxes[:, 1], boxes[:, 3], terms[1]), owners)
    gamma2 = np.add.outer(
        (np.pi * np.arange(terms[0]) / die.length) ** 2, (np.pi * np.arange(terms[1]) / die.width) ** 2
    )
    smallest = (0.5 * np.pi / die.thickness) ** 2
    count = int(np.ceil(A_DECADE * np.log10(largest / smallest))) + 1
    scale = (count - 1) / np.log(largest / smallest)
    weights, slow = np.zeros((2, count, *gamma2.shape))
    first, second = np.indices(gamma2.shape)
    factor = np.outer(np.where(np.arange(terms[0]) == 0, 1.0, 2.0), np.where(np.arange(terms[1]) == 0, 1.0, 2.0))
    factor *= 2.0 / (die.thickness * die.length * die.width)
    for p in range(terms[2]):
        rate = gamma2 + ((p + 0.5) * np.pi / die.thickness) ** 2
        place = np.rint(scale * np.log(rate / smallest)).astype(int)
        inside = place < count
        here = (place[inside], first[inside], second[inside])
        weights[here] += (factor / rate)[inside]
        slow[here] += (factor / rate**2)[inside]
    matrices = np.einsum("kmn,im,jm,in,jn->kij", weights, across, across, along, along, optimize=True)
    moments = np.einsum("kmn,im,in->k", slow, across**2, along**2, optimize=True)
    sizes = np.einsum("kii->k", matrices)
    kept = sizes > NOTHING * sizes.sum()
    rest, own = between - matrices.sum(axis=0), max(_moments(plan) - moments.sum(), 0.0)
    rates = moments[kept] / sizes[kept]
    matrices, scale = matrices[kept], die.capacity / die.conductivity
    if np.trace(rest) > NOTHING * np.trace(between):
        rates, matrices = np.append(rates, own / np.trace(rest)), np.concatenate([matrices, rest[None]])
    times = scale * np.maximum(rates, 1e-3 * rates.min(initial=np.inf, where=rates > 0))
    return Following(times, matrices, _error(plan, times, matrices))


def _moments(plan: Plan) -> float:
    """Of all modes what each takes of the series over its λ [1/m · m²], of the parts by themselves: the slope of the impedance
    at 0 Hz, tanh(γD)/γ less D/cosh²(γD), over 2 γ²."""
    (across, along), gamma2 = _spectrum(plan)
    gamma, thick = np.sqrt(gamma2), plan.die.thickness
    with np.errstate(all="ignore"):
        slope = (np.tanh(gamma * thick) / gamma - thick / np.cosh(np.minimum(gamma * thick, 300.0)) ** 2) / (
            2.0 * gamma2
        )
    slope[0, 0] = thick**3 / 3.0
    slope *= mode_weights(plan.die, *gamma2.shape) / _tanh_over(gamma, thick)
    return float(np.einsum("im,mn,in->", across**2, slope, along**2, optimize=True))


def _tanh_over(gamma: np.ndarray, thick: float) -> np.ndarray:
    with np.errstate(all="ignore"):
        found = np.tanh(gamma * thick) / gamma
    found[0, 0] = thick
    return found


def _spectrum(plan: Plan) -> tuple[tuple[np.ndarray, np.ndarray], np.ndarray]:
    """Means of the cosines over each part along both axes, as many as matter in time, and γ² [1/m²]."""
    die, boxes = plan.die, plan.boxes
    rows, columns = terms_of(die, boxes, ENOUGH)
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
    die, ((across, along), gamma2) = plan.die, _spectrum(plan)
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
