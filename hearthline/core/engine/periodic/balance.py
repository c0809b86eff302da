"""Harmonic balance in one lane: Newton's method on the phasors of all unknowns at all products of the tones.

For each product h: I_h(x) + j ω_h Q_h(x) + D_h X_h = S_h, with I and Q the transforms of currents and charges of the same
compiled kernels as everywhere, evaluated along the period, D what disperses (lines, parts from files), which is exact in
frequency, and S the sources (Kundert and Sangiovanni-Vincentelli 1986; Nakhla and Vlach 1976).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from hearthline.core.engine.periodic.circuit import ALIASED, Along, LaneCircuit
from hearthline.core.engine.periodic.ends import Ends
from hearthline.core.engine.periodic.matrix import Jacobian, Reach, jacobian
from hearthline.core.engine.periodic.shooting import Shot
from hearthline.core.engine.periodic.steps import Equations, Steps, equations
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
    """The equations of a lane: the circuit, its products at `frequencies` [Hz], its sources (products, unknowns); of a
    neighbour the `matrix`, and the grid that is `likely` to be needed where that of the tones is not fine enough."""

    circuit: LaneCircuit
    tones: Tones
    frequencies: np.ndarray
    sources: np.ndarray
    iterations: int = 0
    matrix: Jacobian | None = None
    likely: Tones | None = None
    _reach: Reach | None = field(init=False, default=None)

    def __post_init__(self) -> None:
        self._reach = None if self.matrix is None else self.matrix.reach

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
        while along.rest > ALIASED and (finer := self.circuit.finer(self.tones, x, self.likely)) is not None:
            self.tones = finer.tones
            x, along = self._newton(x, self.sources, finer)
        return Balanced(x, self.tones, self.iterations, shares, along.rest)

    def _newton(self, x: np.ndarray, sources: np.ndarray, here: Along | None = None) -> tuple[np.ndarray, Along]:
        """Newton from x, first with the limits of the devices, which suit junctions, then with steps that are cut where they
        lead up, which suits all else: the solution, and what was found along the period there. What is found `here`, at x, may
        be known. Raises NotBalancedError."""
        try:
            return self._limited(x, sources, here)
        except NotBalancedError:
            return self._damped(x, sources)

    def _limited(self, x: np.ndarray, sources: np.ndarray, here: Along | None) -> tuple[np.ndarray, Along]:
        """With a matrix that is kept as long as its steps shrink quickly; it may be that of a neighbour."""
        if here is None:
            self.circuit.trust()
        wanted = replace(self._equations, sources=np.ascontiguousarray(sources))
        ends, fresh, begin, steps = Ends(self.circuit), False, x, None
        for _ in range(MOST_LIMITED):
            along, here = here or self.circuit.along(self.tones, x), None
            if self.matrix is None:
                self.matrix, fresh, steps = self._matrix(along), True, None
            try:
                steps = steps or Steps(self.matrix, wanted, ends, x)
                x = steps.taken(x, along)
            except np.linalg.LinAlgError:
                break
            if ends.reached(steps.distance, along.limited, fresh):
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
        wanted = replace(self._equations, sources=np.ascontiguousarray(sources))
        ends = Ends(self.circuit)
        along = self.circuit.along(self.tones, x, limits=False)
        missing = wanted.missing(x, along)
        scale = np.bincount(self.circuit.rows, np.abs(along.slopes.mean(axis=0)), self.circuit.size) + 1e-30
        for _ in range(MOST_DAMPED):
            step, part = self._solved(self._matrix(along), missing, ends), 1.0
            before = np.linalg.norm(missing / scale)
            while True:
                tried = x + part * step
                along = self.circuit.along(self.tones, tried, limits=False)
                missing = wanted.missing(tried, along)
                if np.linalg.norm(missing / scale) <= (1.0 - 0.1 * part) * before or ends.small(step, tried):
                    break
                part *= 0.5
                if part < SMALLEST_PART:
                    raise NotBalancedError(0.0, ends.moved)
            x = tried
            now = ends.distance_of(step, x, float(np.abs(along.flows).max()))
            if part == 1.0 and ends.reached(now, along.limited, True):
                return x, along
        raise NotBalancedError(0.0, ends.moved)

    def _matrix(self, along: Along) -> Jacobian:
        """The linearised equations. Raises NotBalancedError where devices gave no numbers."""
        self.iterations += 1
        if not (np.isfinite(along.slopes).all() and np.isfinite(along.capacitances).all()):
            raise NotBalancedError(0.0, np.full(self.circuit.size, np.inf))
        found = jacobian(self.circuit, self.tones, along, self._equations.s, self.frequencies, known=self._reach)
        self._reach = found.reach
        return found

    def _solved(self, matrix: Jacobian, missing: np.ndarray, ends: Ends) -> np.ndarray:
        """A step. Raises NotBalancedError where there is none."""
        try:
            step = matrix.solve(missing)
        except np.linalg.LinAlgError:
            step = np.full_like(missing, np.nan)
        if not np.isfinite(step).all():
            raise NotBalancedError(0.0, ends.moved)
        return step

    @cached_property
    def _equations(self) -> Equations:
        return equations(self.circuit, self.frequencies, self.sources)
