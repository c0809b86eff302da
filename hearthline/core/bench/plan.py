"""An analysis made ready: its settings as numbers, how much it will compute, and the dataset that it gives over some
conditions."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from hearthline.core import limits
from hearthline.core.bench.analysis import SETTINGS, Analysis
from hearthline.core.bench.defaults import Surroundings, complete
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.netlist import Netlist
from hearthline.core.data.dataset import Dataset
from hearthline.core.engine import dc
from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.small_signal import ac, noise, spaced, unit_excitation
from hearthline.core.engine.solve import Solution, Sweep, Tolerances, solve
from hearthline.core.engine.system import System, lower
from hearthline.core.engine.transient.labelled import dataset_of
from hearthline.core.engine.transient.run import Times, transient
from hearthline.core.errors import CircuitError
from hearthline.core.spread.pvt import Condition, lanes_of

TRANSIENT_POINTS = 2000
"""What a transient is taken to need before it has run."""
ALL_BYTES, NET_BYTES = 4e6, 32e6
"""Under the first everything is kept, under the second all nets and branch currents, beyond it only what is watched."""
_SPACED = {"decade": "dec", "octave": "oct", "even": "lin"}


@dataclass(frozen=True)
class Piece:
    """What came out over some conditions: the dataset, what the engine said, and why lanes failed."""

    dataset: Dataset
    log: tuple[str, ...]
    failures: Mapping[int, str]
    seconds: float


@dataclass(frozen=True)
class Plan:
    """One analysis of a snapshot. `labels` are what is watched."""

    snapshot: Snapshot
    analysis: Analysis
    labels: tuple[str, ...]

    @cached_property
    def around(self) -> Surroundings:
        """What the circuit has."""
        return Surroundings(self.snapshot)

    @cached_property
    def settings(self) -> dict[str, str]:
        """Every setting as text."""
        return complete(self.analysis, self.around)

    def run(self, conditions: tuple[Condition, ...], job: Job) -> Piece:
        """The analysis over these conditions. Raises HearthlineError for what is wrong in the bench or circuit; a lane that
        does not converge is marked and the others stand."""
        piece = _RUNS[self.analysis.kind](self, self.around.netlist, lanes_of(conditions), job)
        units = {**self.snapshot.parameter_units, **piece.dataset.units}
        return replace(piece, dataset=replace(piece.dataset, units=units))

    # -- settings as numbers

    def number(self, word: str) -> float:
        """One setting. Raises CircuitError naming analysis and setting."""
        unit = next(one.unit for one in SETTINGS[self.analysis.kind] if one.word == word)
        if word in ("from", "to", "step", "at") and self.analysis.kind == "sweep":
            unit = self.unit_of(self.settings["of"])
        return self.snapshot.number(f"{self.analysis.name}, {word}", self.settings[word], unit)

    def unit_of(self, name: str) -> str:
        """Unit of what is swept."""
        if name.lower() == "temperature":
            return "°C"
        source = self.around.source(name)
        return "V" if source is None or source.kind == "V" else "A"

    @cached_property
    def swept(self) -> np.ndarray:
        """The points of the axis. Raises CircuitError for a step of nothing, or one that leads away."""
        begin, end = self.number("from"), self.number("to")
        if "step" in self.settings and "points" not in self.settings:
            count = _steps(self.analysis.name, begin, end, self.number("step"))
            return begin + self.number("step") * np.arange(count)
        return np.linspace(begin, end, self._count("points", 2))

    def _count(self, word: str, least: int) -> int:
        count = self.number(word)
        if count != int(count) or count < least:
            raise CircuitError(f"{self.analysis.name}: {word} is a whole number of {least} or more, and is {count:g}")
        return int(count)

    @cached_property
    def outer(self) -> np.ndarray:
        """Values of the second swept quantity."""
        if "within" not in self.settings:
            return np.zeros(0)
        if self.settings["within"].lower() == self.settings["of"].lower():
            raise CircuitError(f"{self.analysis.name}: {self.settings['of']} cannot be swept within itself")
        name, texts = self.settings["within"], self.settings.get("at", "")
        if not texts:
            raise CircuitError(
                f"{self.analysis.name}: within {name} needs its values, as in: within {name} at 1.0,1.1,1.2"
            )
        owner, unit = f"{self.analysis.name}, at", self.unit_of(name)
        return np.array([self.snapshot.number(owner, text, unit) for text in texts.split(",") if text])

    @cached_property
    def frequencies(self) -> np.ndarray:
        """The points of a small-signal analysis [Hz]."""
        return spaced(_SPACED[self.settings["spaced"]], *self._band(), self._count("points", 1))

    def _band(self) -> tuple[float, float]:
        """Lowest and highest frequency [Hz]."""
        low, high = self.number("from"), self.number("to")
        if not 0 < low <= high:
            raise CircuitError(
                f"{self.analysis.name}: frequencies rise from more than 0 Hz, and not from {low:g} to {high:g} Hz"
            )
        return low, high

    @cached_property
    def times(self) -> Times:
        """Of a transient."""
        stop, start = self.number("to"), self.number("from")
        if not 0 <= start < stop:
            raise CircuitError(
                f"{self.analysis.name}: a transient ends after it begins, not from {start:g} s to {stop:g} s"
            )
        longest = self.number("step") if "step" in self.settings else stop / 100
        if longest <= 0:
            raise CircuitError(f"{self.analysis.name}: the longest step is more than nothing, and is {longest:g} s")
        given, rule = self.settings["begin"] == "given", self.settings["rule"]
        return Times(stop / 1000, stop, start, longest, given, rule, rel=self.number("error"))

    # -- how much it is

    def points(self) -> int:
        """Points of one condition, before any array of them is made."""
        kind = self.analysis.kind
        if kind == "sweep":
            if "points" in self.settings:
                inner = self._count("points", 2)
            else:
                inner = _steps(self.analysis.name, self.number("from"), self.number("to"), self.number("step"))
            return inner * max(1, len(self.outer))
        if kind in ("ac", "noise"):
            (low, high), count = self._band(), self._count("points", 1)
            ratio = {"decade": np.log10, "octave": np.log2}.get(self.settings["spaced"])
            return count if ratio is None else int(count * ratio(high / low)) + 1
        if kind == "transient":
            times = self.times
            return max(TRANSIENT_POINTS, int(min(times.stop / times.longest_step, 1e12)))
        return 1

    def kept(self, system: System, lanes: int) -> tuple[list[int] | None, list[int]]:
        """Which unknowns (None: all) and variables are kept: everything where it is little, else nets, else what is watched."""
        points, wanted = lanes * self.points(), set(self.labels)
        watched = [k for k, one in enumerate(system.variables) if one.label in wanted]
        drawn = {element.name for element in system.netlist.elements}
        visible = [k for k, one in enumerate(system.variables) if one.element in drawn and not one.hidden]
        if 8 * points * (len(system.unknowns) + len(visible)) < ALL_BYTES:
            return None, visible
        if 8 * points * len(system.unknowns) < NET_BYTES:
            return None, watched
        return [k for k, one in enumerate(system.unknowns) if one.label in wanted], watched


def _steps(name: str, begin: float, end: float, step: float) -> int:
    if step == 0:
        raise CircuitError(f"{name}: a step of nothing never arrives; give a step, or points in its place")
    count = (end - begin) / step
    if count < 0:
        raise CircuitError(f"{name}: a step of {step:g} leads away from {end:g}; turn its sign")
    if not count < limits.SWEEP:
        raise CircuitError(f"{name}: steps of {step:g} are more than {limits.SWEEP:.0e} points; take larger ones")
    return int(np.floor(count * (1 + 1e-12) + 1e-9)) + 1


# the kinds


def _failures(solution: Solution) -> dict[int, str]:
    return {int(lane): str(solution.failure(lane)) for lane in solution.failed_lanes}


def _point(plan: Plan, netlist: Netlist, lanes: Lanes, job: Job) -> Piece:
    result = dc.operating_point(netlist, plan.snapshot.kit.models, lanes, job=job)
    solution = result.solution
    return Piece(result.dataset, tuple(solution.log()), _failures(solution), solution.seconds)


def _sweep(plan: Plan, netlist: Netlist, lanes: Lanes, job: Job) -> Piece:
    inner, outer = plan.settings["of"], plan.settings.get("within", "")
    if outer:
        lanes = _spread(plan, lanes, outer, plan.outer)
    source, points = plan.around.source(inner), plan.swept
    if source is not None:
        system = lower(netlist, plan.snapshot.kit.models, lanes)
        unknowns, variables = plan.kept(system, len(lanes))
        solution = solve(system, Sweep((source.name,), points), Tolerances(), unknowns, variables, job)
        data = dc.dataset_of("dc", solution, source.name, plan.unit_of(inner), points)
    else:  # a parameter or the temperature: each point is a lane of its own
        count = len(points)
        system = lower(netlist, plan.snapshot.kit.models, _spread(plan, lanes, inner, points))
        unknowns, variables = plan.kept(system, len(lanes))
        solution = solve(system, Sweep(), Tolerances(), unknowns, variables, job)
        axis = inner.lower() if inner.lower() == "temperature" else inner
        data = _folded(dc.dataset_of("dc", solution, axis, plan.unit_of(inner), points), lanes, count)
    failures = _failures(solution)
    if len(solution.outcomes) != data.lanes:
        failures = {lane // len(points): text for lane, text in reversed(failures.items())}
    if outer:
        column = lanes.sources.get(outer.lower())
        outside = {} if column is None else {outer.lower(): column}
        data = replace(data, per_condition=len(plan.outer), conditions={**data.conditions, **outside})
    return Piece(data, tuple(solution.log()), failures, solution.seconds)


def _spread(plan: Plan, lanes: Lanes, name: str, values: np.ndarray) -> Lanes:
    """Every lane at every value of a source, a parameter or the temperature."""
    if name.lower() == "temperature":
        return lanes.spread(celsius=values)
    if plan.around.source(name) is not None:
        return lanes.spread(**{f"source:{name.lower()}": values})
    if name not in plan.snapshot.parameters and name not in plan.snapshot.cell.parameters:
        known = ", ".join([one.name for one in plan.around.sources] + [*plan.snapshot.parameters, "temperature"])
        raise CircuitError(
            f"{plan.analysis.name}: there is no source or parameter '{name}'; there are {known}", part=name
        )
    return lanes.spread(**{f"parameter:{name}": values})


def _folded(data: Dataset, lanes: Lanes, count: int) -> Dataset:
    """Lanes in a row become points of one lane."""
    shape = (len(lanes), count)
    return replace(
        data,
        curves={label: values.reshape(shape) for label, values in data.curves.items()},
        conditions=dc.conditions_of(lanes),
        outcomes=data.outcomes.reshape(shape),
    )


def _transient(plan: Plan, netlist: Netlist, lanes: Lanes, job: Job) -> Piece:
    system = lower(netlist, plan.snapshot.kit.models, lanes)
    unknowns, variables = plan.kept(system, len(lanes))
    march = transient(system, plan.times, unknowns=unknowns, variables=variables, job=job)
    failures = {lane: str(march.failure(lane)) for lane in march.failed_lanes}
    return Piece(dataset_of(march), tuple(march.log()), failures, march.seconds)


def _ac(plan: Plan, netlist: Netlist, lanes: Lanes, job: Job) -> Piece:
    system = lower(netlist, plan.snapshot.kit.models, lanes)
    by = plan.settings.get("by", "")
    excitations = None
    if by:
        excitations = unit_excitation(system, by.lower())[None, :]
    elif not any(np.any(phasor != 0) for phasor in system.phasors.values()):
        raise CircuitError(
            f"{plan.analysis.name}: no source has an AC amplitude; give one, or say which drives: by vin"
        )
    answer = ac(system, plan.frequencies, job=job, excitations=excitations)
    known = {one.label for one in system.variables}
    data = answer.dataset(variables=tuple(label for label in plan.labels if label in known))
    failures = {int(lane): str(answer.failure(lane)) for lane in answer.failed_lanes}
    return Piece(data, tuple(answer.point.log()), failures, answer.seconds)


def _noise(plan: Plan, netlist: Netlist, lanes: Lanes, job: Job) -> Piece:
    system = lower(netlist, plan.snapshot.kit.models, lanes)
    ends = [net.strip().lower() for net in plan.settings["of"].removeprefix("V(").removesuffix(")").split(",")]
    if "by" not in plan.settings:
        raise CircuitError(f"{plan.analysis.name}: say which source noise is referred to: by vin")
    output = (ends[0], ends[1] if len(ends) > 1 else "0")
    answer = noise(system, plan.frequencies, output, plan.settings["by"].lower(), job=job)
    failures = {int(lane): str(answer.failure(lane)) for lane in answer.failed_lanes}
    return Piece(_named_noise(answer.dataset()), tuple(answer.point.log()), failures, answer.seconds)


def _named_noise(data: Dataset) -> Dataset:
    """Totals as quantities of their own: `noise.output`, `noise.input`; contributors as `m1.channel`."""
    names = {"output_noise": "noise.output", "input_noise": "noise.input"}
    curves = {names.get(label, label): values for label, values in data.curves.items()}
    return replace(data, curves=curves, units={names.get(label, label): unit for label, unit in data.units.items()})


_RUNS: Mapping[str, Callable[[Plan, Netlist, Lanes, Job], Piece]] = {
    "point": _point, "sweep": _sweep, "transient": _transient, "ac": _ac, "noise": _noise,
}  # fmt: skip
