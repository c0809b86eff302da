"""A network with ports, as its S-parameters at frequencies."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.nports.conversions import renormalised


@dataclass(frozen=True)
class NoiseParameters:
    """Of a two-port: the least noise factor (a ratio), the source's reflection that gives it (against `reference` [Ω]), and the
    noise resistance [Ω], each (frequencies,), rising [Hz]."""

    frequencies: np.ndarray
    factor_min: np.ndarray
    gamma_opt: np.ndarray
    rn: np.ndarray
    reference: float

    def seen_at(self, reference: float) -> NoiseParameters:
        """The same with the reflection against another impedance [Ω]."""
        own, other = self.reference * (1.0 + self.gamma_opt), reference * (1.0 - self.gamma_opt)
        return replace(self, gamma_opt=(own - other) / (own + other), reference=reference)


@dataclass(frozen=True)
class NPort:
    """`s` (frequencies, ports, ports) at `frequencies` [Hz], rising, by power waves at `impedances` (ports,) [Ω]."""

    frequencies: np.ndarray
    s: np.ndarray
    impedances: np.ndarray
    noise: NoiseParameters | None = None

    @property
    def ports(self) -> int:
        """How many."""
        return self.s.shape[-1]

    def at(self, impedances: np.ndarray | float) -> NPort:
        """The same network seen at other impedances [Ω], one or one a port. Raises ValueError for a real part of 0 or less."""
        wanted = np.broadcast_to(np.asarray(impedances), (self.ports,))
        if (wanted.real <= 0).any():
            raise ValueError(
                f"a reference impedance has a real part above 0, and {wanted[wanted.real <= 0][0]:g} Ω has not"
            )
        if np.array_equal(wanted, self.impedances):
            return self
        return replace(self, s=renormalised(self.s, self.impedances, wanted), impedances=wanted)

    @property
    def largest(self) -> np.ndarray:
        """The largest singular value at each frequency; a passive network has none above 1."""
        return np.linalg.norm(self.s, 2, axis=(-2, -1))

    @property
    def asymmetry(self) -> float:
        """The largest difference of two entries that are equal where the network is reciprocal."""
        return float(np.abs(self.s - np.swapaxes(self.s, -1, -2)).max(initial=0.0))
