"""Periodic states by shooting: over one period in steps of their own lengths, so that its end is its beginning.

In each step Radau's rule of order 5 holds: at its three nodes i, sum over j of W_ij (q_j - q_before) / h + i(x_i) = s(t_i),
with the same currents and charges as everywhere. Newton takes all steps at once. Each step's linear equations give how its end
follows from its beginning; these multiplied one after the other are the monodromy, the end over the beginning of the period,
and close the circle (Aprille and Trick, Proc. IEEE 1972; of an oscillation, with its period as one more unknown,
IEEE Trans. Circuit Theory 1972).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from scipy.linalg.lapack import dgetrf, dgetrs

from hearthline.core.engine.periodic.circuit import Evaluated, LaneCircuit
from hearthline.core.engine.periodic.course import SLOPES, WEIGHTS, Course
from hearthline.core.engine.periodic.ends import Ends

MOST_ITERATIONS, MOST_STEPS, ROOM = 25, 8000, 8e7
"""Of Newton; of steps in a period; and of numbers in all of their matrices."""
EXACT = 3e-5
"""Share of its swing by which nothing may move when steps are halved; what is kept then is exact to some tenth of it."""
SETTLED = 0.3
"""Of that, by which a step may have moved to be left as it is."""
KEPT, FAR = 0.2, 1e6
"""How much smaller a step of Newton must be than the last for its matrix to stay; and of its tolerance, when it is none yet."""
MOST_UNKNOWNS = 300
"""Whose steps are solved as dense matrices."""

Sources = Callable[[np.ndarray], np.ndarray]
"""What sources put into the equations at moments [s]: (moments, unknowns)."""


@dataclass(frozen=True)
class Shot:
    """A period that closes: its course, how long it is [s], its monodromy (unknowns, unknowns), how far it moved at the last
    halving of its steps, as a share of the swing, and how many iterations all that took."""

    course: Course
    period: float
    monodromy: np.ndarray
    moved: float
    iterations: int


@dataclass(frozen=True)
class _Steps:
    """The linear equations of all steps: their matrices in factors, how the nodes follow the beginning of a step (steps,
    3 unknowns, unknowns), and from one end of the period to the other."""

    factors: Sequence[tuple[np.ndarray, np.ndarray]]
    through: np.ndarray
    monodromy: np.ndarray

    def solve(self, sides: np.ndarray, transposed: bool = False) -> np.ndarray:
        """Each step by itself: (steps, 3 unknowns, cases)."""
        return np.stack(
            [dgetrs(*own, side, trans=int(transposed))[0] for own, side in zip(self.factors, sides, strict=True)]
        )


class Shooting:
    """The equations of a lane; of an oscillation, without `sources`, whose period is sought too."""

    def __init__(self, circuit: LaneCircuit, sources: Sources | None = None):
        self.circuit, self.sources = circuit, sources
        self.iterations = 0

    def solve(self, course: Course, period: float) -> Shot:
        """From close by, with as many steps as it takes. Raises LinAlgError."""
        found = self._newton(course, period)
        chosen = np.ones(len(found.course.values), bool)
        while True:
            finer = self._newton(found.course.halved(chosen), found.period)
            moved = _moved(found.course, finer.course)
            found = replace(finer, moved=float(moved.max()), iterations=self.iterations)
            if found.moved <= EXACT or 2 * len(found.course.values) > self._most:
                return found
            chosen = np.repeat(_beside(moved > SETTLED * EXACT), 1 + chosen)

    @property
    def _most(self) -> float:
        """Steps that there is room for."""
        return min(MOST_STEPS, ROOM / (12 * self.circuit.size**2))

    def _newton(self, course: Course, period: float) -> Shot:
        """With a matrix that is kept as long as its steps shrink quickly. Raises LinAlgError."""
        self.circuit.trust()
        ends, values = Ends(self.circuit), course.values
        steps, fresh = None, False
        for _ in range(MOST_ITERATIONS):
            here = replace(course, values=values)
            found = self._evaluated(here)
            if not np.isfinite(found.flows).all():
                break
            if steps is None:
                steps, fresh = self._steps(here, period, found), True
            moved, grown = self._closed(steps, here, *self._missing(here, period, found))
            if not np.isfinite(moved).all() or abs(grown) > 0.5:
                break
            values, period = values + moved, period * (1.0 + grown)
            flat = values.reshape(-1, self.circuit.size)
            largest = float(np.abs(found.flows).max())
            sure = abs(grown) <= self.circuit.tolerances.reltol
            now = ends.distance_of(moved.reshape(flat.shape), flat, largest)
            if ends.reached(now, found.limited, fresh) and sure:
                return Shot(replace(course, values=values), period, steps.monodromy, 0.0, self.iterations)
            if found.limited or not ends.shrunk <= KEPT or ends.distance > FAR:
                steps = None
            fresh = False
        raise np.linalg.LinAlgError("did not come down")

    def _evaluated(self, course: Course) -> Evaluated:
        return self.circuit.evaluated(course.values.reshape(-1, self.circuit.size))

    def _missing(self, course: Course, period: float, found: Evaluated) -> tuple[np.ndarray, np.ndarray]:
        """What is left of the equations (steps, 3, unknowns), and what charges flow by themselves there."""
        shape = course.values.shape
        charges = found.charges.reshape(shape)
        before = np.roll(charges[:, 2], 1, axis=0)
        length = (period * course.steps)[:, None, None]
        flowing = np.einsum("ij,kjn->kin", SLOPES, charges - before[:, None]) / length
        missing = -found.flows.reshape(shape) - flowing
        if self.sources is not None:
            missing += self.sources(period * course.moments.ravel()).reshape(shape)
        return missing, flowing

    def _steps(self, course: Course, period: float, found: Evaluated) -> _Steps:
        """Raises LinAlgError where a step has no solution."""
        self.iterations += 1
        count, size = len(course.values), self.circuit.size
        slopes, capacitances = found.slopes.reshape(count, 3, -1), found.capacitances.reshape(count, 3, -1)
        rates = SLOPES[None] / (period * course.steps)[:, None, None]
        through, factors = np.empty((count, 3 * size, size)), []
        whole = np.eye(size)
        blocks, sides = self._places
        for k in range(count):
            matrix, beginning = np.zeros(9 * size * size), np.zeros(3 * size * size)
            matrix[blocks] = rates[k][:, :, None] * capacitances[k][None, :, :]
            matrix[blocks[[0, 1, 2], [0, 1, 2]]] += slopes[k]
            beginning[sides] = rates[k].sum(axis=1)[:, None] * capacitances[k - 1, 2]
            lower, pivots, singular = dgetrf(matrix.reshape(3 * size, -1).T, overwrite_a=True)
            if singular:
                raise np.linalg.LinAlgError("a step has no solution")
            factors.append((lower, pivots))
            through[k] = dgetrs(lower, pivots, beginning.reshape(3 * size, size))[0]
            whole = through[k, 2 * size :] @ whole
        return _Steps(factors, through, whole)

    @cached_property
    def _places(self) -> tuple[np.ndarray, np.ndarray]:
        """Where entries stand in the matrix of a step, columns before rows as LAPACK has them (3, 3, entries), and in what its
        beginning does (3, entries)."""
        circuit, size, node = self.circuit, self.circuit.size, np.arange(3)
        columns = node[None, :, None] * size + circuit.columns
        rows = node[:, None, None] * size + circuit.rows
        return columns * 3 * size + rows, (node[:, None] * size + circuit.rows) * size + circuit.columns

    def _closed(
        self, steps: _Steps, course: Course, missing: np.ndarray, flowing: np.ndarray
    ) -> tuple[np.ndarray, float]:
        """What moves at all nodes, and by what share the period does."""
        count, size = len(missing), self.circuit.size
        last = slice(2 * size, 3 * size)
        rest = steps.solve(np.stack([missing.reshape(count, -1), flowing.reshape(count, -1)], axis=2))
        ends = np.zeros((size, 2))
        for k in range(count):
            ends = steps.through[k, last] @ ends + rest[k, last]
        if self.sources is not None:
            begin, grown = np.linalg.solve(np.eye(size) - steps.monodromy, ends[:, 0]), 0.0
        else:
            begin, grown = self._held(steps.monodromy, ends[:, 0], ends[:, 1], course)
        moved = np.empty((count, 3 * size))
        for k in range(count):
            moved[k] = steps.through[k] @ begin + rest[k] @ (1.0, grown)
            begin = moved[k, last]
        return moved.reshape(count, 3, size), grown

    def _held(
        self, whole: np.ndarray, side: np.ndarray, longer: np.ndarray, course: Course
    ) -> tuple[np.ndarray, float]:
        """The beginning and the period, where the net that moves fastest at the beginning keeps its voltage."""
        size, nets = self.circuit.size, self.circuit.system.net_count
        speed = np.abs(course.values[0, 0] - course.ends[-1])[:nets]
        square = np.zeros((size + 1, size + 1))
        square[:size, :size], square[:size, size] = np.eye(size) - whole, -longer
        square[size, int(np.argmax(speed))] = 1.0
        found = np.linalg.solve(square, np.append(side, 0.0))
        return found[:size], float(found[size])

    def shift(self, shot: Shot) -> Course:
        """Of an oscillation: by how much earlier it comes for a charge into each equation at that moment [s/C of a net].

        With λ on the left of the equations that are singular, the period is longer by -λ·b / λ·q' for currents b into them;
        λ over the weights of the rule is what that is along the period.
        """
        course, period = shot.course, shot.period
        self.circuit.trust()
        found = self._evaluated(course)
        flowing = self._missing(course, period, found)[1]
        steps = self._steps(course, period, found)
        count, size = len(course.values), self.circuit.size
        behind = np.empty((count, size))  # on the end of each step
        behind[-1] = _left(shot.monodromy)
        for k in range(count - 1, 0, -1):
            behind[k - 1] = behind[k] @ steps.through[k, 2 * size :]
        sides = np.zeros((count, 3 * size, 1))
        sides[:, 2 * size :, 0] = behind
        weights = steps.solve(sides, transposed=True)[:, :, 0]
        turned = float((weights * flowing.reshape(count, -1)).sum())
        each = (period * course.steps)[:, None, None] * WEIGHTS[None, :, None]
        values = period * weights.reshape(count, 3, size) / (each * turned)
        return replace(course, values=values, held=np.zeros(size, bool))


def _left(monodromy: np.ndarray) -> np.ndarray:
    """What is on its left for the multiplier next to 1."""
    values, shapes = np.linalg.eig(monodromy.T)
    return shapes[:, int(np.argmin(np.abs(values - 1.0)))].real


def _moved(coarse: Course, fine: Course) -> np.ndarray:
    """By how much voltages at the ends of the coarse steps differ, as a share of the largest swing (steps,)."""
    held = coarse.held
    before, after = coarse.ends[:, held], fine.ends[np.searchsorted(fine.edges, coarse.edges[1:]) - 1][:, held]
    swing = np.ptp(after, axis=0).max(initial=0.0)
    return np.abs(after - before).max(axis=1, initial=0.0) / max(float(swing), 1e-30)


def _beside(chosen: np.ndarray) -> np.ndarray:
    """These steps, and those next to them."""
    return chosen | np.roll(chosen, 1) | np.roll(chosen, -1)
