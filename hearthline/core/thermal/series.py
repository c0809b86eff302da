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
    gamma = gammas(die, rows, columns)
    return doubled(_through(below(die, gamma), gamma, die.thickness, 1.0)) / (die.length * die.width)


def doubled(found: np.ndarray) -> np.ndarray:
    """Times ε_m ε_n, in its place."""
    found[1:] *= 2.0
    found[:, 1:] *= 2.0
    return found


def gammas(die: Die, rows: int, columns: int) -> np.ndarray:
    """γ of the modes (terms, terms) [1/m]."""
    m, n = np.arange(rows) / die.length, np.arange(columns) / die.width
    return np.pi * np.sqrt(m[:, None] ** 2 + n[None, :] ** 2)


def below(die: Die, gamma: np.ndarray) -> np.ndarray:
    """What the layers under the die show [m]."""
    found = np.zeros_like(gamma)
    for thickness, conductivity, _ in reversed(die.layers):
        found = _through(found, gamma, thickness, conductivity / die.conductivity)
    return found


def _through(below: np.ndarray, gamma: np.ndarray, thickness: float, share: float) -> np.ndarray:
    """What the top of a layer shows over what lies below it [m]."""
    rise = np.tanh(gamma * thickness)
    with np.errstate(all="ignore"):
        found = (below + rise / (share * gamma)) / (1.0 + below * share * gamma * rise)
    found[0, 0] = below[0, 0] + thickness / share
    return found


def resistances(die: Die, boxes: np.ndarray) -> np.ndarray:
    """Mean rise of each rectangle by power in every other, times the conductivity (boxes, boxes) [1/m]; symmetric."""
    matrix = between(die, boxes, boxes)
    return 0.5 * (matrix + matrix.T)


def peaks(die: Die, boxes: np.ndarray) -> np.ndarray:
    """Rise in the middle of each rectangle by power in every other, times the conductivity (boxes, boxes) [1/m]."""
    points = boxes.copy()
    points[:, 2:] = 0.0
    return between(die, points, boxes)


def between(die: Die, targets: np.ndarray, boxes: np.ndarray, weights: np.ndarray | None = None) -> np.ndarray:
    """Mean rise of targets by power in boxes (targets, boxes) [1/m]; by `weights` (terms, terms), or those of the top."""
    if weights is None:
        weights = mode_weights(die, *terms_of(die, boxes))
    rows, columns = weights.shape
    sides = []
    for some in (targets, boxes):
        across = cosine_means(die.length, some[:, 0], some[:, 2], rows)
        rows_of_them, kind = np.unique(some[:, 1::2], axis=0, return_inverse=True)
        sides.append((across, cosine_means(die.width, rows_of_them[:, 0], rows_of_them[:, 1], columns), kind.ravel()))
    (across, along, kind), (over, beside, other) = sides
    found = np.empty((len(targets), len(boxes)))
    for a, one in enumerate(along):  # rectangles in one row share what is along the second axis
        first = kind == a
        reached = ((weights * one) @ beside.T).T[other]
        found[first] = across[first] @ (over * reached).T
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
