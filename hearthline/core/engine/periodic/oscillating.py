"""Oscillations of all lanes on all processors, from the drawing alone, and the noise of their phase."""

from __future__ import annotations

import time
from dataclasses import dataclass

import numpy as np

from hearthline.core.engine.job import Job
from hearthline.core.engine.noise_sources import noise_sources
from hearthline.core.engine.periodic.balance import Balanced
from hearthline.core.engine.periodic.circuit import LaneCircuit, StoppedError
from hearthline.core.engine.periodic.lanes import (
    FIRST_HARMONICS,
    TAIL,
    LaneState,
    Periodic,
    ended,
    run_shares,
    shares_of,
    tail_of,
)
from hearthline.core.engine.periodic.oscillation import NoOscillationError, Oscillator, Standing, UnlimitedError
from hearthline.core.engine.periodic.sensitivity import Sensitivity, phase_noise, sensitivity_of
from hearthline.core.engine.periodic.settling import settled
from hearthline.core.engine.periodic.start import Pole, poles_at
from hearthline.core.engine.periodic.tones import Tones, one_tone, padded
from hearthline.core.engine.small_signal import DEFAULT
from hearthline.core.engine.solve import Solution, SourceSweep, Tolerances, solve
from hearthline.core.engine.system import System
from hearthline.core.errors import ConvergenceError
from hearthline.core.outcome import Outcome
from hearthline.core.quantity import write

MOST_HARMONICS = 128


@dataclass(frozen=True)
class Wanted:
    """An oscillation that is sought: near a frequency [Hz], or wherever it grows fastest; with so many harmonics, or as many as
    it takes."""

    near: float | None = None
    harmonics: int | None = None


def oscillate(
    system: System, wanted: Wanted, tolerances: Tolerances = DEFAULT, job: Job | None = None
) -> Periodic:  # fmt: skip
    """The oscillation of every lane; a lane that has none fails, and says why."""
    begin, job = time.perf_counter(), job or Job()
    point = solve(system, SourceSweep(), tolerances, None, (), job)
    harmonics = wanted.harmonics or FIRST_HARMONICS
    known: list[LaneState | None] = [None] * len(system.lanes)
    while True:
        states, outcomes, failures = _each(system, point, wanted, one_tone(harmonics), tolerances, job, known)
        enough = wanted.harmonics is not None or tail_of(states, system.net_count) <= TAIL
        if enough or job.stopped or harmonics >= MOST_HARMONICS:
            break
        harmonics, known = 2 * harmonics, list(states)
    for lane in np.flatnonzero((point.outcomes[:, 0] != Outcome.SOLVED) & (point.outcomes[:, 0] != Outcome.STOPPED)):
        failures[int(lane)] = point.failure(int(lane))
    found = [one for one in states if one is not None]
    log = [f"{harmonics} harmonics, {max(one.balanced.tones.count for one in found)} samples a period"] if found else []
    notes = [f"{name} does not move here: it is at its direct value" for name in system.waves]
    seconds = time.perf_counter() - begin
    return Periodic(system, point, states, outcomes, failures, (*point.log(), *log), seconds, (*point.notes(), *notes))


def _each(
    system: System, point: Solution, wanted: Wanted, tones: Tones, tolerances: Tolerances, job: Job,
    known: list[LaneState | None],
) -> tuple[tuple[LaneState | None, ...], np.ndarray, dict[int, ConvergenceError]]:  # fmt: skip
    _ = system.static, system.dynamic
    outcomes, failures = point.outcomes[:, 0].copy(), {}
    states: list[LaneState | None] = [None] * len(system.lanes)
    shares = shares_of(len(system.lanes))
    job.begin(len(system.lanes), len(shares))

    def one(lane: int, before: LaneState | None) -> LaneState | None:
        circuit, rest = LaneCircuit(system, lane, tolerances, job.flag), point.kept[lane, 0]
        near = known[lane] or before
        grid = near.balanced.tones if near is not None and len(near.balanced.tones) == len(tones) else tones
        try:
            growing = _growing(poles_at(system, lane, rest))
            oscillator = Oscillator(circuit, grid, rest, _pole_of(growing, wanted.near))
            balanced, frequency = _found(oscillator, growing, _standing(near, len(tones)), job)
        except StoppedError:
            return None
        except NoOscillationError as error:
            failures[lane] = ConvergenceError(str(error))
            return None
        except np.linalg.LinAlgError as error:
            message = f"no oscillation was found: the balance about it {error}; take more harmonics"
            failures[lane] = ConvergenceError(message)
            return None
        return LaneState(system, lane, tolerances, balanced, np.array([frequency]))

    def work(task: tuple[int, np.ndarray]) -> None:
        share, lanes = task
        before = None
        for lane in lanes:
            if job.stopped:
                outcomes[lane] = Outcome.STOPPED
            elif outcomes[lane] == Outcome.SOLVED:
                states[lane] = before = one(int(lane), before)
                outcomes[lane] = ended(before, job)
            job.progress[share] += 1

    run_shares(work, list(enumerate(shares)), job.workers)
    return tuple(states), outcomes, failures


def _standing(state: LaneState | None, products: int) -> Standing | None:
    if state is None:
        return None
    return Standing(padded(state.balanced.phasors, products), 2j * np.pi * float(state.hertz[0]))


def _found(
    oscillator: Oscillator, growing: list[Pole], near: Standing | None, job: Job
) -> tuple[Balanced, float]:  # fmt: skip
    """By rising amplitude where the pole swings, else, and where that leads nowhere, in time. Raises NoOscillationError or
    LinAlgError."""
    problem: Exception = NoOscillationError("no oscillation: the operating point is left, for another one that stands")
    if oscillator.pole.swings or near is not None:
        try:
            return oscillator.solve(near)
        except UnlimitedError:
            raise
        except (NoOscillationError, np.linalg.LinAlgError) as error:
            problem = error
    circuit, tones = oscillator.circuit, oscillator.tones
    state = settled(circuit.system, circuit.lane, oscillator.rest, growing, tones, circuit.tolerances, job)
    if state is None:
        raise problem
    try:
        return oscillator.stand(state[0], state[1])
    except np.linalg.LinAlgError:
        raise NoOscillationError(
            f"it swings in time at {write(state[1], 'Hz', 4)}, and {len(tones) - 1} harmonics do not hold it: its edges are "
            "too steep for them; take more, or a transient"
        ) from None


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
    """Of the phase of each lane's oscillation."""
    return [
        None
        if one is None
        else sensitivity_of(one.circuit, one.balanced.tones, one.balanced.phasors, float(one.hertz[0]))
        for one in found.states
    ]


@dataclass(frozen=True)
class PhaseNoise:
    """Single sideband over carrier at offsets (points,) [Hz], by each of `sources`: (lanes, points, sources) [1/Hz]."""

    oscillation: Periodic
    offsets: np.ndarray
    sources: tuple[str, ...]
    each: np.ndarray


def phase_noise_of(found: Periodic, offsets: np.ndarray) -> PhaseNoise:
    """Of every lane's oscillation."""
    sources = noise_sources(found.system)
    each = np.full((len(found.states), len(offsets), len(sources.names)), np.nan)
    for lane, (state, shift) in enumerate(zip(found.states, sensitivities(found), strict=True)):
        if state is not None and shift is not None:
            here = state.balanced.tones, state.balanced.phasors, float(state.hertz[0])
            each[lane] = phase_noise(state.circuit, sources, here, shift, offsets)
    return PhaseNoise(found, offsets, sources.names, each)
