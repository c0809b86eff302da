"""How warm power on the top of a box makes its surface: the exact double cosine series.

Sides are insulated, the back is of one temperature. With γ = π √((m/L)² + (n/W)²), power spread evenly over a rectangle gives
θ(x, y) = Σ ε_m ε_n / (L W) · tanh(γ D) / γ · c_m c_n cos(mπx/L) cos(nπy/W), for a conductivity of 1, with c the means of the
cosines over the rectangle and ε 1 for 0, else 2 (Carslaw and Jaeger, Conduction of Heat in Solids; Kokkas, IEEE Trans. Electron
Devices 1974). Means over another rectangle have its own c again.

With layers below, tanh(γ D) / γ is what a line of all layers shows at its end: from the back upwards z, 0 there, becomes
(z + tanh(γ d) / (κ γ)) / (1 + z κ γ tanh(γ d)) through a layer of the thickness d, whose conductivity is κ times the die's.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.fields.cosines import cosine_means, cosines
from hearthline.core.thermal.die import Die

FINE, MOST_TERMS = 24.0, 6000
"""Terms along an axis for each time that the smallest rectangle fits into it; and at most."""


def _terms(span: float, sizes: np.ndarray, fine: float) -> int:
    return int(min(MOST_TERMS, max(64.0, np.ceil(fine * span / sizes.min()))))


def terms_of(die: Die, boxes: np.ndarray, fine: float = FINE) -> tuple[int, int]:
    """Along both axes."""
    return _terms(die.length, boxes[:, 2], fine), _terms(die.width, boxes[:, 3], fine)


def mode_weights(die: Die, rows: int, columns: int) -> np.ndarray:
    """ε_m ε_n tanh(γ D) / (γ L W), or what layers make of it (terms, terms) [1/m]."""
    m, n = np.arange(rows) / die.length, np.arange(columns) / die.width
    gamma = np.pi * np.sqrt(m[:, None] ** 2 + n[None, :] ** 2)
    found: np.ndarray | float = 0.0
    for thickness, share in reversed([(die.thickness, 1.0), *((d, k / die.conductivity) for d, k in die.layers)]):
        found = _through(found, gamma, thickness, share)
    assert isinstance(found, np.ndarray)
    found[1:] *= 2.0
    found[:, 1:] *= 2.0
    return found / (die.length * die.width)


def _through(below: np.ndarray | float, gamma: np.ndarray, thickness: float, share: float) -> np.ndarray:
    """What the top of a layer shows over what lies below it [m]."""
    rise = np.tanh(gamma * thickness)
    with np.errstate(all="ignore"):
        found = (below + rise / (share * gamma)) / (1.0 + below * share * gamma * rise)
    found[0, 0] = (below if isinstance(below, float) else below[0, 0]) + thickness / share
    return found


def resistances(die: Die, boxes: np.ndarray) -> np.ndarray:
    """Mean rise of each rectangle by power in every other, times the conductivity (boxes, boxes) [1/m]; symmetric."""
    matrix = _between(die, boxes, boxes)
    return 0.5 * (matrix + matrix.T)


def peaks(die: Die, boxes: np.ndarray) -> np.ndarray:
    """Rise in the middle of each rectangle by power in every other, times the conductivity (boxes, boxes) [1/m]."""
    points = boxes.copy()
    points[:, 2:] = 0.0
    return _between(die, points, boxes)


def _between(die: Die, targets: np.ndarray, boxes: np.ndarray) -> np.ndarray:
    """Mean rise of targets by power in boxes (targets, boxes) [1/m]."""
    rows, columns = terms_of(die, boxes)
    weights = mode_weights(die, rows, columns)
    sides = []
    for some in (targets, boxes):
        across = cosine_means(die.length, some[:, 0], some[:, 2], rows)
        along, kind = np.unique(cosine_means(die.width, some[:, 1], some[:, 3], columns), axis=0, return_inverse=True)
        sides.append((across, along, kind.ravel()))
    (across, along, kind), (over, beside, other) = sides
    found = np.empty((len(targets), len(boxes)))
    for a, one in enumerate(along):  # rectangles in one row share what is along the second axis
        first = np.flatnonzero(kind == a)
        for b, two in enumerate(beside):
            second = np.flatnonzero(other == b)
            found[np.ix_(first, second)] = (across[first] * (weights @ (one * two))) @ over[second].T
    return found


@dataclass(frozen=True)
class Surface:
    """The rise of the die's surface times its conductivity [W/m], as a sum of cosines (terms, terms)."""

    die: Die
    spectrum: np.ndarray

    def grid(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """At the points of a grid (x, y)."""
        left, right = self._cosines(x, y)
        return left @ self.spectrum @ right.T

    def at(self, x: np.ndarray, y: np.ndarray) -> np.ndarray:
        """At some points (points,)."""
        left, right = self._cosines(x, y)
        return ((left @ self.spectrum) * right).sum(axis=1)

    def _cosines(self, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        rows, columns = self.spectrum.shape
        return cosines(np.pi * x / self.die.length, rows), cosines(np.pi * y / self.die.width, columns)


def surface(die: Die, boxes: np.ndarray, powers: np.ndarray, fine: float = FINE) -> Surface:
    """By powers [W] of rectangles."""
    rows, columns = terms_of(die, boxes, fine)
    across = cosine_means(die.length, boxes[:, 0], boxes[:, 2], rows)
    along = cosine_means(die.width, boxes[:, 1], boxes[:, 3], columns)
    return Surface(die, mode_weights(die, rows, columns) * ((across * powers[:, None]).T @ along))
