"""The characteristic sheets of each family of devices: which sweeps to make, and which quantity against which to draw."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from hearthline.core.data.dataset import Dataset
from hearthline.core.device.subject import Family, Subject
from hearthline.core.device.sweeps import Conditions, LoopPlan, SweepPlan, run_loop, run_sweep, spread_steps
from hearthline.core.device.waves import GainPlan, ReactancePlan, run_gain, run_reactance
from hearthline.core.engine.job import Job

MEANINGS = {
    "id": "drain current", "vgs": "gate-source voltage", "vds": "drain-source voltage", "gm": "transconductance",
    "gds": "output conductance", "gm/id": "transconductance efficiency", "gm/gds": "intrinsic gain",
    "ic": "collector current", "ib": "base current", "vce": "collector-emitter voltage",
    "vbe": "base-emitter voltage", "beta": "current gain", "ft": "transit frequency", "cgg": "gate capacitance",
    "cgs": "gate-source capacitance", "cgd": "gate-drain capacitance", "cap": "capacitance", "v": "voltage",
    "i": "current", "vd": "junction voltage", "res": "resistance", "cd": "junction capacitance",
    "fmax": "largest frequency of oscillation", "nfmin": "least noise figure", "gmax": "maximum gain",
    "id/w": "current density", "l": "inductance", "c": "capacitance", "q": "quality", "r": "resistance",
}  # fmt: skip


Plan = SweepPlan | LoopPlan | GainPlan | ReactancePlan
RUNS: Mapping[type, Callable] = {
    SweepPlan: run_sweep,
    LoopPlan: run_loop,
    GainPlan: run_gain,
    ReactancePlan: run_reactance,
}
"""What makes the dataset of each kind of sweep."""
FREQUENCIES = (1e9, 2.4e9, 10e9)
"""[Hz] At which transistors are shown as two-ports."""


@dataclass(frozen=True)
class Chart:
    """One quantity against another, both by name; `steps` picks steps of the family by index, None for all."""

    title: str
    sweep: str
    x: str
    y: str
    log_x: bool = False
    log_y: bool = False
    steps: tuple[int, ...] | None = None


@dataclass(frozen=True)
class Sheets:
    """All sweeps and charts of a device."""

    sweeps: Mapping[str, Plan]
    charts: tuple[Chart, ...]


@dataclass(frozen=True)
class Characteristics:
    """What came out: one dataset for each sweep. `problems` says which conditions failed, and why."""

    subject: Subject
    sheets: Sheets
    datasets: Mapping[str, Dataset]
    problems: Mapping[str, str] = field(default_factory=dict)


def sheets_of(subject: Subject) -> Sheets:
    """The sheets of a device by its family."""
    return _MAKERS.get(subject.family, _two_terminal)(subject)


def characterise(subject: Subject, conditions: Conditions, job: Job | None = None,
                 progress: Callable[[str, Dataset], None] = lambda key, dataset: None) -> Characteristics:  # fmt: skip
    """Makes every sweep in every condition; `progress` hears of each that is done. Raises CircuitError."""
    sheets, found, problems = sheets_of(subject), {}, {}
    for key, plan in sheets.sweeps.items():
        if job and job.flag[0]:
            break
        data = RUNS[type(plan)](subject, plan, conditions, job)
        found[key] = _with_derived(data)
        failed = (found[key].outcomes != 0).any(axis=1)
        if failed.any():
            problems[key] = f"{int(failed.sum())} of {len(failed)} curves have points without a solution"
        progress(key, found[key])
    return Characteristics(subject, sheets, found, problems)


def _with_derived(dataset: Dataset) -> Dataset:
    """Ratios that people read off: gm/id, gm/gds."""
    curves, units = dict(dataset.curves), dict(dataset.units)
    for name, over, under, unit in (("gm/id", "gm", "id", "1/V"), ("gm/gds", "gm", "gds", "")):
        if over in curves and under in curves:
            with np.errstate(divide="ignore", invalid="ignore"):
                ratio = curves[over] / np.abs(curves[under])
            curves[name], units[name] = np.where(np.isfinite(ratio), ratio, np.nan), unit
    return replace(dataset, curves=curves, units=units)


def _available(subject: Subject, *names: str) -> tuple[str, ...]:
    """Those of the names that the device can be asked for."""
    known = _readouts(subject)
    return tuple(name for name in names if name in known)


def _readouts(subject: Subject) -> set[str]:
    from hearthline.core.device.subject import DUT
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.system import lower  # the module is known after lowering only

    corner = next(iter(subject.models.corners))
    system = lower(subject.netlist(), subject.models, Lanes(corners=(corner,)))
    return {variable.name for variable in system.variables if variable.element == DUT}


def _transistor(subject: Subject) -> Sheets:
    top, depletion = subject.supply, subject.family is Family.DEPLETION
    low, high = (-1.6 * top, 0.4) if depletion else (0.0, top)
    gates = spread_steps(low + (high - low) / 3, high, 5)
    names = _available(subject, "id", "gm", "gds", "vgs", "vds", "ic", "ft", "vth", "vdsat")
    capacitances = _available(subject, "cgg", "cgs", "cgd", "cgb", "vgs")
    drains = (0.05, top) if not depletion else (0.5 * top, 2 * top)
    reach = top if not depletion else 2 * top
    sweeps = {
        "output": SweepPlan("output", "vd", 0.0, reach, "vg", gates, {}, names, ("gds",)),
        "transfer": SweepPlan("transfer", "vg", low - 0.1 * top, high, "vd", drains, {}, names, ("id", "gm")),
    }
    charts = [
        Chart("Output family", "output", "vd", "id"),
        Chart("Transfer", "transfer", "vg", "id"),
        Chart("Current in decades", "transfer", "vg", "id", log_y=True),
        Chart("Transconductance", "transfer", "vg", "gm"),
        Chart("Output conductance", "output", "vd", "gds", log_y=True),
        Chart("Intrinsic gain", "output", "vd", "gm/gds"),
    ]
    if "ic" in names:
        charts.append(Chart("gm/ID against inversion", "transfer", "ic", "gm/id", log_x=True, steps=(1,)))
    if "ft" in names:
        charts.append(Chart("Transit frequency", "transfer", "vg", "ft", steps=(1,)))
    if "cgg" in capacitances:
        sweeps["capacitance"] = SweepPlan(
            "capacitance", "vg", low - 0.6 * top, high, "vd", (0.0, top), {}, capacitances
        )  # fmt: skip
        charts.append(Chart("Gate capacitance", "capacitance", "vg", "cgg"))
    if {"d", "g", "s"} <= set(subject.terminals):
        sweeps["waves"] = GainPlan("waves", "g", "d", low + (high - low) / 4, high, reach, FREQUENCIES)
        charts += [
            Chart("Transit frequency, by waves", "waves", "id/w", "ft", log_x=True),
            Chart("Largest frequency of oscillation", "waves", "id/w", "fmax", log_x=True),
            Chart("Least noise figure", "waves", "id/w", "nfmin", log_x=True),
            Chart("Maximum gain", "waves", "id/w", "gmax", log_x=True),
        ]
    if "b" in subject.terminals:
        bodies = (0.0, -top / 3, -2 * top / 3, -top)
        kept = _available(subject, "id", "vgs", "gm")
        sweeps["body"] = SweepPlan("body", "vg", low, high, "vb", bodies, {"vd": 0.05}, kept, ("id",))
        charts.append(Chart("Body effect", "body", "vg", "id"))
    return Sheets(sweeps, tuple(charts))


def _bipolar(subject: Subject) -> Sheets:
    names = _available(subject, "ic", "ib", "vce", "vbe", "beta", "gm", "ft", "go", "cpi", "cmu")
    currents = (2e-6, 4e-6, 6e-6, 8e-6, 10e-6)
    sweeps = {
        "output": SweepPlan(
            "output", "vc", 0.0, 3.0, "ib", currents, {}, names, driven_by_current=("b",), stepped_unit="A"
        ),
        "gummel": SweepPlan("gummel", "vb", 0.3, 1.0, "vc", (1.0, 2.0), {}, names, ("ic", "ib", "beta")),
    }  # fmt: skip
    charts = [
        Chart("Output family", "output", "vc", "ic"),
        Chart("Gummel plot: collector", "gummel", "vb", "ic", log_y=True),
        Chart("Gummel plot: base", "gummel", "vb", "ib", log_y=True),
        Chart("Current gain", "gummel", "ic", "beta", log_x=True),
        Chart("Transit frequency", "gummel", "ic", "ft", log_x=True),
        Chart("Transconductance", "gummel", "vb", "gm", log_y=True),
    ]
    return Sheets(sweeps, tuple(chart for chart in charts if chart.y in names))


def _diode(subject: Subject) -> Sheets:
    anode = f"v{subject.terminals[0]}"
    names = _available(subject, "id", "vd", "gd", "cd")
    sweeps = {
        "forward": SweepPlan("forward", anode, 0.0, 1.0, "", (0.0,), {}, names, ("id", "gd")),
        "reverse": SweepPlan("reverse", anode, -12.0, 0.5, "", (0.0,), {}, names, ("id",)),
    }
    charts = (
        Chart("Forward", "forward", "vd", "id"),
        Chart("Forward in decades", "forward", "vd", "id", log_y=True),
        Chart("Reverse and breakdown", "reverse", "vd", "id"),
        Chart("Reverse in decades", "reverse", "vd", "id", log_y=True),
        Chart("Capacitance", "reverse", "vd", "cd"),
        Chart("Conductance", "forward", "vd", "gd", log_y=True),
    )
    return Sheets(sweeps, charts)


def _two_terminal(subject: Subject) -> Sheets:
    source = f"v{next(t for t in subject.terminals if t != subject.reference)}"
    names = tuple(sorted(_readouts(subject)))
    reach = subject.supply
    sweeps: dict[str, Plan] = {"voltage": SweepPlan("voltage", source, -reach, reach, "", (0.0,), {}, names)}
    charts = tuple(
        Chart(MEANINGS.get(name, name).capitalize(), "voltage", source, name) for name in names if name != "v"
    )
    if subject.family is not Family.CAPACITIVE:
        return Sheets(sweeps, charts)
    sweeps["waves"] = ReactancePlan("waves")
    return Sheets(sweeps, (*charts, *_over_frequency("c")))


def _over_frequency(value: str) -> tuple[Chart, ...]:
    title = {"c": "Capacitance over frequency", "l": "Inductance over frequency"}[value]
    return (
        Chart(title, "waves", "frequency", value, log_x=True),
        Chart("Quality over frequency", "waves", "frequency", "q", log_x=True),
        Chart("Resistance over frequency", "waves", "frequency", "r", log_x=True, log_y=True),
    )


def _reactive(subject: Subject) -> Sheets:
    """Of a small circuit: what it is between its first terminal and ground. Beyond its own resonance an inductor is none."""
    value = "c" if len(subject.terminals) == 1 else "l"
    return Sheets({"waves": ReactancePlan("waves")}, _over_frequency(value))


def _memory(subject: Subject) -> Sheets:
    """Loops under a sine: one quantity against another, pinched at the origin where nothing is stored."""
    source = f"v{next(t for t in subject.terminals if t != subject.reference)}"
    names = tuple(sorted(_readouts(subject)))
    across = next((name for name in ("v", "vd") if name in names), names[0])
    through = next((name for name in ("i", "id") if name in names), names[-1])
    plan = LoopPlan("loop", source, subject.supply, names, (across, through))
    charts = [Chart("Loop under a sine", "loop", across, through)]
    others = [name for name in names if name not in (across, through)]
    charts += [
        Chart(f"{MEANINGS.get(name, name).capitalize()} along the loop", "loop", across, name) for name in others
    ]
    charts += [
        Chart(f"{MEANINGS.get(name, name).capitalize()} over a period", "loop", "period", name)
        for name in (through, *others)
    ]
    return Sheets({"loop": plan}, tuple(charts))


_MAKERS: dict[Family, Callable[[Subject], Sheets]] = {
    Family.FET: _transistor, Family.DEPLETION: _transistor, Family.BIPOLAR: _bipolar, Family.DIODE: _diode,
    Family.MEMORY: _memory, Family.REACTIVE: _reactive,
}  # fmt: skip
