"""Harmonic balance in one lane: Newton's method on the phasors of all unknowns at all products of the tones.

For each product h: I_h(x) + j ω_h Q_h(x) + D_h X_h = S_h, with I and Q the transforms of currents and charges of the same
compiled kernels as everywhere, evaluated along the period, D what disperses (lines, parts from files), which is exact in
frequency, and S the sources (Kundert and Sangiovanni-Vincentelli 1986; Nakhla and Vlach 1976).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from hearthline.core.engine.periodic.circuit import ALIASED, Along, LaneCircuit
from hearthline.core.engine.periodic.ends import Ends
from hearthline.core.engine.periodic.matrix import Jacobian, jacobian
from hearthline.core.engine.periodic.mixing import Mixing
from hearthline.core.engine.periodic.shooting import Shot
from hearthline.core.engine.periodic.tones import Tones

MOST_LIMITED, MOST_DAMPED, KEPT = 30, 40, 0.25
"""Iterations with the limits of devices, and with steps that are cut; how much smaller a step must be for its matrix to
stay."""
SMALLEST_PART, SMALLEST_SHARE, MOST_MATRICES = 1e-2, 1e-3, 80
"""Of a step that leads down; of the sources, by which they may be changed at least; and matrices that this may cost."""


@dataclass(frozen=True)
class Balanced:
    """Phasors (products, unknowns), the grid that they were found on, how many iterations that took, in how many steps the
    sources were raised, and how much lay beyond the samples; of what was shot, its period as it is, and its monodromy."""

    phasors: np.ndarray
    tones: Tones
    iterations: int
    shares: int
    rest: float
    shot: Shot | None = None

    def samples(self, count: int) -> np.ndarray:
        """Of one tone, at so many moments of the period (count, unknowns)."""
        if self.shot is not None:
            return self.shot.course.samples(count)
        return replace(self.tones, samples=(count,)).to_samples(self.phasors)


class NotBalancedError(Exception):
    """Newton did not come down: `share` of the sources was reached; `moved` are the last steps (unknowns,)."""

    def __init__(self, share: float, moved: np.ndarray):
        super().__init__(share, moved)
        self.share, self.moved = share, moved


@dataclass(frozen=True)
class Begin:
    """A state to begin at: phasors, and the sources that they belong to (products, unknowns)."""

    phasors: np.ndarray
    sources: np.ndarray


@dataclass
class Balance:
    """The equations of a lane: the circuit, its products at `frequencies` [Hz], its sources (products, unknowns)."""

    circuit: LaneCircuit
    tones: Tones
    frequencies: np.ndarray
    sources: np.ndarray
    iterations: int = 0
    matrix: Jacobian | None = None

    def solve(self, starts: Sequence[Begin], rest: np.ndarray) -> Balanced:
        """From states close by where there are such, the likeliest first, else from the point at `rest` (products, unknowns);
        where Newton does not come down at once, sources are changed step by step. Raises NotBalancedError."""
        still = Begin(rest, np.zeros_like(self.sources))
        for begin in (*starts, still):
            try:
                return self._refined(*self._newton(begin.phasors, self.sources), 0)
            except NotBalancedError:
                continue
        for begin in starts[-1:]:
            try:
                return self._changed(begin)
            except NotBalancedError:
                continue
        return self._changed(still)

    def _changed(self, begin: Begin) -> Balanced:
        share, step, x, count = 0.0, 0.25, begin.phasors, 0
        most = self.iterations + MOST_MATRICES
        while share < 1.0:
            wanted = min(1.0, share + step)
            try:
                x, along = self._newton(x, begin.sources + wanted * (self.sources - begin.sources))
            except NotBalancedError as error:
                step *= 0.5
                if step < SMALLEST_SHARE or self.iterations > most:
                    raise NotBalancedError(share, error.moved) from None
                continue
            share, step, count = wanted, 1.5 * step, count + 1
        return self._refined(x, along, count)

    def _refined(self, x: np.ndarray, along: Along, shares: int) -> Balanced:
        """With as many samples as it takes that nothing of weight is aliased."""
        while along.rest > ALIASED and (finer := self.circuit.finer(self.tones, x)) is not self.tones:
            self.tones = finer
            x, along = self._newton(x, self.sources)
        return Balanced(x, self.tones, self.iterations, shares, along.rest)

    def _newton(self, x: np.ndarray, sources: np.ndarray) -> tuple[np.ndarray, Along]:
        """Newton from x, first with the limits of the devices, which suit junctions, then with steps that are cut where they
        lead up, which suits all else: the solution, and what was found along the period there. Raises NotBalancedError."""
        try:
            return self._limited(x, sources)
        except NotBalancedError:
            return self._damped(x, sources)

    def _limited(self, x: np.ndarray, sources: np.ndarray) -> tuple[np.ndarray, Along]:
        """With a matrix that is kept as long as its steps shrink quickly; it may be that of a neighbour."""
        self.circuit.trust()
        ends, fresh, begin = Ends(self.circuit), False, x
        mixing = Mixing(ends.weights(x))
        for _ in range(MOST_LIMITED):
            along = self.circuit.along(self.tones, x)
            missing = self._missing(x, along, sources)
            if self.matrix is None:
                self.matrix, fresh = self._matrix(along), True
                mixing = Mixing(ends.weights(x))
            step = self._solved(self.matrix, missing, ends)
            x = x + (step if along.limited else mixing.mixed(x, step))
            if _reached(ends, step, x, along, fresh):
                return x, along
            if along.limited or not ends.shrunk <= KEPT:
                if ends.shrunk > 1.0 and not fresh:  # a neighbour's matrix led away
                    x, ends = begin, Ends(self.circuit)
                    self.circuit.trust()
                self.matrix = None
            else:
                begin = x
            fresh = False
        self.matrix = None
        raise NotBalancedError(0.0, ends.moved)

    def _damped(self, x: np.ndarray, sources: np.ndarray) -> tuple[np.ndarray, Along]:
        ends = Ends(self.circuit)
        along = self.circuit.along(self.tones, x, limits=False)
        missing = self._missing(x, along, sources)
        scale = np.bincount(self.circuit.rows, np.abs(along.slopes.mean(axis=0)), self.circuit.size) + 1e-30
        for _ in range(MOST_DAMPED):
            step, part = self._solved(self._matrix(along), missing, ends), 1.0
            before = np.linalg.norm(missing / scale)
            while True:
                tried = x + part * step
                along = self.circuit.along(self.tones, tried, limits=False)
                missing = self._missing(tried, along, sources)
                if np.linalg.norm(missing / scale) <= (1.0 - 0.1 * part) * before or ends.small(step, tried):
                    break
                part *= 0.5
                if part < SMALLEST_PART:
                    raise NotBalancedError(0.0, ends.moved)
            x = tried
            if part == 1.0 and _reached(ends, step, x, along, True):
                return x, along
        raise NotBalancedError(0.0, ends.moved)

    def _missing(self, x: np.ndarray, along: Along, sources: np.ndarray) -> np.ndarray:
        """What is left of the equations (products, unknowns)."""
        circuit = self.circuit
        found = sources - along.flows - self._s[:, None] * along.charges
        entries, gains = self._dispersion
        for k, entry in enumerate(entries):
            found[:, circuit.rows[entry]] -= gains[:, k] * x[:, circuit.columns[entry]]
        found[0] = found[0].real
        return found

    def _matrix(self, along: Along) -> Jacobian:
        """The linearised equations. Raises NotBalancedError where devices gave no numbers."""
        self.iterations += 1
        if not (np.isfinite(along.slopes).all() and np.isfinite(along.capacitances).all()):
            raise NotBalancedError(0.0, np.full(self.circuit.size, np.inf))
        return jacobian(self.circuit, self.tones, along, self._s, self.frequencies)

    def _solved(self, matrix: Jacobian, missing: np.ndarray, ends: Ends) -> np.ndarray:
        """A step. Raises NotBalancedError where there is none."""
        try:
            with np.errstate(all="ignore"):
                step = matrix.solve(missing)
        except np.linalg.LinAlgError:
            step = np.full_like(missing, np.nan)
        if not np.isfinite(step).all():
            self.matrix = None
            raise NotBalancedError(0.0, ends.moved)
        return step

    @cached_property
    def _s(self) -> np.ndarray:
        return 2j * np.pi * self.frequencies

    @cached_property
    def _dispersion(self) -> tuple[np.ndarray, np.ndarray]:
        return self.circuit.dispersion(self.frequencies)


def _reached(ends: Ends, step: np.ndarray, x: np.ndarray, along: Along, newton: bool) -> bool:
    return ends.reached(step, x, float(np.abs(along.flows).max()), along.limited, newton)
