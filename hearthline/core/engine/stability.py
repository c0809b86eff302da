"""How many poles of a circuit grow, whatever stands inside it: the normalised determinant over frequency, and its turns.

Platzker, Struble and Hetzler, IEEE MTT-S 1993, after Bode's return differences: the circuit's determinant over that of the same
circuit made passive has no poles in the right half plane, so that its turns about the origin, mirrored frequencies included,
count its zeros there (the argument principle). Turns are counted between frequencies that are close enough: where the angle
moves far more are taken, and about every natural frequency where these can be found, since a turn within a narrow resonance
would not be seen from outside of it.
"""

from __future__ import annotations

import time
from dataclasses import dataclass
from typing import Any

import numpy as np

from hearthline.core.elements.device import DeviceKind
from hearthline.core.engine.job import Job
from hearthline.core.engine.kernels.determinant import determinants, slopes_at
from hearthline.core.engine.passive import made_passive
from hearthline.core.engine.poles_and_zeros import eigenvalues
from hearthline.core.engine.small_signal import DEFAULT, Small, each_lane
from hearthline.core.engine.solve import SourceSweep, Tolerances, solve
from hearthline.core.engine.system import System
from hearthline.core.outcome import Outcome

MOST_FOR_POLES = 150
"""Unknowns up to which natural frequencies are found."""
WIDEST = np.radians(60.0)
"""Angle between two frequencies from which on more are taken between them."""
MOST_HALVINGS = 24
MOST_POINTS = 200_000
ABOUT_A_POLE = np.array([-5.0, -2.0, -1.0, -0.4, 0.0, 0.4, 1.0, 2.0, 5.0])
"""Frequencies about a natural one, in units of its half width."""
SETTLED = np.radians(45.0)
"""Angle from 1 at the last frequency above which the sweep may end too early."""
OF_A_DELAY = 8
"""Frequencies in each period of the slowest delay."""


@dataclass(frozen=True)
class Turned(Small):
    """`ndf` (lanes, frequencies), and `turns` alike: how many unstable poles are counted up to a frequency; `poles` (lanes,)
    those by the natural frequencies, -1 where these cannot be found."""

    ndf: np.ndarray
    turns: np.ndarray
    poles: np.ndarray
    coarse: np.ndarray

    def notes(self) -> list[str]:
        """What a person must know of the count."""
        found = super().notes()
        good = self.outcomes == Outcome.SOLVED
        last = np.angle(self.ndf[good & ~self.agrees, -1])
        if (np.abs(last) > SETTLED).any():
            found.append("the sweep ends before the determinant has come to rest; count to a higher frequency")
        if self.coarse[good].any():
            found.append("the determinant moves faster than could be followed; take a narrower band")
        apart = np.flatnonzero(good & (self.poles >= 0) & ~self.agrees)
        if len(apart):
            found.append(
                f"by its turns {self.turns[apart[0], -1]:g} poles grow between these frequencies, and "
                f"{self.poles[apart[0]]:g} by its natural frequencies; widen the sweep on both ends"
            )
        return found

    @property
    def agrees(self) -> np.ndarray:
        """Lanes whose count is that of the natural frequencies (lanes,)."""
        return self.turns[:, -1] == self.poles


def sharp_frequencies(system: System) -> np.ndarray:
    """About the poles that parts know of themselves [Hz]: a file of S-parameters may change within a narrow band."""
    kinds = {id(one.kind): one.kind for one in system.instance_places}
    poles = [pole for kind in kinds.values() if isinstance(kind, DeviceKind) for pole in kind.poles if pole.imag > 0]
    own = np.array(poles, complex)
    return np.asarray((own.imag[:, None] + ABOUT_A_POLE * np.abs(own.real)[:, None]) / (2 * np.pi)).ravel()


def stability(
    system: System, frequencies: np.ndarray, tolerances: Tolerances = DEFAULT, job: Job | None = None
) -> Turned:
    """The normalised determinant at frequencies (points,) [Hz] about the operating point, in all lanes."""
    job = job or Job()
    _ = system.static, system.dynamic  # kernels are loaded before the clock runs
    begin = time.perf_counter()
    point = solve(system, SourceSweep(), tolerances, None, (), job)
    lanes, points = len(system.lanes), len(frequencies)
    ndf, turns = np.full((lanes, points), np.nan + 0j), np.full((lanes, points), np.nan)
    poles, coarse = np.full(lanes, -1), np.zeros(lanes, bool)

    def one(lane: int, memory: Any, room: Any, x: np.ndarray, share: int) -> int:
        counter = _Counter(system, lane, memory, x, tolerances, room, job)
        code, found = counter.count(frequencies)
        if code == Outcome.SOLVED:
            ndf[lane], turns[lane], coarse[lane] = found
            poles[lane] = counter.growing()
        job.progress[share] += points
        return code

    outcomes = each_lane(system, point, points, job, one)
    return Turned(point, frequencies, outcomes, time.perf_counter() - begin, ndf, turns, poles, coarse)


class _Counter:
    """The determinants of one lane."""

    def __init__(
        self, system: System, lane: int, memory: Any, x: np.ndarray, tolerances: Tolerances, room: Any, job: Job
    ):
        circuit = system.dynamic.circuit
        self.system, self.lane, self.job, self.room = system, lane, job, room
        self.slots = circuit.slots.astype(np.int64)
        self.capacitance_slots = circuit.capacitance_slots.astype(np.int64)
        g, c = np.zeros(len(self.slots)), np.zeros(len(self.capacitance_slots))
        slopes_at(circuit, memory, system.values[lane], x, tolerances.array(), g, c)
        self.active, self.passive = (g, c), made_passive(system, g, c)
        self.delay = max((system.lines(lane)[3]), default=0.0)

    def count(self, frequencies: np.ndarray) -> tuple[int, tuple[np.ndarray, np.ndarray, bool]]:
        """An Outcome; the normalised determinant, the count, and whether it could not be followed."""
        nothing = np.zeros(0), np.zeros(0), False
        points = self._first(frequencies)
        code, logs = self._at(points)
        for _ in range(MOST_HALVINGS):
            if code != Outcome.SOLVED:
                return code, nothing
            wide = np.flatnonzero(np.abs(_between(logs)) > WIDEST)
            if not len(wide) or len(points) + len(wide) > MOST_POINTS:
                break
            more = np.sqrt(np.maximum(points[wide], 1e-300) * points[wide + 1])
            more = np.where(points[wide] > 0, more, 0.5 * points[wide + 1])
            code, there = self._at(more)
            points, logs = np.insert(points, wide + 1, more), np.insert(logs, wide + 1, there)
        if code != Outcome.SOLVED:
            return code, nothing
        steps = _between(logs)
        angles = logs.imag[0] + np.concatenate([[0.0], np.cumsum(steps)])
        start = np.pi * np.round(angles[0] / np.pi)
        where = np.searchsorted(points, frequencies)
        # from the last place to 1 at infinite frequency by the shorter way; where lines have no end to that, what was turned
        whole = 2.0 * np.pi * np.round(angles / (2.0 * np.pi))
        counted = np.round((start - (angles if self.delay else whole)) / np.pi)
        return code, (np.exp(logs[where]), counted[where], bool((np.abs(steps) > 1.5 * WIDEST).any()))

    def _first(self, frequencies: np.ndarray) -> np.ndarray:
        """Those asked for, and those about natural frequencies and close enough for delays."""
        found, low, high = [frequencies], frequencies[0], frequencies[-1]
        for values in (self.active, self.passive):
            natural = self._natural(values) / (2 * np.pi)
            natural = natural[(natural.imag > 0) & (natural.imag < high)]
            found.append((natural.imag[:, None] + ABOUT_A_POLE * np.abs(natural.real)[:, None]).ravel())
        found.append(sharp_frequencies(self.system))
        if self.delay > 0:
            count = min(MOST_POINTS // 4, int(OF_A_DELAY * (high - low) * self.delay) + 2)
            found.append(np.linspace(low, high, count))
        every = np.unique(np.concatenate(found))
        return every[(every >= low) & (every <= high)]

    def _natural(self, values: tuple[np.ndarray, np.ndarray]) -> np.ndarray:
        """Natural frequencies [rad/s] with these conductances and capacitances; none where they cannot be found."""
        size = len(self.system.unknowns)
        if size > MOST_FOR_POLES or any(one.kind.delayed for one in self.system.instance_places):
            return np.zeros(0, complex)
        matrices = []
        for numbers, slots in zip(values, (self.system.slots, self.system.capacitance_slots), strict=True):
            matrix = np.zeros((size + 1) ** 2)
            np.add.at(matrix, slots, numbers)
            matrices.append(matrix.reshape(size + 1, size + 1)[1:, 1:])
        return eigenvalues(*matrices)

    def growing(self) -> int:
        """Natural frequencies in the right half plane, -1 where they cannot be found."""
        found = self._natural(self.active)
        if not len(found):
            return -1
        return int((found.real > 1e-9 * np.abs(found)).sum())

    def _at(self, frequencies: np.ndarray) -> tuple[int, np.ndarray]:
        """Logarithms of the normalised determinant."""
        both = []
        for (conductances, capacitances), passive in ((self.active, False), (self.passive, True)):
            added = self.system.dispersion(self.lane, frequencies, passive)
            out = np.zeros(len(frequencies), complex)
            code = determinants(
                self.room, self.slots, self.capacitance_slots, conductances, capacitances, added.entries, added.gains,
                frequencies, out, self.job.flag,
            )  # fmt: skip
            if code != Outcome.SOLVED:
                return code, out
            both.append(out)
        return code, both[0] - both[1]


def _between(logs: np.ndarray) -> np.ndarray:
    """The angles from each to the next, by the shorter way."""
    return np.angle(np.exp(1j * np.diff(logs.imag)))
