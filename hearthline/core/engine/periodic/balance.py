"""Harmonic balance in one lane: Newton's method on the phasors of all unknowns at all products of the tones.

For each product h: I_h(x) + j ω_h Q_h(x) + D_h X_h = S_h, with I and Q the transforms of currents and charges of the same
compiled kernels as everywhere, evaluated along the period, D what disperses (lines, parts from files), which is exact in
frequency, and S the sources (Kundert and Sangiovanni-Vincentelli 1986; Nakhla and Vlach 1976).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.engine.periodic.circuit import Along, LaneCircuit
from hearthline.core.engine.periodic.matrix import jacobian
from hearthline.core.engine.periodic.tones import Tones

ALIASED = 1e-6
"""Share of the largest current that may lie beyond what the samples tell apart."""
CERTAIN = 0.1
"""Of its tolerance that the next step may be expected to be, to be left out."""
MOST_ITERATIONS, SMALLEST_SHARE = 40, 1e-3
"""Of Newton; and of the sources, by which they may be raised at least."""


@dataclass(frozen=True)
class Balanced:
    """Phasors (products, unknowns), the grid that they were found on, how many iterations that took, in how many steps the
    sources were raised, how much lay beyond the samples, and what was found along the period."""

    phasors: np.ndarray
    tones: Tones
    iterations: int
    shares: int
    rest: float
    along: Along


class NotBalancedError(Exception):
    """Newton did not come down: `share` of the sources was reached; `moved` are the last steps (unknowns,)."""

    def __init__(self, share: float, moved: np.ndarray):
        super().__init__(share, moved)
        self.share, self.moved = share, moved


@dataclass
class Balance:
    """The equations of a lane: the circuit, its products at `frequencies` [Hz], its sources (products, unknowns)."""

    circuit: LaneCircuit
    tones: Tones
    frequencies: np.ndarray
    sources: np.ndarray
    iterations: int = 0

    def solve(self, start: np.ndarray | None, rest: np.ndarray) -> Balanced:
        """From phasors close by where there are such, else from the point at `rest` (products, unknowns), raising the sources
        step by step where Newton does not come down at once. Raises NotBalancedError."""
        begins = [one for one in (start, rest) if one is not None]
        for begin in begins:
            try:
                return self._refined(*self._newton(begin, self.sources), 0)
            except NotBalancedError:
                continue
        return self._raised(rest)

    def _raised(self, rest: np.ndarray) -> Balanced:
        share, step, x, count = 0.0, 0.25, rest, 0
        while share < 1.0:
            wanted = min(1.0, share + step)
            try:
                x, along = self._newton(x, wanted * self.sources)
            except NotBalancedError as error:
                step *= 0.5
                if step < SMALLEST_SHARE:
                    raise NotBalancedError(share, error.moved) from None
                continue
            share, step, count = wanted, 1.5 * step, count + 1
        return self._refined(x, along, count)

    def _refined(self, x: np.ndarray, along: Along, shares: int) -> Balanced:
        """With as many samples as it takes that nothing of weight is aliased."""
        while along.rest > ALIASED and self._finer(x):
            x, along = self._newton(x, self.sources)
        return Balanced(x, self.tones, self.iterations, shares, along.rest, along)

    def _finer(self, x: np.ndarray) -> bool:
        """Goes to so many samples that the state as it is now would not be aliased; whether that are more."""
        before = self.tones
        while (finer := self.tones.finer()) is not None:
            self.tones = finer
            self.circuit.trust()
            if self.circuit.along(finer, x).rest <= ALIASED:
                break
        return self.tones is not before

    def _newton(self, x: np.ndarray, sources: np.ndarray) -> tuple[np.ndarray, Along]:
        """Newton from x: the solution, and what was found along the period there."""
        circuit, limits = self.circuit, self.circuit.tolerances
        nets = circuit.system.net_count
        s = 2j * np.pi * self.frequencies
        entries, gains = circuit.dispersion(self.frequencies)
        floor = np.where(np.arange(circuit.size) < nets, limits.vntol, limits.abstol)
        circuit.trust()
        step, before, distance = np.zeros_like(x), np.inf, np.inf
        for _ in range(MOST_ITERATIONS):
            self.iterations += 1
            along = circuit.along(self.tones, x)
            missing = sources - along.flows - s[:, None] * along.charges
            for k, entry in enumerate(entries):
                missing[:, circuit.rows[entry]] -= gains[:, k] * x[:, circuit.columns[entry]]
            missing[0] = missing[0].real
            try:
                step = jacobian(circuit, self.tones, along, s, self.frequencies).solve(missing)
            except np.linalg.LinAlgError:
                break
            if not np.isfinite(step).all():
                break
            x = x + step
            size = np.abs(x).max(axis=0)
            rounding = np.where(np.arange(circuit.size) < nets, 0.0, 1e-13 * np.abs(along.flows).max())
            allowed = limits.reltol * size + floor + rounding
            before, distance = distance, float((np.abs(step).max(axis=0) / allowed).max())
            # Newton converges quadratically: the next step would be as much smaller again, squared
            certain = distance < before < np.inf and distance * (distance / before) ** 2 <= CERTAIN
            if not along.limited and (distance <= 1.0 or certain):
                return x, along
        raise NotBalancedError(0.0, np.nan_to_num(np.abs(step).max(axis=0), nan=np.inf))
