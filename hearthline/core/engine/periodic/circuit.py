"""A circuit in one lane as a balance sees it: what it does along a period, by products of the tones."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hearthline.core.compiled.codes import F, Words
from hearthline.core.elements.device import Dispersion
from hearthline.core.engine.kernels.periodic import evaluated_along, evaluated_at
from hearthline.core.engine.kernels.small_signal import readouts_at
from hearthline.core.engine.periodic.tones import Tones
from hearthline.core.engine.solve import Tolerances
from hearthline.core.engine.system import System
from hearthline.core.engine.worker import FLOW_PLACE, MEMORY, MEMORY_PLACE, Memory, new_memory
from hearthline.core.models.signature import LIMIT, TRUST

ALIASED = 1e-6
"""Share of the largest current that may lie beyond what the samples tell apart."""
STRAIGHT = 1e-13
"""Share by which a slope may move along a period and be taken for one that does not."""


@dataclass(frozen=True)
class Both:
    """Currents out of each net, and behind them charges there (points or products, 2 unknowns)."""

    both: np.ndarray

    @property
    def flows(self) -> np.ndarray:
        """The first half."""
        return self.both[:, : self.both.shape[1] // 2]

    @property
    def charges(self) -> np.ndarray:
        """The second half."""
        return self.both[:, self.both.shape[1] // 2 :]


@dataclass(frozen=True)
class Evaluated(Both):
    """The circuit at points: beside that, slopes of both as values of the matrix's entries (points, entries), and how many
    devices were `limited`."""

    slopes: np.ndarray
    capacitances: np.ndarray
    limited: int


@dataclass(frozen=True)
class Along(Both):
    """What was found along a period: phasors of both, and what was evaluated on its grid."""

    tones: Tones
    evaluated: Evaluated

    @property
    def slopes(self) -> np.ndarray:
        """Of currents (samples, entries), as values of the matrix's entries."""
        return self.evaluated.slopes

    @property
    def capacitances(self) -> np.ndarray:
        """Slopes of charges, likewise."""
        return self.evaluated.capacitances

    @property
    def limited(self) -> int:
        """How many devices were limited."""
        return self.evaluated.limited

    @cached_property
    def rest(self) -> float:
        """How much of the currents lies beyond what the grid tells apart."""
        return self.tones.rest(self.evaluated.flows)

    @cached_property
    def bent(self) -> np.ndarray:
        """The entries that change along the period."""
        found = np.zeros(self.slopes.shape[1], bool)
        for one in (self.slopes, self.capacitances):
            low, high = one.min(axis=0), one.max(axis=0)
            found |= high - low > STRAIGHT * np.maximum(np.abs(low), np.abs(high))
        return np.flatnonzero(found)


class StoppedError(Exception):
    """Somebody asked for the end."""


class LaneCircuit:
    """A circuit in a lane; it remembers the limits of its devices from one evaluation to the next. Where `flag` is set it goes
    no further."""

    def __init__(self, system: System, lane: int, tolerances: Tolerances, flag: np.ndarray | None = None):
        self.system, self.lane, self.tolerances = system, lane, tolerances
        self.pattern, self.arrays = system.dynamic
        self.size = len(system.unknowns)
        self.flag = np.zeros(1, np.int64) if flag is None else flag
        self.rows = np.asarray(self.pattern.rows)
        self.columns = np.repeat(self.pattern.order, np.diff(self.pattern.starts))
        self._remembered = np.zeros((0, 0))
        self._prepared, self.evaluations = False, 0

    @cached_property
    def _held(self) -> tuple[Words, ...]:
        """What every evaluation is handed: the circuit several times over, once, room for that, tolerances, and its
        numbers."""
        room = new_memory(self.system.copies.circuit, self.pattern)
        numbers = self.tolerances.array(), self.system.values[self.lane]
        return (*self.system.handed, Words.of(MEMORY, room), *(Words.of(F, one) for one in numbers))

    @cached_property
    def memory(self) -> Memory:
        """For one circuit alone."""
        return new_memory(self.arrays, self.pattern)

    def trust(self) -> None:
        """The next evaluation takes its points as they are."""
        self._remembered = np.zeros((0, 0))

    def along(self, tones: Tones, phasors: np.ndarray, limits: bool = True) -> Along:
        """Evaluates all devices at phasors (products, unknowns); with `limits` as far from the last ones as their tangents mean
        something. Raises StoppedError."""
        if tones.few:
            mode, room = self._begun(tones.count, limits)
            both = np.empty((len(tones), 2 * self.size), complex)
            limited = evaluated_along(
                *self._held, self._prepared, tones.words, np.ascontiguousarray(phasors), self._remembered, mode, self.flag,
                *room, both,
            )  # fmt: skip
            self._prepared, found = True, Evaluated(*room, limited)
        else:
            found = self.evaluated(tones.to_samples(phasors), limits)
            both = tones.to_phasors(found.both)
        return Along(both, tones, found)

    def evaluated(self, points: np.ndarray, limits: bool = True) -> Evaluated:
        """The same at points (points, unknowns). Raises StoppedError."""
        mode, room = self._begun(len(points), limits)
        limited = evaluated_at(
            *self._held, self._prepared, np.ascontiguousarray(points), self._remembered, mode, self.flag, *room
        )  # fmt: skip
        self._prepared = True
        return Evaluated(*room, limited)

    def _begun(self, count: int, limits: bool) -> tuple[int, tuple[np.ndarray, np.ndarray, np.ndarray]]:
        """What to do about limiting at so many points, and room for what is found there. Raises StoppedError."""
        if self.flag[0]:
            raise StoppedError
        self.evaluations += 1
        mode = int(LIMIT)
        if len(self._remembered) != count or not limits:
            places = self.arrays.places
            memory = int(places[FLOW_PLACE] - places[MEMORY_PLACE])
            self._remembered, mode = np.zeros((count, memory)), int(TRUST)
        slopes, capacitances = np.empty((2, count, len(self.rows)))
        return mode, (np.empty((count, 2 * self.size)), slopes, capacitances)

    def finer(self, tones: Tones, phasors: np.ndarray, likely: Tones | None = None) -> Along | None:
        """With so many samples that a state as it is now is not aliased, or with as many as there may be; None where these are
        not enough already. Where it is finer, a `likely` grid is tried first."""
        found = None
        more = likely if likely is not None and likely.count > tones.count else tones.finer()
        while more is not None:
            found = self.along(more, phasors, limits=False)
            if found.rest <= ALIASED:
                break
            more = more.finer()
        return found

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
