"""What a designer wants to know of bond wires and vias at a frequency, in numbers."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.fields.wires.n_port import Wire, inductances, inside


@dataclass(frozen=True)
class WiresCard:
    """Lengths [m], inductances between wires with what is inside of each [H], how strongly they are coupled (1 is wholly), and
    resistances at rest and at the frequency [Ω]."""

    frequency: float
    lengths: np.ndarray
    inductances: np.ndarray
    resting: np.ndarray
    resistances: np.ndarray

    @property
    def couplings(self) -> np.ndarray:
        """M over the root of both inductances (wires, wires)."""
        root = np.sqrt(np.diag(self.inductances))
        return np.asarray(self.inductances / (root[:, None] * root))


def card(wires: tuple[Wire, ...], plane: bool, frequency: float) -> WiresCard:
    """At a frequency [Hz]."""
    omega = np.array([2.0 * np.pi * frequency])
    within = np.array([inside(one, omega)[0] for one in wires])
    return WiresCard(
        frequency, np.array([one.length for one in wires]),
        inductances(wires, plane) + np.diag(within.imag / omega),
        np.array([one.resistance for one in wires]), within.real,
    )  # fmt: skip
