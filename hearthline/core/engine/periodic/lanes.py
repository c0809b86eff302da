"""Balances of all lanes on all processors: each begins at its neighbour's solution, and fails alone."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.circuit.checks import nets_touched
from hearthline.core.engine.job import Job
from hearthline.core.engine.periodic.balance import Balance, Begin, NotBalancedError
from hearthline.core.engine.periodic.circuit import LaneCircuit, StoppedError
from hearthline.core.engine.periodic.excitation import excitation
from hearthline.core.engine.periodic.following import can_be_followed, driven, evened, said_of_shots
from hearthline.core.engine.periodic.matrix import Jacobian
from hearthline.core.engine.periodic.states import (
    TAIL,
    LaneState,
    Periodic,
    are_settled,
    each_lane,
    run_shares,
    tail_of,
    without_point,
)
from hearthline.core.engine.periodic.tones import Tones, one_tone, padded
from hearthline.core.engine.small_signal import DEFAULT
from hearthline.core.engine.solve import Solution, SourceSweep, Tolerances, solve
from hearthline.core.engine.system import System
from hearthline.core.errors import ConvergenceError
from hearthline.core.outcome import Outcome

FIRST_HARMONICS, ENOUGH_TO_TELL, MOST_HARMONICS = 8, 32, 256
"""To begin with, to see whether more will do, and at most, where their number is found."""
DEPTH, FARTHEST = 3, 2.0
"""Neighbours before the last one whose course is followed, and how much farther than the last step it may lead."""
SHOT_FROM = 32
"""Harmonics from which on shooting is faster, where it can be done."""


def balance(
    system: System, hertz: np.ndarray, tones: Tones | None, tolerances: Tolerances = DEFAULT, job: Job | None = None,
    near: Periodic | None = None,
) -> Periodic:  # fmt: skip
    """The periodic state of every lane under tones [Hz], from states `near` of the same lanes where there are some; of one tone
    the number of harmonics is found where no `tones` are given. Raises CircuitError at a source that does not fit.
    """
    begin, job = time.perf_counter(), job or Job()
    harmonics, before = FIRST_HARMONICS, np.inf
    followed = len(hertz) == 1 and can_be_followed(system)
    many = followed and tones is not None and len(tones) > SHOT_FROM
    known: list[LaneState | None] = [None] * len(system.lanes) if near is None else list(near.on(system))
    exact = are_settled(near, system)
    if exact and near is not None:
        harmonics = max(harmonics, near.products - 1)
    point = solve(system, SourceSweep(), tolerances, None, (), job)
    failures: dict[int, NotBalancedError] = {}
    while True:
        wanted = tones or one_tone(harmonics)
        failures = {}
        states, outcomes = _each(system, point, wanted, hertz, tolerances, job, failures, known, many, exact)
        tail = tail_of(states, system.net_count)
        if (
            tones is not None
            or job.stopped
            or tail <= TAIL
            or hopeless(tail, before, harmonics, SHOT_FROM if followed else MOST_HARMONICS)
        ):
            break
        harmonics, known, before = 2 * harmonics, list(states), tail
    if followed and not many and not job.stopped:
        given = None if tones is None else len(tones) - 1
        states, outcomes = _shot(system, states, outcomes, (hertz, given), tolerances, job)
    why = {lane: _failure(system, one) for lane, one in failures.items() if states[lane] is None}
    why |= without_point(point)
    log, notes = _said(states, system, hertz, tones is None, harmonics)
    return Periodic(
        system, point, states, outcomes, why, (*point.log(), *log), time.perf_counter() - begin,
        (*point.notes(), *notes),
    )  # fmt: skip


def hopeless(tail: float, before: float, harmonics: int, most: int) -> bool:
    """Whether no more harmonics will do: the tail shrinks too slowly, or there are as many as there may be."""
    left = most / harmonics
    return left <= 1 or (harmonics >= ENOUGH_TO_TELL and tail * (tail / before) ** np.log2(left) > TAIL)


def _shot(
    system: System, states: States, outcomes: np.ndarray, wanted: tuple[np.ndarray, int | None], tolerances: Tolerances,
    job: Job,
) -> tuple[States, np.ndarray]:  # fmt: skip
    """The same with lanes shot at that did not come down, or whose harmonics are not enough."""
    hertz, harmonics = wanted
    found, ended = list(states), outcomes.copy()
    lost = [k for k, one in enumerate(states) if one is None and outcomes[k] == Outcome.NO_CONVERGENCE]
    short = [] if harmonics else [k for k, one in enumerate(states) if tail_of((one,), system.net_count) > TAIL]

    def work(lane: int) -> None:
        state = _driven(LaneCircuit(system, lane, tolerances, job.flag), hertz, harmonics, job)
        if state is not None:
            found[lane], ended[lane] = state, Outcome.SOLVED

    run_shares(work, [*lost, *short], job.workers)
    return evened(tuple(found)), ended


def check_sources(system: System, hertz: np.ndarray, tones: Tones | None) -> None:
    """Raises CircuitError at a source that does not fit; a balance that finds its number of harmonics takes any of them."""
    tones = tones or one_tone(MOST_HARMONICS)
    for lane in range(len(system.lanes)):
        excitation(system, lane, tones, hertz)


@dataclass(frozen=True)
class Neighbour:
    """The lane before: its state, its sources, the matrix that it ended with, and the neighbours before it."""

    state: LaneState
    sources: np.ndarray
    matrix: Jacobian | None
    before: tuple[Neighbour, ...] = ()

    def begins(self, sources: np.ndarray) -> list[Begin]:
        """Where the next lane, of these sources, may begin: ahead of the last ones on the curve that they are on, where the
        sources alone have grown, and here."""
        products = len(sources)
        here = Begin(padded(self.state.balanced.phasors, products), self.sources)
        some = [*self.before, self]
        sizes = [float(np.linalg.norm(one.sources)) for one in some]
        wanted = float(np.linalg.norm(sources))
        if len(some) < 2 or not all(_along(one.sources, sources) for one in some):
            return [here]
        if len(set(sizes)) < len(sizes) or abs(wanted - sizes[-1]) > FARTHEST * abs(sizes[-1] - sizes[-2]):
            return [here]
        ahead = np.zeros_like(here.phasors)
        for k, one in enumerate(some):  # Lagrange's polynomial
            others = np.array(sizes[:k] + sizes[k + 1 :])
            weight = float(np.prod((wanted - others) / (sizes[k] - others)))
            ahead += weight * padded(one.state.balanced.phasors, products)
        return [Begin(ahead, sources), here]

    def handed(self, depth: int = DEPTH) -> Neighbour:
        """With as many neighbours as are of use."""
        return replace(self, before=tuple(replace(one, before=(), matrix=None) for one in self.before[-depth:]))


def _along(some: np.ndarray, others: np.ndarray) -> bool:
    """Whether sources differ in nothing but their size."""
    return bool(abs(np.vdot(some, others)) >= (1.0 - 1e-12) * np.linalg.norm(some) * np.linalg.norm(others) > 0.0)


States = tuple[LaneState | None, ...]


def _each(
    system: System, point: Solution, tones: Tones, hertz: np.ndarray, tolerances: Tolerances, job: Job,
    failures: dict[int, NotBalancedError], known: Sequence[LaneState | None], many: bool,
    exact: bool,
) -> tuple[States, np.ndarray]:  # fmt: skip
    """All lanes: their states, and how each ended; those of many harmonics are shot at first, and those that are known
    exactly stay."""
    _ = system.static, system.dynamic
    frequencies = tones.frequencies(hertz)

    def one(lane: int, before: Neighbour | None) -> tuple[LaneState | None, Neighbour | None]:
        circuit = LaneCircuit(system, lane, tolerances, job.flag)
        sources = excitation(system, lane, tones, hertz)[:, 1:]
        rest = np.zeros((len(tones), circuit.size), complex)
        rest[0] = point.kept[lane, 0]
        past = () if before is None else (*before.before, before)
        own, matrix = known[lane], None
        if exact and own is not None and len(own.balanced.tones) == len(tones):
            same = replace(own, system=system)
            return same, Neighbour(same, sources, None, past).handed()
        if many:
            state = _driven(circuit, hertz, len(tones) - 1, job)
            if state is not None:
                return state, Neighbour(state, sources, None)
        begins: list[Begin] = []
        likely = None
        if own is not None:
            begins = [Begin(padded(own.balanced.phasors, len(tones)), sources)]
        elif before is not None:
            begins, matrix, likely = before.begins(sources), before.matrix, before.state.balanced.tones
        equations = Balance(circuit, tones, frequencies, sources, matrix=matrix, likely=likely)
        try:
            state = LaneState(system, lane, tolerances, equations.solve(begins, rest), hertz)
        except StoppedError:
            return None, None
        except NotBalancedError as error:
            failures[lane] = error
            return None, None
        return state, Neighbour(state, sources, equations.matrix, past).handed()

    return each_lane(point, job, one, many)


def _driven(
    circuit: LaneCircuit, hertz: np.ndarray, harmonics: int | None, job: Job
) -> LaneState | None:  # fmt: skip
    """A lane by shooting; None where that does not come down. It begins by itself: what drives it brings it there sooner than
    a neighbour would."""
    try:
        balanced = driven(circuit, hertz, harmonics, job)
    except (np.linalg.LinAlgError, StoppedError):
        return None
    return LaneState(circuit.system, circuit.lane, circuit.tolerances, balanced, hertz)


def _said(
    states: States, system: System, hertz: np.ndarray, found: bool, harmonics: int
) -> tuple[list[str], list[str]]:
    """For the log, and what a person must know."""
    every = [one.balanced for one in states if one is not None]
    shot = [one.shot for one in every if one.shot is not None]
    log = []
    if shot:
        log.append(said_of_shots(shot, len(states)))
    solved = [one for one in every if one.shot is None]
    if not solved:
        return log, []
    balanced = tuple(one for one in states if one is not None and one.balanced.shot is None)
    samples = max((one.tones.samples for one in solved), key=lambda s: s[0])
    rest = max(one.rest for one in solved)
    log.append(f"{' × '.join(str(n) for n in samples)} samples a period; {rest:.1g} of the currents lies beyond them")
    if found:
        log.append(
            f"{harmonics} harmonics, the last two under {max(tail_of(balanced, system.net_count), 1e-16):.1g} of the largest"
        )
    raised = sum(one.shares > 0 for one in solved)
    if raised:
        log.append(f"{raised} of {len(states)} lanes: sources raised step by step")
    notes = system.beyond(solved[0].tones.frequencies(hertz)[1:]) if len(solved[0].tones) > 1 else []
    if found and tail_of(balanced, system.net_count) > TAIL:
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
