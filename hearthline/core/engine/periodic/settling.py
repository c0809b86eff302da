"""An oscillation found by following the circuit in time until it repeats: for those whose poles grow without swinging, as of a
relaxation oscillator, and those that cannot be climbed to."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import one_lane
from hearthline.core.engine.periodic.circuit import StoppedError
from hearthline.core.engine.periodic.start import Pole
from hearthline.core.engine.periodic.tones import Tones
from hearthline.core.engine.solve import Tolerances
from hearthline.core.engine.system import System
from hearthline.core.engine.transient.run import Times, Track, transient

KICK = 0.1
"""Of the largest voltage, by which the circuit is moved away from rest: far enough that no large step damps its growth."""
SPAN, SPANS, GROWTHS, SLOW = 4.0, 4, 30.0, 100.0
"""How much longer the time is made, and how often at least; how many times of growth it is to begin with; and of the slowest
pole, up to how many there may be."""
STEPS = 400
"""That are taken at least; edges take as many as they need."""
LEAST_ROWS, MOST_ROWS = 8, 300_000
"""Of a stretch of time that says anything, and that one may wait for."""
ALIKE = 3e-3
"""Share by which periods in a row may differ and be the same."""
STEADY = 1e-3
"""Share by which peaks in a row may differ."""
LEAST_SWING = 1e-2
"""[V] That repeat, for it to be an oscillation."""


@dataclass(frozen=True)
class Settled:
    """Moments of a period (moments,), as shares of it, values at them (moments, unknowns), and its frequency [Hz]."""

    shares: np.ndarray
    values: np.ndarray
    frequency: float

    def phasors(self, tones: Tones) -> np.ndarray:
        """(products, unknowns)"""
        at = np.arange(tones.count) / tones.count
        return tones.to_phasors(np.stack([np.interp(at, self.shares, column) for column in self.values.T], axis=1))


def settled(
    system: System, lane: int, rest: np.ndarray, poles: list[Pole], tolerances: Tolerances, job: Job
) -> Settled | None:  # fmt: skip
    """What the circuit comes to from beside its operating point, from where its loudest net rises through its middle; None
    where it comes to nothing that repeats. Raises StoppedError."""
    growing = [one for one in poles if one.s.real > 0]
    slowest = min(one.s.real for one in growing)
    longest = max(GROWTHS / slowest * SPAN**SPANS, SLOW / min(abs(one.s) for one in poles))
    nets = system.net_count
    first = growing[0]
    shape = (first.shape / first.shape[int(np.argmax(np.abs(first.shape[:nets])))]).real
    size = KICK * max(float(np.abs(rest[:nets]).max(initial=0.0)), 1.0)
    begin = np.concatenate([[0.0], rest + size * shape])
    alone = replace(
        system, lanes=one_lane(system.lanes, lane), values=system.values[lane : lane + 1],
        guesses=system.guesses[lane : lane + 1], waves={}, initial=begin[None, :], held=1 + np.arange(nets),
    )  # fmt: skip
    stop = GROWTHS / slowest
    while stop <= longest:
        rows = marched(alone, Times(stop / STEPS, stop, 0.0, stop / STEPS, given=True, rel=1e-4), tolerances, job)
        rows = rows[rows[:, 0] >= 0.5 * stop]
        if len(rows) < LEAST_ROWS or not np.isfinite(rows).all():
            return None
        found = _period(rows, nets)
        if found is not None:
            return _cut(rows, *found)
        stop *= SPAN
    return None


def marched(
    alone: System, times: Times, tolerances: Tolerances, asked: Job, most: int = MOST_ROWS
) -> np.ndarray:  # fmt: skip
    """Accepted steps, as many as one may wait for. Raises StoppedError."""
    job, pieces = Job(1), [np.zeros((0, 1 + len(alone.unknowns)))]

    def keep(track: Track, piece: np.ndarray) -> None:
        pieces.append(piece.copy())
        if asked.stopped or sum(len(one) for one in pieces) > most:
            job.stop()

    transient(alone, times, tolerances, job=job, keeper=keep)
    if asked.stopped:
        raise StoppedError
    return np.concatenate(pieces)


def _period(rows: np.ndarray, nets: int) -> tuple[float, float] | None:
    """Begin and end of the last whole period, where the last three are alike."""
    time, volts = rows[:, 0], rows[:, 1 : 1 + nets]
    swing = volts.max(axis=0) - volts.min(axis=0)
    loudest = int(np.argmax(swing))
    if swing[loudest] < LEAST_SWING:
        return None
    v = volts[:, loudest] - 0.5 * (volts[:, loudest].max() + volts[:, loudest].min())
    k = np.flatnonzero((v[:-1] < 0) & (v[1:] >= 0))
    passings = time[k] - v[k] * (time[k + 1] - time[k]) / (v[k + 1] - v[k])
    gaps = np.diff(passings)
    if len(gaps) < 3 or np.ptp(gaps[-3:]) > ALIKE * gaps[-1]:
        return None
    sizes = [
        v[(time >= a) & (time < b)].max(initial=-np.inf) for a, b in zip(passings[-4:-1], passings[-3:], strict=True)
    ]
    if not np.ptp(sizes) <= STEADY * max(sizes):
        return None
    return float(passings[-2]), float(passings[-1])


def _cut(rows: np.ndarray, begin: float, end: float) -> Settled:
    """One period of rows, with its ends."""
    inside = rows[(rows[:, 0] > begin) & (rows[:, 0] < end)]
    ends = [np.array([np.interp(moment, rows[:, 0], column) for column in rows.T]) for moment in (begin, end)]
    whole = np.vstack([ends[0], inside, ends[1]])
    return Settled((whole[:, 0] - begin) / (end - begin), whole[:, 1:], 1.0 / (end - begin))
