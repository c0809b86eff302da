"""Complex curves as points of a plane: reflections of impedances and admittances, and what such a point says."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

REFERENCE = 50.0
"""[Ω] Of a chart."""
SMITH, ADMITTANCE, BOTH, POLAR = "smith", "smith y", "smith zy", "polar"
PLANES = (SMITH, ADMITTANCE, BOTH, POLAR)
"""Scales of a watch that draw it in a plane: lines of impedances, of admittances, of both, of sizes and angles."""


def reflections(values: np.ndarray, unit: str) -> np.ndarray:
    """Impedances [Ω] or admittances [S] as reflections against `REFERENCE`; numbers without unit are that already."""
    with np.errstate(divide="ignore", invalid="ignore"):
        if unit == "Ω":
            return np.where(np.isinf(values), 1.0, (values - REFERENCE) / (values + REFERENCE))
        if unit == "S":
            return np.where(np.isinf(values), -1.0, (1.0 - values * REFERENCE) / (1.0 + values * REFERENCE))
    return values


@dataclass(frozen=True)
class Reflection:
    """A reflection against an impedance [Ω] (Kurokawa's where that is complex), and what follows from it."""

    gamma: complex
    against: complex = REFERENCE

    @property
    def impedance(self) -> complex:
        """[Ω]"""
        if self.gamma == 1:
            return complex(np.inf)
        return (np.conj(self.against) + self.gamma * self.against) / (1.0 - self.gamma)

    @property
    def admittance(self) -> complex:
        """[S]"""
        z = self.impedance
        return complex(np.inf) if z == 0 else 0j if np.isinf(abs(z)) else 1.0 / z

    @property
    def mismatch_loss(self) -> float:
        """By how much less goes in than could [dB]; infinite from total reflection on."""
        left = 1.0 - abs(self.gamma) ** 2
        return float(-10 * np.log10(left)) if left > 0 else np.inf

    @property
    def standing_wave_ratio(self) -> float:
        """Largest over smallest voltage on a line; infinite from total reflection on."""
        size = abs(self.gamma)
        return float((1 + size) / (1 - size)) if size < 1 else np.inf
