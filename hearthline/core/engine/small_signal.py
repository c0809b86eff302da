"""AC, noise and DC small-signal transfer: from a system to labelled answers, lane by lane on all processors."""

from __future__ import annotations

import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from hearthline.core.circuit.netlist import Element
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.densities import integrate_power
from hearthline.core.elements import DEVICES, drives
from hearthline.core.engine.dc import conditions_of
from hearthline.core.engine.job import Job
from hearthline.core.engine.kernels import small_signal
from hearthline.core.engine.linear.sparse import lu_room
from hearthline.core.engine.noise_sources import noise_sources
from hearthline.core.engine.solve import Solution, SourceSweep, Tolerances, solve
from hearthline.core.engine.system import System, Unknown
from hearthline.core.engine.worker import new_memory
from hearthline.core.errors import CircuitError, ConvergenceError
from hearthline.core.outcome import Outcome

DEFAULT = Tolerances()
SMALL = 1e-5
"""Largest voltage [V] that is small for a difference."""


@dataclass(frozen=True)
class Small:
    """What small signals at `frequencies` (points,) [Hz] have in common: the operating point they are about, and how each
    lane ended."""

    point: Solution
    frequencies: np.ndarray
    outcomes: np.ndarray
    seconds: float

    @property
    def failed_lanes(self) -> np.ndarray:
        """Lanes without an operating point or an answer."""
        return np.flatnonzero((self.outcomes != Outcome.SOLVED) & (self.outcomes != Outcome.STOPPED))

    def notes(self) -> list[str]:
        """What a person must know of the operating point, and of parts from files outside of their frequencies."""
        return [*self.point.notes(), *self.point.system.beyond(self.frequencies)]

    def failure(self, lane: int) -> ConvergenceError:
        """Why a lane has no answer."""
        if self.point.outcomes[lane, 0] != Outcome.SOLVED:
            return self.point.failure(lane)
        return ConvergenceError(Outcome(int(self.outcomes[lane])).sentence)

    def labelled(self, kind: str, curves: dict[str, np.ndarray], units: dict[str, str]) -> Dataset:
        """Curves (lanes, points) over frequency as a Dataset."""
        outcomes = np.repeat(self.outcomes[:, None], len(self.frequencies), axis=1)
        conditions = conditions_of(self.point.system.lanes)
        return Dataset(kind, "frequency", "Hz", self.frequencies, curves, units, conditions, outcomes)


@dataclass(frozen=True)
class Answer(Small):
    """What every unknown answers, or those that were `kept`: `values` (cases, lanes, frequencies, unknowns), complex; NaN where
    there is none."""

    values: np.ndarray
    kept: tuple[int, ...] | None = None

    @property
    def unknowns(self) -> list[Unknown]:
        """Those whose answers there are."""
        every = self.point.system.unknowns
        return list(every) if self.kept is None else [every[k] for k in self.kept]

    def of(self, label: str, case: int = 0) -> np.ndarray:
        """One quantity by its label, such as `V(out)` or `m1.id`: (lanes, frequencies); one of a device where all unknowns were
        kept. Raises CircuitError for another."""
        labels = [unknown.label for unknown in self.unknowns]
        if label in labels:
            return self.values[case, :, :, labels.index(label)]
        variables = [variable.label for variable in self.point.system.variables]
        if label not in variables or self.kept is not None:
            raise CircuitError(f"there is no quantity '{label}'; there are {', '.join(labels[:12])}")
        return self._of_variable(variables.index(label), case)

    def _of_variable(self, index: int, case: int) -> np.ndarray:
        """The small change of a device variable: its slope along the answer, by a central difference."""
        system, found = self.point.system, np.full(self.values.shape[1:3], np.nan + 0j)
        pattern, circuit = system.dynamic
        memory, wanted = new_memory(circuit, pattern), np.array([index], np.int64)
        for lane in np.flatnonzero(self.outcomes == Outcome.SOLVED):
            way = np.concatenate([self.values[case, lane].real, self.values[case, lane].imag])
            step = SMALL / np.maximum(np.abs(way[:, : system.net_count]).max(axis=1), 1e-300)
            shift = np.pad(way * step[:, None], ((0, 0), (1, 0)))
            x = np.concatenate([[0.0], self.point.kept[lane, 0]])
            out = np.zeros((2 * len(way), 1))
            points = np.concatenate([x + shift, x - shift])
            small_signal.readouts_at(circuit, memory, system.values[lane], points, wanted, out, DEFAULT.array())
            slope = (out[: len(way), 0] - out[len(way) :, 0]) / (2 * step)
            real, imaginary = np.split(slope, 2)
            found[lane] = real + 1j * imaginary
        return found

    def dataset(self, case: int = 0, variables: tuple[str, ...] = ()) -> Dataset:
        """All unknowns that were kept, and the named device variables, over frequency, in all lanes; the curves are complex."""
        system = self.point.system
        shown = [unknown for unknown in self.unknowns if unknown.kind]
        units = {unknown.label: unknown.kind.replace("I", "A") for unknown in shown}
        units |= {v.label: v.unit for v in system.variables if v.label in variables}
        curves = {label: self.of(label, case) for label in units}
        return self.labelled("ac", curves, units)


@dataclass(frozen=True)
class NoiseAnswer(Small):
    """Noise at an output: `densities` (lanes, frequencies, sources) [V²/Hz] of each of `sources`, and `gains` (lanes,
    frequencies) from the input, which is in `input_unit` (V or A)."""

    sources: tuple[str, ...]
    densities: np.ndarray
    gains: np.ndarray
    input_unit: str

    @property
    def output(self) -> np.ndarray:
        """Density at the output (lanes, frequencies) [V/√Hz]."""
        return np.sqrt(self.densities.sum(axis=2))

    @property
    def input(self) -> np.ndarray:
        """The same referred to the input [V/√Hz or A/√Hz]."""
        with np.errstate(divide="ignore"):
            return self.output / np.abs(self.gains)

    def dataset(self) -> Dataset:
        """Noise at the output and the input, and each source's part at the output [V/√Hz], in all lanes."""
        curves = {"output_noise": self.output, "input_noise": self.input}
        curves |= {name: np.sqrt(self.densities[:, :, k]) for k, name in enumerate(self.sources)}
        units = dict.fromkeys(curves, "V/√Hz") | {"input_noise": f"{self.input_unit}/√Hz"}
        return self.labelled("noise", curves, units)

    def integrated(self, low: float | None = None, high: float | None = None) -> np.ndarray:
        """Noise voltage at the output between two frequencies [Hz]: (lanes,) [V]."""
        power = self.densities.sum(axis=2)
        return np.sqrt(integrate_power(self.frequencies, power, low, high))

    def contributions(self, low: float | None = None, high: float | None = None) -> dict[str, np.ndarray]:
        """The part of each source in the integrated power: (lanes,), adding up to 1; the largest of the first lane first."""
        each = np.moveaxis(self.densities, 2, 0)
        power = np.stack([integrate_power(self.frequencies, density, low, high) for density in each])
        parts = power / power.sum(axis=0)
        return {self.sources[k]: parts[k] for k in np.argsort(-parts[:, 0], kind="stable")}


def ac(
    system: System,
    frequencies: np.ndarray,
    tolerances: Tolerances = DEFAULT,
    job: Job | None = None,
    excitations: np.ndarray | None = None,
    unknowns: Sequence[int] | None = None,
) -> Answer:
    """Every unknown's answer to the circuit's own AC sources, or to each of `excitations` (cases, unknowns + 1); only those of
    some `unknowns`, by their indices, where they are said.

    frequencies [Hz], shape (points,). Lanes without an operating point are marked and the others stand.
    """
    job = job or Job()
    _ = system.static, system.dynamic  # kernels are loaded before the clock runs
    begin = time.perf_counter()
    point = solve(system, SourceSweep(), tolerances, None, (), job)
    lanes, count = len(system.lanes), len(frequencies)
    cases = 1 if excitations is None else len(excitations)
    watched = 1 + np.array(range(len(system.unknowns)) if unknowns is None else unknowns, np.int64)
    size = len(watched)
    values = np.full((cases, lanes, count, size), np.nan + 0j)

    def one(lane: int, memory, room, x, share: int) -> int:
        added = system.dispersion(lane, frequencies)
        wanted = (
            own_excitation(system, lane)[None, :] if excitations is None else np.ascontiguousarray(excitations, complex)
        )
        out = np.zeros((cases, count, size), complex)
        code = small_signal.transfer(
            system.dynamic.circuit, memory, room, system.values[lane], x, added.entries, added.gains, frequencies, wanted,
            watched, out, job.flag, job.progress, share, tolerances.array(),
        )  # fmt: skip
        if code == Outcome.SOLVED:
            values[:, lane] = out
        return code

    outcomes = each_lane(system, point, count, job, one)
    kept = None if unknowns is None else tuple(unknowns)
    return Answer(point, frequencies, outcomes, time.perf_counter() - begin, values, kept)


def noise(
    system: System,
    frequencies: np.ndarray,
    output: tuple[str, str],
    source: str,
    tolerances: Tolerances = DEFAULT,
    job: Job | None = None,
) -> NoiseAnswer:
    """Noise between two nets (the second may be ground), and referred to an independent source.

    Raises CircuitError for a net or source that the circuit does not have.
    """
    job = job or Job()
    _ = system.static, system.dynamic  # kernels are loaded before the clock runs
    begin = time.perf_counter()
    wanted, excitation = pick(system, output), unit_excitation(system, source)
    point = solve(system, SourceSweep(), tolerances, None, (), job)
    sources = noise_sources(system)
    lanes, count = len(system.lanes), len(frequencies)
    densities, gains = np.full((lanes, count, len(sources.names)), np.nan), np.full((lanes, count), np.nan + 0j)

    def one(lane: int, memory, room, x, share: int) -> int:
        found, gain = np.zeros((count, len(sources.names))), np.zeros(count, complex)
        added = system.dispersion(lane, frequencies)
        groups = sources.groups(lane, frequencies)
        code = small_signal.noise(
            system.dynamic.circuit, memory, room, system.values[lane], x, added.entries, added.gains, frequencies, wanted,
            excitation, sources.ends, sources.own[lane], groups.spans, groups.rows, groups.matrices, found, gain, job.flag,
            job.progress, share, tolerances.array(),
        )  # fmt: skip
        if code == Outcome.SOLVED:
            densities[lane], gains[lane] = found, gain
        return code

    outcomes = each_lane(system, point, count, job, one)
    unit = "V" if ("I", source) in {(u.kind, u.name) for u in system.unknowns} else "A"
    seconds = time.perf_counter() - begin
    return NoiseAnswer(point, frequencies, outcomes, seconds, sources.names, densities, gains, unit)


def each_lane(system: System, point: Solution, count: int, job: Job, one) -> np.ndarray:
    """Calls `one` for each lane that has an operating point, on all processors; gives back the outcomes."""
    lanes = len(system.lanes)
    outcomes = point.outcomes[:, 0].copy()
    job.begin(lanes * count, lanes)
    pattern, circuit = system.dynamic

    def work(chunk: np.ndarray) -> None:
        memory, room = new_memory(circuit, pattern), lu_room(pattern, np.complex128)
        for lane in chunk:
            if outcomes[lane] == Outcome.SOLVED:
                x = np.concatenate([[0.0], point.kept[lane, 0]])
                outcomes[lane] = one(int(lane), memory, room, x, int(lane))

    chunks = np.array_split(np.arange(lanes), min(lanes, 4 * job.workers))
    if len(chunks) == 1:
        work(chunks[0])
        return outcomes
    with ThreadPoolExecutor(job.workers) as pool:
        list(pool.map(work, chunks))
    return outcomes


# what goes in and what comes out
def pick(system: System, nets: tuple[str, str]) -> np.ndarray:
    """The vector that takes the voltage between two nets from the unknowns."""
    found = np.zeros(len(system.unknowns) + 1, complex)
    for net, sign in zip(nets, (1.0, -1.0), strict=True):
        found[index_of_net(system, net)] += sign
    found[0] = 0.0
    return found


def index_of_net(system: System, net: str) -> int:
    """Where a net stands in a solution; 0 for ground. Raises CircuitError."""
    if net in ("0", "gnd", ""):
        return 0
    if net not in system.nets:
        raise CircuitError(f"there is no net '{net}'; nets are {', '.join(system.nets[:12])}", net=net)
    return 1 + system.nets.index(net)


def source_of(system: System, name: str) -> Element | None:
    """The independent source of that name."""
    return next((e for e in system.netlist.elements if e.name == name and drives(e)), None)


def unit_excitation(system: System, source: str) -> np.ndarray:
    """1 V or 1 A from an independent source."""
    element = source_of(system, source)
    if element is None:
        raise CircuitError(
            f"there is no source '{source}'; there is {', '.join(system.source_slots) or 'none'}", part=source
        )
    found = np.zeros(len(system.unknowns) + 1, complex)
    if DEVICES[element.kind].branch:
        found[1 + [(u.kind, u.name) for u in system.unknowns].index(("I", source))] = 1.0
    else:
        found[index_of_net(system, element.nets[0])] -= 1.0
        found[index_of_net(system, element.nets[1])] += 1.0
    found[0] = 0.0
    return found


def own_excitation(system: System, lane: int) -> np.ndarray:
    """All AC sources of the circuit in a lane."""
    found = np.zeros(len(system.unknowns) + 1, complex)
    for name, phasors in system.phasors.items():
        if phasors[lane] != 0:
            found += phasors[lane] * unit_excitation(system, name)
    return found


@dataclass(frozen=True)
class Transfer:
    """DC small-signal transfer in each lane: gain, and the resistances seen at the input source and at the output [Ω]."""

    gain: np.ndarray
    input_resistance: np.ndarray
    output_resistance: np.ndarray


def dc_transfer(
    system: System, output: tuple[str, str], source: str, tolerances: Tolerances = DEFAULT, job=None
) -> Transfer:
    """The slope of an output by a source, from the equations of the operating point."""
    unit, wanted = unit_excitation(system, source), pick(system, output)
    answer = ac(system, np.zeros(1), tolerances, job, np.stack([unit, wanted]))
    with_ground = np.concatenate([np.zeros((2, len(system.lanes), 1, 1)), answer.values], axis=3)[:, :, 0, :].real
    gain = with_ground[0] @ wanted.real
    if source in {u.name for u in system.unknowns if u.kind == "I"}:
        current = with_ground[0] @ unit.real
        with np.errstate(divide="ignore"):
            seen = (1.0 if source_of(system, source).kind == "P" else -1.0) / current
    else:
        seen = with_ground[0] @ unit.real
    return Transfer(gain, seen, with_ground[1] @ wanted.real)
