"""Contacts on a layered substrate as an n-port.

The potential of a current that flows evenly into a rectangle on a box with insulated sides is the double cosine series that
heat has too (`thermal.series`), with a complex conductivity σ + jωε for each layer. A contact is of one potential: its current
is spread over pieces of it so that all of them are (boundary elements; Gharpurey and Meyer, IEEE J. Solid-State Circuits 1996).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.constants import EPSILON0
from hearthline.core.fields.cosines import cosine_means
from hearthline.core.nports.n_port import NPort

REFERENCE = 50.0
PIECES = 5
"""Of a contact along each side."""
FINE, MOST_TERMS = 6.0, 1500
"""Terms along an axis for each time that the smallest piece fits into it; and at most."""
FEW = 9
"""Frequencies at which layers of several kinds are looked at; between them it is smooth."""


@dataclass(frozen=True)
class Bed:
    """A layer: its thickness [m], conductivity [S/m] and relative permittivity."""

    thickness: float
    conductivity: float
    er: float = 11.7


@dataclass(frozen=True)
class Substrate:
    """Length and width [m], layers from the top down, contacts (middles and sizes) [m], and whether the back is tied to the
    common terminal, or lies open."""

    length: float
    width: float
    beds: tuple[Bed, ...]
    contacts: tuple[tuple[float, float, float, float], ...]
    tied: bool = True


def admittance(substrate: Substrate, frequency: float) -> np.ndarray:
    """Between contacts, and to the back where it is tied (contacts, contacts) [S]."""
    pieces, owner = _pieces(substrate)
    rows, columns = (_terms(span, pieces[:, 2 + k]) for k, span in enumerate((substrate.length, substrate.width)))
    weights = _weights(substrate, frequency, rows, columns)
    across = cosine_means(substrate.length, pieces[:, 0], pieces[:, 2], rows)
    along = cosine_means(substrate.width, pieces[:, 1], pieces[:, 3], columns)
    kinds, kind = np.unique(np.round(along, 12), axis=0, return_inverse=True)
    potential = np.empty((len(pieces), len(pieces)), complex)
    kind = kind.ravel()
    for a, one in enumerate(kinds):
        for b, two in enumerate(kinds):
            first, second = np.flatnonzero(kind == a), np.flatnonzero(kind == b)
            potential[np.ix_(first, second)] = (across[first] * (weights @ (one * two))) @ across[second].T
    potential = 0.5 * (potential + potential.T)
    belongs = (owner[:, None] == np.arange(len(substrate.contacts))).astype(float)
    if substrate.tied:
        return np.asarray(belongs.T @ np.linalg.solve(potential, belongs))
    ones, count = np.ones((len(pieces), 1)), len(pieces)  # what flows in flows out again, and the level is free
    scale = np.abs(potential).max()
    bordered = np.block([[potential, scale * ones], [scale * ones.T, np.zeros((1, 1))]])
    right = np.vstack([belongs, np.zeros((1, belongs.shape[1]))])
    return np.asarray(belongs.T @ np.linalg.solve(bordered, right)[:count])


def _pieces(substrate: Substrate) -> tuple[np.ndarray, np.ndarray]:
    """Middles and sizes of the pieces of all contacts, narrower towards edges, and whose they are."""
    edges = 0.5 - 0.5 * np.cos(np.linspace(0.0, np.pi, PIECES + 1))
    middles, shares = 0.5 * (edges[1:] + edges[:-1]) - 0.5, np.diff(edges)
    found = [
        (x + a * w, y + b * h, p * w, q * h)
        for x, y, w, h in substrate.contacts
        for a, p in zip(middles, shares, strict=True)
        for b, q in zip(middles, shares, strict=True)
    ]
    return np.array(found), np.repeat(np.arange(len(substrate.contacts)), PIECES**2)


def _terms(span: float, sizes: np.ndarray) -> int:
    return int(min(MOST_TERMS, max(64.0, np.ceil(FINE * span / sizes.min()))))


def _weights(substrate: Substrate, frequency: float, rows: int, columns: int) -> np.ndarray:
    """ε_m ε_n / (L W) times what the layers show at the top (terms, terms) [Ω]; without the mean where the back lies open."""
    m, n = np.arange(rows) / substrate.length, np.arange(columns) / substrate.width
    gamma = np.pi * np.sqrt(m[:, None] ** 2 + n[None, :] ** 2)
    gamma[0, 0] = 1.0  # told apart below
    flows = [bed.conductivity + 2j * np.pi * frequency * EPSILON0 * bed.er for bed in substrate.beds]
    found: np.ndarray | float = 0.0
    for k in range(len(flows) - 1, -1, -1):
        rise, unit = np.tanh(gamma * substrate.beds[k].thickness), flows[k] * gamma
        if k == len(flows) - 1 and not substrate.tied:
            found = 1.0 / (unit * np.maximum(rise, 1e-300))
        else:
            found = (found + rise / unit) / (1.0 + found * unit * rise)
    assert isinstance(found, np.ndarray)
    found[0, 0] = (
        sum(bed.thickness / flow for bed, flow in zip(substrate.beds, flows, strict=True)) if substrate.tied else 0.0
    )
    found[1:] *= 2.0
    found[:, 1:] *= 2.0
    return found / (substrate.length * substrate.width)


def substrate_network(substrate: Substrate, frequencies: np.ndarray) -> NPort:
    """At frequencies [Hz], at 50 Ω against the common terminal."""
    y = _over(substrate, frequencies)
    one = np.eye(len(substrate.contacts))
    s = np.linalg.solve(one + REFERENCE * y, one - REFERENCE * y)
    return NPort(frequencies, s, np.full(len(one), REFERENCE + 0j))


def _over(substrate: Substrate, frequencies: np.ndarray) -> np.ndarray:
    """The admittance at many frequencies: layers of one kind are one number times that at rest."""
    times = {bed.er / bed.conductivity for bed in substrate.beds}
    if len(times) == 1:
        turn = 1.0 + 2j * np.pi * frequencies * EPSILON0 * next(iter(times))
        return np.asarray(admittance(substrate, 0.0) * turn[:, None, None])
    from scipy.interpolate import CubicSpline

    above = frequencies[frequencies > 0]
    some = np.geomspace(above.min(), above.max(), FEW)
    smooth = CubicSpline(np.log(some), np.stack([admittance(substrate, float(one)) for one in some]))
    found = smooth(np.log(np.maximum(frequencies, above.min())))
    found[frequencies <= 0] = admittance(substrate, 0.0)
    return np.asarray(found)
