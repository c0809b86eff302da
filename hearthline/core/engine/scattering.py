"""Scattering of a circuit with ports: waves between all of them, and the noise that comes out, lane by lane.

Power waves at the ports' own impedances, which may be complex: a = (v + Z i) / 2√Re Z, b = (v - Z* i) / 2√Re Z (Kurokawa,
IEEE Trans. Microwave Theory Tech. 1965). With e_j behind port j alone, v_k + Z_k i_k = δ_kj e_j, so that
S_kj = δ_kj - 2 √(Re Z_k Re Z_j) i_k / e_j.
"""

from __future__ import annotations

import time
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np

from hearthline.core.elements.device import Dispersion, joined
from hearthline.core.elements.port import DEVICE, NUMBER_VALUE, REACTANCE_VALUE, RESISTANCE_VALUE
from hearthline.core.engine.job import Job
from hearthline.core.engine.kernels.scattering import scatter
from hearthline.core.engine.noise_sources import noise_sources
from hearthline.core.engine.small_signal import DEFAULT, Small, each_lane
from hearthline.core.engine.solve import SourceSweep, Tolerances, solve
from hearthline.core.engine.system import InstancePlace, System
from hearthline.core.errors import CircuitError
from hearthline.core.outcome import Outcome

_OWN = 8
"""The conductance of a port's equation by its own current."""


@dataclass(frozen=True)
class Port:
    """A port of a circuit: where its current and the ends of its voltage stand among the unknowns, and where its values and
    its own conductance are."""

    number: int
    name: str
    branch: int
    value: int
    conductance: int
    ends: tuple[int, int]

    def impedance(self, system: System) -> np.ndarray:
        """(lanes,) [Ω]."""
        at = self.value
        return system.values[:, at + RESISTANCE_VALUE] + 1j * system.values[:, at + REACTANCE_VALUE]


def ports_of(system: System) -> tuple[Port, ...]:
    """Those of a circuit by their numbers. Raises CircuitError at the port where a number is there twice or missing."""
    found = [_port(system, one) for one in system.instance_places if one.kind is DEVICE]
    found.sort(key=lambda port: port.number)
    for port, other in pairwise(found):
        if port.number == other.number:
            message = (
                f"{port.name} and {other.name} are both port number {port.number}; give one of them another number"
            )
            raise CircuitError(message, part=other.name)
    for expected, port in enumerate(found, 1):
        if port.number != expected:
            message = (
                f"there is no port number {expected}, and {port.name} has number {port.number}; ports count from 1 on"
            )
            raise CircuitError(message, part=port.name)
    return tuple(found)


def _port(system: System, at: InstancePlace) -> Port:
    number = int(system.values[0, at.value + NUMBER_VALUE])
    first, second, branch = (int(one) for one in system.nodes[at.node : at.node + DEVICE.terminals + 1])
    return Port(number, at.name, branch, at.value, at.conductance, (first, second))


@dataclass(frozen=True)
class Scattered(Small):
    """`s` (lanes, frequencies, ports, ports), the second port driving the first; `waves`, alike, the correlation of the noise
    waves that come out [W/Hz]; `sources` of noise with their `parts` (lanes, frequencies, sources) of that out of the last port
    [W/Hz]; of two ports `slope` (lanes, frequencies), of S21 by the angular frequency [s]; `impedances` (lanes, ports) [Ω]."""

    ports: tuple[Port, ...]
    impedances: np.ndarray
    s: np.ndarray
    waves: np.ndarray
    sources: tuple[str, ...]
    parts: np.ndarray
    slope: np.ndarray


def scattering(
    system: System, frequencies: np.ndarray, tolerances: Tolerances = DEFAULT, job: Job | None = None
) -> Scattered:
    """Waves at frequencies (points,) [Hz] about the operating point. Raises CircuitError for ports that do not fit."""
    job = job or Job()
    _ = system.static, system.dynamic  # kernels are loaded before the clock runs
    begin = time.perf_counter()
    ports = ports_of(system)
    point = solve(system, SourceSweep(), tolerances, None, (), job)
    sources = noise_sources(system).without(frozenset(port.name for port in ports))
    lanes, points, count = len(system.lanes), len(frequencies), len(ports)
    branches = np.array([port.branch for port in ports], np.int64)
    impedances = np.array([port.impedance(system) for port in ports]).reshape(count, lanes).T
    s, waves = (np.full((lanes, points, count, count), np.nan + 0j) for _ in range(2))
    parts = np.full((lanes, points, len(sources.names)), np.nan)
    slope = np.full((lanes, points), np.nan + 0j)
    capacitive = np.stack(system.capacitance_pairs).astype(np.int64)

    def one(lane: int, memory: Any, room: Any, x: np.ndarray, share: int) -> int:
        added = joined([system.dispersion(lane, frequencies), _reactances(ports, impedances[lane], points)], points)
        pairs = np.stack(np.divmod(system.slots[added.entries], len(system.unknowns) + 1)).astype(np.int64)
        groups = sources.groups(lane, frequencies)
        currents, correlations = (np.zeros((points, count, count), complex) for _ in range(2))
        out, change = np.zeros((points, len(sources.names))), np.zeros((points, int(count == 2)), complex)
        code = scatter(
            system.dynamic.circuit, memory, room, system.values[lane], x, added.entries, added.gains, added.slopes, pairs,
            capacitive, frequencies, branches, sources.ends, sources.own[lane], groups.spans, groups.rows, groups.matrices,
            currents, correlations, out, change, job.flag, job.progress, share, tolerances.array(),
        )  # fmt: skip
        if code == Outcome.SOLVED:
            roots = np.sqrt(impedances[lane].real)
            both = np.outer(roots, roots)
            s[lane], waves[lane] = np.eye(count) - 2.0 * both * currents, both * correlations
            parts[lane] = out * roots[-1] ** 2
            if count == 2:
                slope[lane] = -2.0 * both[1, 0] * change[:, 0]
        return code

    outcomes = each_lane(system, point, points, job, one)
    seconds = time.perf_counter() - begin
    return Scattered(point, frequencies, outcomes, seconds, ports, impedances, s, waves, sources.names, parts, slope)


def _reactances(ports: tuple[Port, ...], impedances: np.ndarray, points: int) -> Dispersion:
    """The imaginary parts of the ports' impedances, which only waves see."""
    entries = np.array([port.conductance + _OWN for port in ports], np.int64)
    gains = np.broadcast_to(1j * impedances.imag, (points, len(ports)))
    return Dispersion(entries, gains, np.zeros_like(gains))
