"""A circuit in one lane as a balance sees it: what it does along a period, by products of the tones."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hearthline.core.compiled.codes import F, Words
from hearthline.core.elements.device import Dispersion
from hearthline.core.engine.kernels.periodic import evaluated_at
from hearthline.core.engine.kernels.small_signal import readouts_at
from hearthline.core.engine.periodic.tones import Tones
from hearthline.core.engine.side_by_side import SIDE_BY_SIDE
from hearthline.core.engine.solve import Tolerances
from hearthline.core.engine.system import System
from hearthline.core.engine.worker import CIRCUIT, FLOW_PLACE, MEMORY, MEMORY_PLACE, new_memory
from hearthline.core.models.signature import LIMIT, TRUST

ALIASED = 1e-6
"""Share of the largest current that may lie beyond what the samples tell apart."""
STRAIGHT = 1e-13
"""Share by which a slope may move along a period and be taken for one that does not."""


@dataclass(frozen=True)
class Along:
    """What was found along a period: phasors (products, unknowns) of the currents out of each net and of the charges there;
    slopes of both (samples, entries) as values of the matrix's entries; how many devices were `limited`; and how much of the
    currents lies beyond what the grid tells apart."""

    flows: np.ndarray
    charges: np.ndarray
    slopes: np.ndarray
    capacitances: np.ndarray
    limited: int
    rest: float

    @cached_property
    def bent(self) -> np.ndarray:
        """The entries that change along the period."""
        found = np.zeros(self.slopes.shape[1], bool)
        for one in (self.slopes, self.capacitances):
            low, high = one.min(axis=0), one.max(axis=0)
            found |= high - low > STRAIGHT * np.maximum(np.abs(low), np.abs(high))
        return np.flatnonzero(found)


@dataclass(frozen=True)
class Evaluated:
    """The circuit at points: currents out of each net, and behind them charges there (points, 2 unknowns), slopes of both as
    values of the matrix's entries (points, entries), and how many devices were `limited`."""

    both: np.ndarray
    slopes: np.ndarray
    capacitances: np.ndarray
    limited: int

    @property
    def flows(self) -> np.ndarray:
        """Currents (points, unknowns)."""
        return self.both[:, : self.both.shape[1] // 2]

    @property
    def charges(self) -> np.ndarray:
        """Charges (points, unknowns)."""
        return self.both[:, self.both.shape[1] // 2 :]


class StoppedError(Exception):
    """Somebody asked for the end."""


class LaneCircuit:
    """A circuit in a lane; it remembers the limits of its devices from one evaluation to the next. Where `flag` is set it goes
    no further."""

    def __init__(self, system: System, lane: int, tolerances: Tolerances, flag: np.ndarray | None = None):
        self.system, self.lane, self.tolerances = system, lane, tolerances
        self.pattern, self.arrays = system.dynamic
        self.size = len(system.unknowns)
        self.memory = new_memory(self.arrays, self.pattern)
        self.flag = np.zeros(1, np.int64) if flag is None else flag
        self.rows = np.asarray(self.pattern.rows)
        self.columns = np.repeat(self.pattern.order, np.diff(self.pattern.starts))
        self._remembered = np.zeros((0, 0))
        self.evaluations = 0

    @cached_property
    def _held(self) -> tuple[Words, ...]:
        """What every evaluation is handed: the circuit several times over, once, room for that, and tolerances."""
        copies = self.system.copies
        room = new_memory(copies.circuit, self.pattern)
        return (
            Words.of(SIDE_BY_SIDE, copies), Words.of(CIRCUIT, self.arrays), Words.of(MEMORY, room),
            Words.of(F, self.tolerances.array()),
        )  # fmt: skip

    def trust(self) -> None:
        """The next evaluation takes its points as they are."""
        self._remembered = np.zeros((0, 0))

    def along(self, tones: Tones, phasors: np.ndarray, limits: bool = True) -> Along:
        """Evaluates all devices at phasors (products, unknowns); with `limits` as far from the last ones as their tangents mean
        something. Raises StoppedError."""
        found = self.evaluated(tones.to_samples(phasors), limits)
        both = tones.transform(found.both)
        phasors, size = tones.phasors_of(both), self.size
        return Along(
            phasors[:, :size],
            phasors[:, size:],
            found.slopes,
            found.capacitances,
            found.limited,
            tones.rest(both[:, :size]),
        )

    def evaluated(self, points: np.ndarray, limits: bool = True) -> Evaluated:
        """The same at points (points, unknowns). Raises StoppedError."""
        if self.flag[0]:
            raise StoppedError
        self.evaluations += 1
        count, entries = len(points), len(self.rows)
        mode = int(LIMIT)
        if len(self._remembered) != count or not limits:
            places = self.arrays.places
            memory = int(places[FLOW_PLACE] - places[MEMORY_PLACE])
            self._remembered, mode = np.zeros((count, memory)), int(TRUST)
        both = np.empty((count, 2 * self.size))
        slopes, capacitances = np.empty((2, count, entries))
        limited = evaluated_at(
            *self._held, self.system.values[self.lane], np.ascontiguousarray(points), self._remembered, mode, self.flag, both,
            slopes, capacitances,
        )  # fmt: skip
        return Evaluated(both, slopes, capacitances, limited)

    def finer(self, tones: Tones, phasors: np.ndarray) -> Tones:
        """So many samples that a state as it is now is not aliased, or as many as there may be."""
        while (more := tones.finer()) is not None:
            tones = more
            if self.along(tones, phasors, limits=False).rest <= ALIASED:
                break
        return tones

    def dispersion(self, frequencies: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Which entries of the matrix gain what at frequencies [Hz]: (count,), (frequencies, count). What is below 0 Hz is the
        conjugate of what is above."""
        found: Dispersion = self.system.dispersion(self.lane, np.abs(frequencies))
        gains = np.where(frequencies[:, None] < 0, found.gains.conj(), found.gains)
        entries = np.asarray(self.arrays.slots)[found.entries].astype(np.int64)
        inside = entries < len(self.rows)
        return entries[inside], gains[:, inside]

    def readouts(self, points: np.ndarray, variables: np.ndarray) -> np.ndarray:
        """Device quantities at points (points, unknowns): (points, variables)."""
        out = np.zeros((len(points), len(variables)))
        readouts_at(
            self.arrays, self.memory, self.system.values[self.lane], _grounded(points), np.asarray(variables, np.int64), out,
            self.tolerances.array(),
        )  # fmt: skip
        return out


def _grounded(points: np.ndarray) -> np.ndarray:
    """With net 0 before them."""
    found = np.zeros((len(points), 1 + points.shape[1]))
    found[:, 1:] = points
    return found
