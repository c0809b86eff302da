"""A driven circuit followed in time for some periods: where shooting begins, and where steps are short."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import one_lane
from hearthline.core.engine.on_die import HEAT
from hearthline.core.engine.periodic.balance import Balanced
from hearthline.core.engine.periodic.circuit import LaneCircuit
from hearthline.core.engine.periodic.course import NEAR, Course, edges_of
from hearthline.core.engine.periodic.excitation import breaks, driving, powers_of
from hearthline.core.engine.periodic.oscillation import ALIKE
from hearthline.core.engine.periodic.settling import Settled, marched
from hearthline.core.engine.periodic.shooting import MOST_UNKNOWNS, Shooting, Shot
from hearthline.core.engine.periodic.states import TAIL, LaneState
from hearthline.core.engine.periodic.tones import one_tone
from hearthline.core.engine.system import System
from hearthline.core.engine.transient.run import Times
from hearthline.core.engine.transient.waves import SIN, WaveInLanes

PERIODS = (2, 10, 50, 250)
"""That are followed before it is tried, one after the other."""
STEPS, BEGIN, SAMPLES = 100, 100, 400
"""A period at least, and about how many shooting begins with; and samples of a balance."""
ROUGH, MOST_ROWS = 1e-4, 20_000
"""Error of a step; and steps a period that one may wait for."""
FEWEST, MOST_HARMONICS = 8, 512
"""Harmonics that are given."""


def shot_of(circuit: LaneCircuit, hertz: np.ndarray, job: Job) -> Shot:
    """The periodic state of a circuit under one tone [Hz], from its operating point. Raises LinAlgError where it does not come
    down, or cannot be followed so, and StoppedError."""
    system, lane, period = circuit.system, circuit.lane, 1.0 / float(hertz[0])
    sources = driving(system, lane, hertz)
    alone = replace(
        system, lanes=one_lane(system.lanes, lane), values=system.values[lane : lane + 1],
        guesses=system.guesses[lane : lane + 1], waves=_waves(system, lane, hertz),
    )  # fmt: skip
    problem: Exception = np.linalg.LinAlgError("could not be followed in time")
    for periods in PERIODS:
        begin = _begin(circuit, alone, period, periods, job)
        if begin is None:
            break
        try:
            return Shooting(circuit, sources).solve(begin, period)
        except np.linalg.LinAlgError as error:
            problem = error
    raise problem


def driven(circuit: LaneCircuit, hertz: np.ndarray, harmonics: int | None, job: Job) -> Balanced:
    """The same by its phasors: so many harmonics, or as many as it takes. Raises LinAlgError and StoppedError."""
    return _balanced(shot_of(circuit, hertz, job), harmonics, circuit.system.net_count)


def swung(circuit: LaneCircuit, near: Settled, harmonics: int | None) -> tuple[Balanced, float]:
    """An oscillation from one that was followed in time, with its frequency [Hz]. Raises LinAlgError."""
    held = np.arange(circuit.size) < circuit.system.net_count
    course = course_from(near.shares, near.values, edges_of(near.shares, np.zeros(0), BEGIN), held)
    return _standing(circuit, course, 1.0 / near.frequency, harmonics)


def sampled(balanced: Balanced, frequency: float) -> Settled:
    """A balance along its period, as if it had been followed in time."""
    values = balanced.samples(SAMPLES)
    return Settled(np.arange(SAMPLES + 1) / SAMPLES, np.vstack([values, values[:1]]), frequency)


def shot_again(circuit: LaneCircuit, near: Shot, harmonics: int | None) -> tuple[Balanced, float]:
    """An oscillation from that of a neighbour. Raises LinAlgError."""
    edges = near.course.edges
    return _standing(circuit, near.course.on(np.append(edges[:-1:2], 1.0)), near.period, harmonics)


def _standing(circuit: LaneCircuit, course: Course, period: float, harmonics: int | None) -> tuple[Balanced, float]:
    nets = circuit.system.net_count
    shot = Shooting(circuit).solve(course, period)
    first = shot.course.phasors(1)[1, :nets]
    size = np.abs(first)
    loudest = first[int(np.flatnonzero(size >= ALIKE * size.max())[0])]
    begin = (shot.course.begin - float(np.angle(loudest)) / (2.0 * np.pi)) % 1.0
    shot = replace(shot, course=replace(shot.course, begin=begin))
    return _balanced(shot, harmonics, nets), 1.0 / shot.period


def said_of_shots(shots: Sequence[Shot], lanes: int) -> str:
    """For the log."""
    steps = max(len(one.course.values) for one in shots)
    moved = max(one.moved for one in shots)
    return f"{len(shots)} of {lanes} lanes: shot at, with up to {steps} steps a period; halved, they moved it by {moved:.1g}"


def evened(states: tuple[LaneState | None, ...]) -> tuple[LaneState | None, ...]:
    """With as many harmonics as any has, in all that were shot."""
    most = max((len(one.balanced.tones) for one in states if one is not None), default=1) - 1
    found = list(states)
    for k, one in enumerate(states):
        if one is not None and one.balanced.shot is not None and len(one.balanced.tones) <= most:
            balanced = _balanced(one.balanced.shot, most, one.system.net_count)
            found[k] = replace(one, balanced=balanced)
    return tuple(found)


def _balanced(shot: Shot, harmonics: int | None, nets: int) -> Balanced:
    phasors = shot.course.phasors(harmonics or MOST_HARMONICS)
    if harmonics is None:
        phasors = phasors[: _enough(np.abs(phasors[1:, :nets])) + 1]
    return Balanced(phasors, one_tone(len(phasors) - 1), shot.iterations, 0, shot.moved, shot)


def _enough(size: np.ndarray) -> int:
    """How many harmonics leave little beyond them."""
    count = FEWEST
    while count < len(size) and size[count - 2 : count].max() > TAIL * size.max(initial=0.0):
        count *= 2
    return count


def can_be_followed(system: System) -> bool:
    """Whether all of a system can be: it is not too large, nothing is known over frequency alone, and no temperature in it goes
    with the mean of its powers."""
    slow = any(one.name.endswith(HEAT) for one in system.unknowns)
    return len(system.unknowns) <= MOST_UNKNOWNS and not slow and not system.dispersion(0, np.ones(1)).entries.size


def _waves(system: System, lane: int, hertz: np.ndarray) -> dict[str, WaveInLanes]:
    """Of one lane; those of ports are cosines."""
    found = {name: replace(one, numbers=one.numbers[lane : lane + 1]) for name, one in system.waves.items()}
    for name, watts, resistance in powers_of(system, lane):
        size = np.sqrt(8.0 * watts[0] * resistance)
        found[name] = WaveInLanes(SIN, np.array([[0.0, size, hertz[0], 0.0, 0.0, 90.0]]))
    return found


def _begin(circuit: LaneCircuit, alone: System, period: float, periods: int, job: Job) -> Course | None:
    """The last of so many periods; None where the march did not come there."""
    stop = periods * period
    times = Times(1e-3 * period, stop, 0.0, period / STEPS, rel=ROUGH)
    rows = marched(alone, times, circuit.tolerances, job, MOST_ROWS * periods)
    rows = rows[rows[:, 0] >= stop - period * (1.0 + NEAR)]
    if not len(rows) or not np.isfinite(rows).all() or rows[-1, 0] < stop * (1.0 - 1e-9):
        return None
    share = (rows[:, 0] - (stop - period)) / period
    held = np.arange(circuit.size) < circuit.system.net_count
    edges = edges_of(share, breaks(alone, 0, period), BEGIN)
    return course_from(share, rows[:, 1:], edges, held)


def course_from(share: np.ndarray, rows: np.ndarray, edges: np.ndarray, held: np.ndarray) -> Course:
    """On steps between edges, straight between rows (moments, unknowns) at shares of the period."""
    empty = Course(edges, np.zeros((len(edges) - 1, 3, 0)), held)
    moments = empty.moments.ravel()
    values = np.stack([np.interp(moments, share, column) for column in rows.T], axis=1)
    return replace(empty, values=values.reshape(len(edges) - 1, 3, -1))
