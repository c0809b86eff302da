"""Oscillations of all lanes on all processors, from the drawing alone, and the noise of their phase."""

from __future__ import annotations

import time
from contextlib import suppress
from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.engine.job import Job
from hearthline.core.engine.noise_sources import noise_sources
from hearthline.core.engine.periodic.balance import Balanced
from hearthline.core.engine.periodic.circuit import LaneCircuit, StoppedError
from hearthline.core.engine.periodic.following import can_be_followed, evened, said_of_shots, sampled, shot_again, swung
from hearthline.core.engine.periodic.lanes import FIRST_HARMONICS, hopeless
from hearthline.core.engine.periodic.oscillation import NoOscillationError, Oscillator, Standing, UnlimitedError
from hearthline.core.engine.periodic.sensitivity import Acting, Sensitivity, acting, phase_noise, sensitivity_of
from hearthline.core.engine.periodic.settling import settled
from hearthline.core.engine.periodic.start import Pole, poles_at
from hearthline.core.engine.periodic.startup import startup
from hearthline.core.engine.periodic.states import (
    TAIL,
    LaneState,
    Periodic,
    each_lane,
    run_shares,
    tail,
    tail_of,
    without_point,
)
from hearthline.core.engine.periodic.tones import Tones, one_tone, padded
from hearthline.core.engine.small_signal import DEFAULT
from hearthline.core.engine.solve import Solution, SourceSweep, Tolerances, solve
from hearthline.core.engine.system import System
from hearthline.core.errors import ConvergenceError
from hearthline.core.quantity import write
from hearthline.core.workers import worker_count

STEEP = 2e-2
"""Share of the loudest net's swing that the last of a few harmonics are, where it will take very many."""
MOST_HARMONICS = 64
"""That a balance has where their number is found."""
CUT = 2e-3
"""Share of the loudest net's swing that the last two harmonics are, from which on a number of harmonics that was given is not
enough to go by; who gives fewer than FIRST_HARMONICS wants them whatever they are."""


@dataclass(frozen=True)
class Wanted:
    """An oscillation that is sought: near a frequency [Hz], or wherever it grows fastest; with so many harmonics, or as many as
    it takes."""

    near: float | None = None
    harmonics: int | None = None


def oscillate(
    system: System, wanted: Wanted, tolerances: Tolerances = DEFAULT, job: Job | None = None, near: Periodic | None = None
) -> Periodic:  # fmt: skip
    """The oscillation of every lane, from states `near` of the same lanes where there are some; a lane that has none fails, and
    says why."""
    begin, job = time.perf_counter(), job or Job()
    point = solve(system, SourceSweep(), tolerances, None, (), job)
    harmonics, before = wanted.harmonics or FIRST_HARMONICS, np.inf
    known: list[LaneState | None] = [None] * len(system.lanes) if near is None else list(near.on(system))
    while True:
        states, outcomes, failures = _each(system, point, wanted, one_tone(harmonics), tolerances, job, known)
        rough = tail_of(tuple(one for one in states if one is not None and one.balanced.shot is None), system.net_count)
        done = wanted.harmonics is not None or job.stopped or rough <= TAIL
        if done or hopeless(rough, before, harmonics, MOST_HARMONICS):
            break
        harmonics, known, before = 2 * harmonics, list(states), rough
    if wanted.harmonics is None and rough > TAIL:
        states = _all_shot(system, states, job)
    states = evened(states)
    failures |= without_point(point)
    found = [one.balanced for one in states if one is not None]
    shots = [one.shot for one in found if one.shot is not None]
    plain = next((one.tones for one in found if one.shot is None), None)
    log = [f"{len(plain) - 1} harmonics, {plain.count} samples a period"] if plain is not None else []
    log += [said_of_shots(shots, len(states))] if shots else []
    notes = [f"{name} does not move here: it is at its direct value" for name in system.waves]
    seconds = time.perf_counter() - begin
    return Periodic(system, point, states, outcomes, failures, (*point.log(), *log), seconds, (*point.notes(), *notes))


def _each(
    system: System, point: Solution, wanted: Wanted, tones: Tones, tolerances: Tolerances, job: Job,
    known: list[LaneState | None],
) -> tuple[tuple[LaneState | None, ...], np.ndarray, dict[int, ConvergenceError]]:  # fmt: skip
    _ = system.static, system.dynamic
    failures: dict[int, ConvergenceError] = {}

    def one(lane: int, before: LaneState | None) -> tuple[LaneState | None, LaneState | None]:
        circuit, rest = LaneCircuit(system, lane, tolerances, job.flag), point.kept[lane, 0]
        near = known[lane] or before
        grid = near.balanced.tones if near is not None and len(near.balanced.tones) == len(tones) else tones
        try:
            poles = poles_at(system, lane, rest)
            oscillator = Oscillator(circuit, grid, rest, _pole_of(_growing(poles), wanted.near))
            balanced, frequency = _found(oscillator, poles, wanted.harmonics, near, job)
        except StoppedError:
            return None, None
        except NoOscillationError as error:
            failures[lane] = ConvergenceError(str(error))
            return None, None
        except np.linalg.LinAlgError as error:
            message = f"no oscillation was found: the balance about it {error}; take more harmonics"
            failures[lane] = ConvergenceError(message)
            return None, None
        begins = startup(system, lane, rest, oscillator.pole, tolerances)
        state = LaneState(system, lane, tolerances, balanced, np.array([frequency]), begins)
        return state, state

    states, outcomes = each_lane(point, job, one)
    return states, outcomes, failures


def _found(
    oscillator: Oscillator, poles: list[Pole], harmonics: int | None, near: LaneState | None, job: Job
) -> tuple[Balanced, float]:  # fmt: skip
    """By rising amplitude where the pole swings, else, and where that leads nowhere, in time. Raises NoOscillationError or
    LinAlgError."""
    problem: Exception = NoOscillationError("no oscillation: the operating point is left, for another one that stands")
    circuit, tones = oscillator.circuit, oscillator.tones
    if near is not None and near.balanced.shot is not None:
        try:
            return shot_again(circuit, near.balanced.shot, harmonics)
        except np.linalg.LinAlgError:
            near = None
    if oscillator.pole.swings or near is not None:
        try:
            balanced, frequency = _balanced(oscillator, _standing(near, len(tones)), harmonics)
            given = harmonics is not None and harmonics >= FIRST_HARMONICS
            if given and _end_of_loudest(balanced.phasors, circuit.system.net_count) > CUT:
                return _shot(circuit, balanced, frequency, harmonics)
            return balanced, frequency
        except UnlimitedError:
            raise
        except (NoOscillationError, np.linalg.LinAlgError) as error:
            problem = error
    state = settled(circuit.system, circuit.lane, oscillator.rest, poles, circuit.tolerances, job)
    if state is None:
        raise problem
    try:
        if can_be_followed(circuit.system):
            return swung(circuit, state, harmonics)
        return oscillator.stand(state.phasors(tones), state.frequency)
    except np.linalg.LinAlgError:
        raise NoOscillationError(
            f"it swings in time at {write(state.frequency, 'Hz', 4)}, and no periodic state was found there; a transient "
            "follows it"
        ) from None


def _end_of_loudest(phasors: np.ndarray, nets: int) -> float:
    """How much of the net that swings most is in its last two harmonics: the others follow it."""
    loudest = int(np.argmax(np.abs(phasors[1, :nets])))
    return tail(phasors[:, loudest : loudest + 1], 1)


def _balanced(oscillator: Oscillator, near: Standing | None, harmonics: int | None) -> tuple[Balanced, float]:
    """By harmonics, or by shooting, where few of them show that it has many. Raises NoOscillationError and LinAlgError."""
    if near is not None:
        return oscillator.solve(near)
    few = oscillator.risen()
    if harmonics is not None and harmonics < FIRST_HARMONICS:
        return oscillator.finished(few)
    if harmonics != FIRST_HARMONICS:
        few = oscillator.with_harmonics(few, FIRST_HARMONICS)
    circuit = oscillator.circuit
    if _end_of_loudest(few.phasors, circuit.system.net_count) > STEEP and can_be_followed(circuit.system):
        rough = Balanced(few.phasors, one_tone(len(few.phasors) - 1), oscillator.iterations, 0, few.rest)
        with suppress(np.linalg.LinAlgError):
            return swung(circuit, sampled(rough, few.frequency), harmonics)
    return oscillator.finished(few)


def _shot(
    circuit: LaneCircuit, balanced: Balanced, frequency: float, harmonics: int | None
) -> tuple[Balanced, float]:  # fmt: skip
    """A balance whose harmonics are not enough, by shooting where that can be."""
    if can_be_followed(circuit.system):
        with suppress(np.linalg.LinAlgError):
            return swung(circuit, sampled(balanced, frequency), harmonics)
    return balanced, frequency


def _all_shot(system: System, states: tuple[LaneState | None, ...], job: Job) -> tuple[LaneState | None, ...]:
    """With those shot at whose harmonics are not enough."""
    found = list(states)

    def work(lane: int) -> None:
        state = states[lane]
        if state is not None and not job.stopped:
            balanced, frequency = _shot(state.circuit, state.balanced, float(state.hertz[0]), None)
            found[lane] = replace(state, balanced=balanced, hertz=np.array([frequency]))

    short = [k for k, one in enumerate(states) if one is not None and one.balanced.shot is None]
    run_shares(work, [k for k in short if tail_of((states[k],), system.net_count) > TAIL], job.workers)
    return tuple(found)


def _standing(state: LaneState | None, products: int) -> Standing | None:
    if state is None:
        return None
    return Standing(padded(state.balanced.phasors, products), 2j * np.pi * float(state.hertz[0]))


def _growing(poles: list[Pole]) -> list[Pole]:
    """Those that grow. Raises NoOscillationError where there is none."""
    found = [one for one in poles if one.s.real > 0]
    if not found:
        raise NoOscillationError(_at_rest([one for one in poles if one.swings]))
    return found


def _pole_of(growing: list[Pole], near: float | None) -> Pole:
    """The pole that grows fastest, or the one nearest to a frequency; one that swings where there is one."""
    swinging = [one for one in growing if one.swings]
    if near is None or not swinging:
        return (swinging or growing)[0]
    return min(swinging, key=lambda one: abs(np.log(one.frequency / near)))


def _at_rest(poles: list[Pole]) -> str:
    if not poles:
        return (
            "no oscillation: the operating point has no pole that swings; look for what should store energy, such as an "
            "inductor and a capacitor, or charges of the devices"
        )
    least = min(poles, key=lambda one: one.damping)
    return (
        f"no oscillation: no pole of the operating point grows; nearest to it is that at {write(least.frequency, 'Hz', 4)}, "
        f"which dies away by {-least.s.real:.3g} 1/s (damping {least.damping:.3g}); its losses need more gain"
    )


def sensitivities(found: Periodic) -> list[Sensitivity | None]:
    """Of the phase of each lane's oscillation; found once, on all processors."""
    known: dict[int, Sensitivity] = found.remembered
    if not known:

        def work(lane: int) -> None:
            state = found.states[lane]
            if state is not None:
                known[lane] = sensitivity_of(state)

        run_shares(work, list(range(len(found.states))), worker_count())
    return [known.get(lane) for lane in range(len(found.states))]


@dataclass(frozen=True)
class PhaseNoise:
    """Single sideband over carrier at offsets (points,) [Hz], by each of `sources`: (lanes, points, sources) [1/Hz]; and how
    each acts along the period of a lane."""

    oscillation: Periodic
    offsets: np.ndarray
    sources: tuple[str, ...]
    each: np.ndarray
    acting: tuple[Acting | None, ...]


def phase_noise_of(found: Periodic, offsets: np.ndarray) -> PhaseNoise:
    """Of every lane's oscillation."""
    sources = noise_sources(found.system)
    each = np.full((len(found.states), len(offsets), len(sources.names)), np.nan)
    acts: list[Acting | None] = []
    for lane, (state, shift) in enumerate(zip(found.states, sensitivities(found), strict=True)):
        act = None
        if state is not None and shift is not None:
            act = acting(state, sources, shift)
            each[lane] = phase_noise(state, sources, shift, act, offsets)
        acts.append(act)
    return PhaseNoise(found, offsets, sources.names, each, tuple(acts))
