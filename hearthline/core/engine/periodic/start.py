"""Where an oscillation begins: the poles of the operating point that grow, and the shapes that grow with them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.engine.poles_and_zeros import INFINITE, pencil_at
from hearthline.core.engine.system import System

OSCILLATES = 1e-6
"""Of a pole's size, that its frequency is at least for it to be one that swings."""


@dataclass(frozen=True)
class Pole:
    """A natural frequency [rad/s] with what swings along: phasors of all unknowns."""

    s: complex
    shape: np.ndarray

    @property
    def frequency(self) -> float:
        """[Hz]"""
        return self.s.imag / (2.0 * np.pi)

    @property
    def swings(self) -> bool:
        """Whether it has a frequency."""
        return abs(self.s.imag) > OSCILLATES * abs(self.s)

    @property
    def damping(self) -> float:
        """Above 0 it dies away; below, it grows."""
        return -self.s.real / abs(self.s)


def poles_at(system: System, lane: int, x: np.ndarray) -> list[Pole]:
    """The poles about x (unknowns,) by their growth, fastest first; one of each pair."""
    from scipy.linalg import eig  # late: it is rarely wanted

    pencil = pencil_at(system, system.values[lane], x)
    g, c = pencil.conductance, pencil.capacitance
    if not c.any():
        return []
    rows = 1.0 / np.maximum(np.abs(g).max(axis=1), 1e-300)
    scale = 1.0 / np.abs(c * rows[:, None]).max()
    (alpha, beta), shapes = eig(g * rows[:, None], -c * rows[:, None] * scale, homogeneous_eigvals=True)
    finite = np.abs(beta) > INFINITE * np.hypot(np.abs(alpha), np.abs(beta))
    found = [Pole(complex(alpha[k] / beta[k] * scale), shapes[:, k]) for k in np.flatnonzero(finite)]
    one_of_each = [one for one in found if one.s.imag >= 0 or not one.swings]
    return sorted(one_of_each, key=lambda one: -one.s.real)
