"""Balances of all lanes on all processors: each begins at its neighbour's solution, and fails alone."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

import numpy as np
from threadpoolctl import threadpool_limits

from hearthline.core.circuit.checks import nets_touched
from hearthline.core.engine.job import Job
from hearthline.core.engine.periodic.balance import Balance, Balanced, Begin, NotBalancedError
from hearthline.core.engine.periodic.circuit import LaneCircuit, StoppedError
from hearthline.core.engine.periodic.excitation import excitation
from hearthline.core.engine.periodic.matrix import Jacobian
from hearthline.core.engine.periodic.tones import Tones, one_tone, padded
from hearthline.core.engine.small_signal import DEFAULT
from hearthline.core.engine.solve import Solution, SourceSweep, Tolerances, solve
from hearthline.core.engine.system import System
from hearthline.core.errors import ConvergenceError
from hearthline.core.outcome import Outcome

FIRST_HARMONICS, MOST_HARMONICS = 8, 256
"""To begin with, and at most, where their number is found."""
TAIL = 1e-4
"""Share of the largest phasor that the last two harmonics of any net may be, for their number to be enough."""
LANES_A_SHARE = 8


@dataclass(frozen=True)
class LaneState:
    """A lane that has come to a periodic state: phasors of it, and its tones [Hz]."""

    system: System
    lane: int
    tolerances: Tolerances
    balanced: Balanced
    hertz: np.ndarray

    @property
    def circuit(self) -> LaneCircuit:
        """The circuit in that lane, with memory of its own."""
        return LaneCircuit(self.system, self.lane, self.tolerances)

    @property
    def frequencies(self) -> np.ndarray:
        """Of the products (products,) [Hz]."""
        return self.balanced.tones.frequencies(self.hertz)


@dataclass(frozen=True)
class Periodic:
    """Periodic states of all lanes, None where there is none; the operating points that they were sought from, why lanes
    failed, what was found out on the way, and how long it took [s]."""

    system: System
    point: Solution
    states: tuple[LaneState | None, ...]
    outcomes: np.ndarray
    failures: Mapping[int, ConvergenceError]
    log: tuple[str, ...]
    seconds: float
    notes: tuple[str, ...] = field(default=())

    @property
    def products(self) -> int:
        """How many phasors each unknown has."""
        return max((len(one.balanced.tones) for one in self.states if one is not None), default=1)

    @property
    def iterations(self) -> int:
        """Of Newton, in all lanes."""
        return self.point.iterations + sum(one.balanced.iterations for one in self.states if one is not None)


def balance(
    system: System, hertz: np.ndarray, tones: Tones | None, tolerances: Tolerances = DEFAULT, job: Job | None = None
) -> Periodic:
    """The periodic state of every lane under tones [Hz]; of one tone the number of harmonics is found where no `tones` are
    given. Raises CircuitError at a source that does not fit.
    """
    begin, job = time.perf_counter(), job or Job()
    harmonics = FIRST_HARMONICS
    known: list[LaneState | None] = [None] * len(system.lanes)
    point = solve(system, SourceSweep(), tolerances, None, (), job)
    while True:
        wanted = tones or one_tone(harmonics)
        job.begin(len(system.lanes), len(shares_of(len(system.lanes))))
        failures: dict[int, NotBalancedError] = {}
        states, outcomes = _each(system, point, wanted, hertz, tolerances, job, failures, known)
        if tones is not None or job.stopped or harmonics >= MOST_HARMONICS or tail_of(states, system.net_count) <= TAIL:
            break
        harmonics, known = 2 * harmonics, list(states)
    why = {lane: _failure(system, one) for lane, one in failures.items()}
    for lane in np.flatnonzero((point.outcomes[:, 0] != Outcome.SOLVED) & (point.outcomes[:, 0] != Outcome.STOPPED)):
        why[int(lane)] = point.failure(int(lane))
    log, notes = _said(states, system, hertz, tones is None, harmonics)
    return Periodic(
        system, point, states, outcomes, why, (*point.log(), *log), time.perf_counter() - begin,
        (*point.notes(), *notes),
    )  # fmt: skip


def check_sources(system: System, hertz: np.ndarray, tones: Tones | None) -> None:
    """Raises CircuitError at a source that does not fit; a balance that finds its number of harmonics takes any of them."""
    tones = tones or one_tone(MOST_HARMONICS)
    for lane in range(len(system.lanes)):
        excitation(system, lane, tones, hertz)


@dataclass(frozen=True)
class Neighbour:
    """The lane before, where it came to a state: its sources, and the matrix that it ended with."""

    state: LaneState | None = None
    sources: np.ndarray | None = None
    matrix: Jacobian | None = None

    def begin(self, products: int) -> Begin | None:
        """Where the next lane begins."""
        if self.state is None or self.sources is None:
            return None
        return Begin(padded(self.state.balanced.phasors, products), self.sources)


States = tuple[LaneState | None, ...]


def _each(
    system: System, point: Solution, tones: Tones, hertz: np.ndarray, tolerances: Tolerances, job: Job,
    failures: dict[int, NotBalancedError], known: Sequence[LaneState | None],
) -> tuple[States, np.ndarray]:  # fmt: skip
    """All lanes: their states, and how each ended."""
    _ = system.static, system.dynamic
    outcomes = point.outcomes[:, 0].copy()
    states: list[LaneState | None] = [None] * len(system.lanes)
    frequencies = tones.frequencies(hertz)

    def one(lane: int, before: Neighbour) -> Neighbour:
        circuit = LaneCircuit(system, lane, tolerances, job.flag)
        sources = excitation(system, lane, tones, hertz)[:, 1:]
        rest = np.zeros((len(tones), circuit.size), complex)
        rest[0] = point.kept[lane, 0]
        own = known[lane]
        if own is not None:
            start: Begin | None = Begin(padded(own.balanced.phasors, len(tones)), sources)
        else:
            start = before.begin(len(tones))
        equations = Balance(circuit, tones, frequencies, sources, matrix=before.matrix if own is None else None)
        try:
            state = LaneState(system, lane, tolerances, equations.solve(start, rest), hertz)
        except StoppedError:
            return Neighbour()
        except NotBalancedError as error:
            failures[lane] = error
            return Neighbour()
        return Neighbour(state, sources, equations.matrix)

    def work(task: tuple[int, np.ndarray]) -> None:
        share, lanes = task
        before = Neighbour()
        for lane in lanes:
            if outcomes[lane] == Outcome.SOLVED and not job.stopped:
                before = one(int(lane), before)
                states[lane] = before.state
                outcomes[lane] = ended(states[lane], job)
            elif job.stopped:
                outcomes[lane] = Outcome.STOPPED
            job.progress[share] += 1

    run_shares(work, list(enumerate(shares_of(len(system.lanes)))), job.workers)
    return tuple(states), outcomes


def ended(state: LaneState | None, job: Job) -> Outcome:
    """How a lane did."""
    if state is not None:
        return Outcome.SOLVED
    return Outcome.STOPPED if job.stopped else Outcome.NO_CONVERGENCE


def run_shares(work: Callable, tasks: list, workers: int) -> None:
    """One task after the other, or on several threads. Linear algebra does not spread over processors: its matrices are too
    small for that."""

    def quiet(task: object) -> None:
        """What has led away gives no numbers, and is noticed by that."""
        with np.errstate(all="ignore"):
            work(task)

    with threadpool_limits(limits=1):
        if len(tasks) == 1:
            quiet(tasks[0])
            return
        with ThreadPoolExecutor(workers) as pool:
            list(pool.map(quiet, tasks))


def shares_of(lanes: int) -> list[np.ndarray]:
    """Neighbours stay together; which do depends on their number alone."""
    return np.array_split(np.arange(lanes), max(1, -(-lanes // LANES_A_SHARE)))


def tail_of(states: States, nets: int) -> float:
    """How much of the largest phasor of each net is in its last two harmonics, at worst."""
    worst = 0.0
    for one in states:
        if one is not None:
            size = np.abs(one.balanced.phasors[1:, :nets])
            worst = max(worst, float((size[-2:].max(axis=0) / max(size.max(initial=0.0), 1e-300)).max(initial=0.0)))
    return worst


def _said(
    states: States, system: System, hertz: np.ndarray, found: bool, harmonics: int
) -> tuple[list[str], list[str]]:
    """For the log, and what a person must know."""
    solved = [one.balanced for one in states if one is not None]
    if not solved:
        return [], []
    samples = max((one.tones.samples for one in solved), key=lambda s: s[0])
    rest = max(one.rest for one in solved)
    log = [f"{' × '.join(str(n) for n in samples)} samples a period; {rest:.1g} of the currents lies beyond them"]
    if found:
        log.append(
            f"{harmonics} harmonics, the last two under {max(tail_of(states, system.net_count), 1e-16):.1g} of the largest"
        )
    raised = sum(one.shares > 0 for one in solved)
    if raised:
        log.append(f"{raised} of {len(states)} lanes: sources raised step by step")
    notes = system.beyond(solved[0].tones.frequencies(hertz)[1:]) if len(solved[0].tones) > 1 else []
    if found and tail_of(states, system.net_count) > TAIL:
        notes.append(f"{harmonics} harmonics are not enough for every net: a transient follows such edges better")
    return log, notes


def _failure(system: System, error: NotBalancedError) -> ConvergenceError:
    """What was tried, where it stood, and what would help."""
    worst = np.argsort(-error.moved[: system.net_count], kind="stable")[:3]
    nets = tuple(system.unknowns[k].name for k in worst)
    parts = nets_touched(system.netlist.elements, nets[:1])[:4]
    return ConvergenceError(
        f"the balance did not come down, neither at once nor with its sources raised step by step: it stood at "
        f"{100 * error.share:.3g} % of them; moved last: nets {', '.join(nets)}, parts {', '.join(parts)}; take more "
        "harmonics, or less power",
        nets, parts,
    )  # fmt: skip
