"""Impedances both ways at connections, with nothing inserted: from the circuit's own equations, cut there.

Tian, Visvanathan, Hantgan, Kundert, IEEE Circuits and Devices Magazine 2001; Middlebrook, Int. J. Electronics 1975. With y the
two-port that the two ends of the connection make, currents into the circuit: into the part 1/(y11 + y12), back into the net
1/(y22 + y21), bilateral loop gain (y12 + y21)/(y11 + y22). With v, i for 1 V between the ends and z, j for 1 A into the net
these are z/j, z/(1 - j), and -w/(1 + w) with w = 2(i z - j v) + v - j.
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from hearthline.core.engine.connection import Connection, terms_of
from hearthline.core.engine.job import Job
from hearthline.core.engine.kernels import look as kernel
from hearthline.core.engine.small_signal import DEFAULT, Small, each_lane
from hearthline.core.engine.solve import SourceSweep, Tolerances, solve
from hearthline.core.engine.system import System
from hearthline.core.outcome import Outcome

REFERENCE = 50.0
"""[Ω] Of the reflections."""


@dataclass(frozen=True)
class Looked(Small):
    """What was found at each of `connections` (first axis), in all lanes and at all frequencies: `raw` as the kernel gives it,
    from which the rest follows when it is asked for."""

    connections: tuple[Connection, ...]
    raw: np.ndarray

    @cached_property
    def _grounded(self) -> np.ndarray:
        """At ground nothing but the part is seen, and nothing comes back."""
        return np.array([one.net == 0 for one in self.connections])[:, None, None]

    @cached_property
    def _parts(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """z and j, and what is left of the ampere for the net's own side."""
        _, i, z, j = np.moveaxis(self.raw, -1, 0)
        z, j = np.where(self._grounded, 1.0, z), np.where(self._grounded, i, j)
        return z, j, np.where(self._grounded, np.inf, 1.0 - j)

    @cached_property
    def into(self) -> np.ndarray:
        """Impedance into the part [Ω]."""
        z, j, _ = self._parts
        with np.errstate(divide="ignore", invalid="ignore"):
            return self._known(z / j)

    @cached_property
    def back(self) -> np.ndarray:
        """Impedance back into the net [Ω]."""
        z, _, beside = self._parts
        with np.errstate(divide="ignore", invalid="ignore"):
            return self._known(np.where(self._grounded, 0.0, z / beside))

    @cached_property
    def gamma_into(self) -> np.ndarray:
        """Reflection of the one."""
        z, j, _ = self._parts
        with np.errstate(divide="ignore", invalid="ignore"):
            return self._known((z - REFERENCE * j) / (z + REFERENCE * j))

    @cached_property
    def gamma_back(self) -> np.ndarray:
        """Reflection of the other."""
        z, _, beside = self._parts
        with np.errstate(divide="ignore", invalid="ignore"):
            return self._known(np.where(self._grounded, -1.0, (z - REFERENCE * beside) / (z + REFERENCE * beside)))

    @property
    def index(self) -> np.ndarray:
        """Product of both reflections: 1 is the critical point."""
        return self.gamma_into * self.gamma_back

    @cached_property
    def loop(self) -> np.ndarray:
        """Bilateral loop gain: -1 is the critical point."""
        v, i, z, j = np.moveaxis(self.raw, -1, 0)
        twist = 2.0 * (i * z - j * v) + v - j
        with np.errstate(divide="ignore", invalid="ignore"):
            return self._known(np.where(self._grounded, 0.0, -twist / (1.0 + twist)))

    def _known(self, found: np.ndarray) -> np.ndarray:
        """None where nothing was found."""
        return np.where(np.isnan(self.raw[..., 0]), np.nan, found)


def looks(
    system: System,
    connections: Sequence[Connection],
    frequencies: np.ndarray,
    tolerances: Tolerances = DEFAULT,
    job: Job | None = None,
) -> Looked:
    """Impedances at frequencies (points,) [Hz] about the operating point, with one factorisation a frequency for all."""
    job = job or Job()
    _ = system.static, system.dynamic  # kernels are loaded before the clock runs
    begin = time.perf_counter()
    point = solve(system, SourceSweep(), tolerances, None, (), job)
    shape = len(connections), len(system.lanes), len(frequencies)
    raw = np.full((*shape, 4), np.nan + 0j)
    terms = terms_of(system, connections, system.dispersion(0, frequencies[:1]).entries)

    def one(lane: int, memory: Any, room: Any, x: np.ndarray, share: int) -> int:
        added, out = system.dispersion(lane, frequencies), np.zeros((shape[0], shape[2], 4), complex)
        code = kernel.look(
            system.dynamic.circuit, memory, room, system.values[lane], x, added.entries, added.gains, frequencies,
            terms.connections, terms.terms, terms.lists, out, job.flag, job.progress, share, tolerances.array(),
        )  # fmt: skip
        if code == Outcome.SOLVED:
            raw[:, lane] = out
        return code

    outcomes = each_lane(system, point, shape[2], job, one)
    seconds = time.perf_counter() - begin
    return Looked(point, frequencies, outcomes, seconds, tuple(connections), raw)
