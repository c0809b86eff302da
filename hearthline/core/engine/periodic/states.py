"""Periodic states of all lanes: what they are, and how lanes share the processors."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from typing import TypeVar

import numpy as np

from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.periodic.balance import Balanced
from hearthline.core.engine.periodic.circuit import LaneCircuit
from hearthline.core.engine.periodic.startup import Startup
from hearthline.core.engine.solve import Solution, Tolerances
from hearthline.core.engine.system import System, carried
from hearthline.core.errors import ConvergenceError
from hearthline.core.outcome import Outcome

TAIL = 1e-4
"""Share of the largest phasor that the last two harmonics of any net may be, for their number to be enough."""
LANES_A_SHARE, FEW_RUNS, LONGEST_RUN = 8, 4, 64
"""Lanes that stay together: so many in a row, or, where there are enough of them, runs in which one thing changes at a time."""
MOMENTS = 2048
"""Of a period that was shot."""

SETTLED = "settled"
"""Where a system holds states that are its own without another look."""

Handed = TypeVar("Handed")


@dataclass(frozen=True)
class LaneState:
    """A lane that has come to a periodic state: phasors of it, and its tones [Hz]; of an oscillation, how it begins."""

    system: System
    lane: int
    tolerances: Tolerances
    balanced: Balanced
    hertz: np.ndarray
    start: Startup | None = None

    @property
    def circuit(self) -> LaneCircuit:
        """The circuit in that lane, with memory of its own."""
        return LaneCircuit(self.system, self.lane, self.tolerances)

    @property
    def samples(self) -> np.ndarray:
        """All unknowns at moments, or phases, that a mean may be taken over (samples, unknowns)."""
        if self.balanced.shot is not None:
            return self.balanced.samples(MOMENTS)
        return self.balanced.tones.to_samples(self.balanced.phasors)

    @property
    def frequencies(self) -> np.ndarray:
        """Of the products (products,) [Hz]."""
        return self.balanced.tones.frequencies(self.hertz)


@dataclass(frozen=True)
class Periodic:
    """Periodic states of all lanes, None where there is none; the operating points that they were sought from, why lanes
    failed, what was found out on the way, and how long it took [s]; and what was computed of them, by lane."""

    system: System
    point: Solution
    states: tuple[LaneState | None, ...]
    outcomes: np.ndarray
    failures: Mapping[int, ConvergenceError]
    log: tuple[str, ...]
    seconds: float
    notes: tuple[str, ...] = field(default=())
    remembered: dict = field(default_factory=dict, repr=False, compare=False)

    @property
    def products(self) -> int:
        """How many phasors each unknown has."""
        return max((len(one.balanced.tones) for one in self.states if one is not None), default=1)

    @property
    def iterations(self) -> int:
        """Of Newton, in all lanes."""
        return self.point.iterations + sum(one.balanced.iterations for one in self.states if one is not None)

    def on(self, system: System) -> tuple[LaneState | None, ...]:
        """The states as those of a system with much the same unknowns, to begin from."""
        if system.unknowns == self.system.unknowns:
            return self.states
        return tuple(
            None if one is None or one.balanced.shot is not None else self._on(one, system) for one in self.states
        )

    def _on(self, state: LaneState, system: System) -> LaneState:
        phasors = carried(self.system.unknowns, state.balanced.phasors, system.unknowns)
        return replace(state, system=system, balanced=replace(state.balanced, phasors=phasors))


def settled(system: System, found: Periodic) -> System:
    """A system whose states are those that were found with more unknowns: at temperatures that were among these."""
    system.__dict__[SETTLED] = found
    return system


def are_settled(found: Periodic | None, system: System) -> bool:
    """Whether the states are those of a system."""
    return found is not None and system.__dict__.get(SETTLED) is found


def each_lane(
    point: Solution,
    job: Job,
    one: Callable[[int, Handed | None], tuple[LaneState | None, Handed | None]],
    alone: bool = False,
) -> tuple[tuple[LaneState | None, ...], np.ndarray]:
    """The state of every lane that has an operating point, and how each ended. `one` takes a lane and what its neighbour has
    handed on, and gives a state and what it hands on itself; where each is `alone`, nothing is handed on."""
    outcomes = point.outcomes[:, 0].copy()
    states: list[LaneState | None] = [None] * len(outcomes)
    shares = shares_of(len(outcomes), 1) if alone else runs_of(point.system.lanes)
    job.begin(len(outcomes), len(shares))

    def work(task: tuple[int, np.ndarray]) -> None:
        share, lanes = task
        handed = None
        for lane in lanes:
            if job.stopped:
                outcomes[lane] = Outcome.STOPPED
            elif outcomes[lane] == Outcome.SOLVED:
                states[lane], handed = one(int(lane), handed)
                outcomes[lane] = _ended(states[lane], job)
            job.progress[share] += 1

    run_shares(work, list(enumerate(shares)), job.workers)
    return tuple(states), outcomes


def without_point(point: Solution) -> dict[int, ConvergenceError]:
    """Why lanes have no operating point to begin from; those that were stopped before they had one are not among them."""
    fine = (Outcome.SOLVED, Outcome.STOPPED, Outcome.NOT_RUN)
    return {k: point.failure(k) for k, outcome in enumerate(point.outcomes[:, 0]) if outcome not in fine}


def _ended(state: LaneState | None, job: Job) -> Outcome:
    """How a lane did."""
    if state is not None:
        return Outcome.SOLVED
    return Outcome.STOPPED if job.stopped else Outcome.NO_CONVERGENCE


def run_shares(work: Callable, tasks: list, workers: int) -> None:
    """One task after the other, or on several threads."""

    def quiet(task: object) -> None:
        """What has led away gives no numbers, and is noticed by that."""
        with np.errstate(all="ignore"):
            work(task)

    if len(tasks) == 1:
        quiet(tasks[0])
        return
    with ThreadPoolExecutor(workers) as pool:
        list(pool.map(quiet, tasks))


def shares_of(lanes: int, together: int = LANES_A_SHARE) -> list[np.ndarray]:
    """Neighbours stay together; which do depends on their number alone."""
    return np.array_split(np.arange(lanes), max(1, -(-lanes // together)))


def runs_of(lanes: Lanes) -> list[np.ndarray]:
    """Lanes that stay together: a neighbour is close by where one thing is another. Which do depends on the lanes alone."""
    columns = [np.unique(np.array(lanes.corners), return_inverse=True)[1], lanes.celsius]
    columns += [np.asarray(one) for one in (*lanes.parameters.values(), *lanes.sources.values())]
    changed = sum((one[1:] != one[:-1]).astype(int) for one in columns)
    runs = np.split(np.arange(len(lanes)), 1 + np.flatnonzero(changed > 1))
    if len(runs) < FEW_RUNS:
        return shares_of(len(lanes))
    return [piece for run in runs for piece in np.array_split(run, -(-len(run) // LONGEST_RUN))]


def tail_of(states: tuple[LaneState | None, ...], nets: int) -> float:
    """How much of the largest phasor of each net is in its last two harmonics, at worst."""
    return max((tail(one.balanced.phasors, nets) for one in states if one is not None), default=0.0)


def tail(phasors: np.ndarray, nets: int) -> float:
    """The same of phasors (products, unknowns)."""
    size = np.abs(phasors[1:, :nets])
    return float(size[-2:].max(initial=0.0) / max(size.max(initial=0.0), 1e-300))
