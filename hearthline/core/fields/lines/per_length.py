"""What coupled lines have per length: capacitance, inductance, conductance, and resistance with skin effect.

Inductance is that of the field outside: μ0 ε0 over the capacitance without layers. At high frequencies currents run on
surfaces, as charges do without layers; their losses are the square of these over the surfaces (Wheeler's rule gives the same).
Below, a round wire has its impedance by Bessel functions, another the root of the squares: √(R0² + jω k²), which is R0 at rest
and (1 + j) R where the skin is thin, and has no more inductance than the field inside.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.constants import EPSILON0, MU0
from hearthline.core.fields.lines.charges import Pieces, charges, influence
from hearthline.core.fields.lines.section import Section

ON_PLANE = 400
"""Places of the plane at which its current is looked at."""


@dataclass(frozen=True)
class PerLength:
    """Matrices (lines, lines): capacitance with and without layers [F/m], conductance over ω [F/m], inductance of the field
    outside [H/m], and surface losses: resistance over the skin's resistance [1/m]."""

    section: Section
    capacitance: np.ndarray
    bare: np.ndarray
    leak: np.ndarray
    inductance: np.ndarray
    losses: np.ndarray

    def impedance(self, frequencies: np.ndarray) -> np.ndarray:
        """Series impedance per length (frequencies, lines, lines) [Ω/m]."""
        omega = 2.0 * np.pi * np.asarray(frequencies, float)
        skin = np.sqrt(omega * MU0 / 2.0)[:, None, None]
        own = np.stack([
            self._inside(line, self.losses[k, k], omega) for k, line in enumerate(self.section.lines)
        ], axis=1)  # fmt: skip
        far = (1.0 + 1.0j) * skin * self.losses  # conductivities are in the losses
        diagonal = np.arange(len(self.losses))
        far[:, diagonal, diagonal] = own
        return far + 1j * omega[:, None, None] * self.inductance

    def admittance(self, frequencies: np.ndarray) -> np.ndarray:
        """Between the lines and to ground, per length [S/m]."""
        omega = 2.0 * np.pi * np.asarray(frequencies, float)[:, None, None]
        return omega * (self.leak + 1j * self.capacitance)

    def _inside(self, line: int, losses: float, omega: np.ndarray) -> np.ndarray:
        """Of one line, what its own conductor and the return of its current take [Ω/m]."""
        one = self.section.conductors[line]
        high = losses * np.sqrt(omega * MU0 / 2.0)
        if one.round and not one.hollow:
            alone = round_wire(one.radius, one.conductivity, omega)
            surface = np.sqrt(omega * MU0 / (2.0 * one.conductivity)) / (2.0 * np.pi * one.radius)
            return alone + (1.0 + 1.0j) * np.maximum(high - surface, 0.0)
        rest = 1.0 / (one.conductivity * one.area)
        return np.sqrt(rest**2 + 2j * high**2)


def round_wire(radius: float, conductivity: float, omega: np.ndarray) -> np.ndarray:
    """Impedance of a round wire per length [Ω/m], by Bessel functions (Ramo, Whinnery and Van Duzer, Fields and Waves)."""
    from scipy.special import ive

    k = np.sqrt(1j * np.maximum(omega, 1e-30) * MU0 * conductivity)
    x = k * radius
    return k * ive(0, x) / ive(1, x) / (2.0 * np.pi * radius * conductivity)


def per_length(section: Section) -> PerLength:
    """Of a section. Raises LinAlgError where conductors touch."""
    lossy = any(one.tan_delta for one in section.layers)
    filled, bare = charges(section, lossy), charges(section, empty=True)
    whole = _even(filled.capacitance)
    empty = _even(bare.capacitance)
    inverse = np.linalg.inv(empty)
    return PerLength(
        section, np.real(whole), empty, -np.imag(whole) if lossy else np.zeros_like(empty), MU0 * EPSILON0 * inverse,
        _surface_losses(section, bare.pieces, bare.total, inverse),
    )  # fmt: skip


def _even(matrix: np.ndarray) -> np.ndarray:
    """Rounding of the pieces taken out: it is the same both ways."""
    return 0.5 * (matrix + matrix.T)


def _surface_losses(section: Section, pieces: Pieces, total: np.ndarray, inverse: np.ndarray) -> np.ndarray:
    """For 1 A in each line alone, what the squares of the surface currents add up to, over the root of the conductivity."""
    roots = np.sqrt([one.conductivity for one in section.conductors])[pieces.owner]
    shares = total @ inverse  # charge of 1 C/m on one line: as the current of 1 A is
    found = (shares * (pieces.lengths / roots)[:, None]).T @ shares
    if section.plane and not any(one.hollow for one in section.conductors):
        x, weights = _plane(section)
        _, field = influence(np.column_stack([x, np.zeros(len(x))]), pieces)
        below = field[:, :, 1] @ shares / (2.0 * np.pi)
        found = found + (below * (weights / np.sqrt(section.plane))[:, None]).T @ below
    return _even(found)


def _plane(section: Section) -> tuple[np.ndarray, np.ndarray]:
    """Places on the plane, and how much of it each stands for: all of it, by a tangent."""
    heights = [max(one.high[1], one.low[1] + one.radius) for one in section.conductors]
    edges = [
        x for one in section.conductors for x in (one.low[0] - one.radius, max(one.high[0], one.low[0] + one.radius))
    ]
    middle, wide = 0.5 * (min(edges) + max(edges)), 0.5 * (max(edges) - min(edges)) + max(heights)
    angle = (np.arange(ON_PLANE) + 0.5) / ON_PLANE * np.pi - 0.5 * np.pi
    return middle + wide * np.tan(angle), wide * np.pi / ON_PLANE / np.cos(angle) ** 2
