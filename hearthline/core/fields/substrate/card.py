"""What a designer wants to know of a substrate with its contacts at a frequency, in numbers."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.fields.substrate.network import Substrate, admittance


@dataclass(frozen=True)
class SubstrateCard:
    """Resistances [Ω] with capacitances [F] beside them, each straight between two contacts, and on the diagonal from a contact
    to the back (infinite and 0 where that lies open)."""

    frequency: float
    resistances: np.ndarray
    capacitances: np.ndarray


def card(substrate: Substrate, frequency: float) -> SubstrateCard:
    """At a frequency [Hz]."""
    y = admittance(substrate, frequency)
    between = -y
    np.fill_diagonal(between, y.sum(axis=1) if substrate.tied else 0.0)
    with np.errstate(divide="ignore"):
        resistances = 1.0 / between.real
    return SubstrateCard(frequency, resistances, between.imag / (2.0 * np.pi * frequency))
