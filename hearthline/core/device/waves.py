"""Devices at high frequencies: a transistor as a two-port over its bias, a passive one as what it is at each frequency."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.circuit.netlist import GROUND, Element, Netlist, Scope
from hearthline.core.data import two_port
from hearthline.core.data.dataset import Dataset
from hearthline.core.device.subject import Subject
from hearthline.core.device.sweeps import Conditions
from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.scattering import Scattered, scattering
from hearthline.core.engine.system import lower
from hearthline.core.expression import Expression
from hearthline.core.nports.conversions import converted

SMALL = 0.1
"""[Ω] Of the ports that bring the bias: gains and noise parameters do not depend on it, and it drops next to nothing."""


@dataclass(frozen=True)
class GainPlan:
    """A transistor between its control and its output terminal over the voltage of the first, at several frequencies [Hz]."""

    key: str
    control: str
    output: str
    start: float
    stop: float
    held: float
    frequencies: tuple[float, ...]
    points: int = 31


@dataclass(frozen=True)
class ReactancePlan:
    """Between the first terminal and all others, without bias, over frequency [Hz]."""

    key: str
    low: float = 1e8
    high: float = 2e10
    points: int = 70


def run_gain(subject: Subject, plan: GainPlan, conditions: Conditions, job: Job | None = None) -> Dataset:
    """`id` [A], `id/w` [A/m], `ft` and `fmax` [Hz], `nfmin` and `gmax` [dB] over the control's voltage; lanes are corner,
    temperature and frequency. fT is where |h21| is 1 and fmax where Mason's invariant is, both taken on at 20 dB a decade."""
    voltages = np.linspace(plan.start, plan.stop, plan.points)
    corners, celsius = _crossed(conditions)
    count = len(corners)
    control, output = f"port{plan.control}", f"port{plan.output}"
    bias = {control: np.tile(voltages, count), output: np.full(count * plan.points, plan.held)}
    lanes = Lanes(
        tuple(np.repeat(corners, plan.points)), np.repeat(celsius, plan.points), {},
        {name: subject.polarity * values for name, values in bias.items()},
    )  # fmt: skip
    elements = [_port(control, plan.control, 1), _port(output, plan.output, 2)]
    nets = tuple(t if t in (plan.control, plan.output) else GROUND for t in subject.terminals)
    netlist = Netlist((*elements, *subject.parts(nets)), Scope())
    system = lower(netlist, subject.models, lanes)
    answer = scattering(system, np.array(plan.frequencies), job=job)
    curves = _gains(answer)
    current = answer.point.kept[:, 0, [u.label for u in system.unknowns].index(f"I({output})")]
    curves["id"] = np.repeat(subject.polarity * current[:, None], len(plan.frequencies), axis=1)
    curves["id/w"] = curves["id"] / subject.number("w")
    shape = count, plan.points, len(plan.frequencies)
    laid = {name: rows.reshape(shape).transpose(0, 2, 1).reshape(-1, plan.points) for name, rows in curves.items()}
    outcomes = np.repeat(answer.outcomes.reshape(count, 1, plan.points), shape[2], axis=1).reshape(-1, plan.points)
    named = {
        "corner": np.repeat(corners, shape[2]), "temperature": np.repeat(celsius, shape[2]),
        "frequency": np.tile(np.array(plan.frequencies), count),
    }  # fmt: skip
    units = {"id": "A", "id/w": "A/m", "ft": "Hz", "fmax": "Hz", "nfmin": "dB", "gmax": "dB"}
    return Dataset(plan.key, f"v{plan.control}", "V", subject.polarity * voltages, laid, units, named, outcomes)


def _gains(answer: Scattered) -> dict[str, np.ndarray]:
    """Each (lanes, frequencies)."""
    s, f = answer.s, answer.frequencies
    y = converted(np.where(np.isfinite(s), s, 0.0), "S", "Y", SMALL)
    noise = two_port.noise_figures(s, answer.waves, answer.impedances[:, :1])
    with np.errstate(divide="ignore", invalid="ignore"):
        found = {
            "ft": f * np.abs(y[..., 1, 0] / y[..., 0, 0]),
            "fmax": f * np.sqrt(np.abs(two_port.unilateral_gain(s))),
            "nfmin": 10 * np.log10(noise.least),
            "gmax": 10 * np.log10(two_port.largest_gain(s)),
        }
    return {name: np.where(np.isfinite(rows), rows, np.nan) for name, rows in found.items()}


def run_reactance(subject: Subject, plan: ReactancePlan, conditions: Conditions, job: Job | None = None) -> Dataset:
    """`l` [H], `c` [F], `q` and `r` [Ω] over frequency: L where it is an inductance, C where it is a capacitance."""
    corners, celsius = _crossed(conditions)
    frequencies = np.geomspace(plan.low, plan.high, plan.points)
    nets = tuple(subject.terminals[0] if k == 0 else GROUND for k in range(len(subject.terminals)))
    netlist = Netlist((_port("port", subject.terminals[0], 1), *subject.parts(nets)), Scope())
    answer = scattering(lower(netlist, subject.models, Lanes(tuple(corners), celsius)), frequencies, job=job)
    s = np.where(np.isfinite(answer.s[..., 0, 0]), answer.s[..., 0, 0], np.nan)
    z = SMALL * (1.0 + s) / (1.0 - s)
    omega = 2.0 * np.pi * frequencies
    with np.errstate(divide="ignore", invalid="ignore"):
        curves = {
            "l": np.where(z.imag > 0, z.imag / omega, np.nan),
            "c": np.where(z.imag < 0, -1.0 / (omega * z.imag), np.nan),
            "q": np.abs(z.imag) / z.real,
            "r": z.real,
        }
    outcomes = np.repeat(answer.outcomes[:, None], plan.points, axis=1)
    named = {"corner": np.array(corners), "temperature": celsius}
    return Dataset(
        plan.key, "frequency", "Hz", frequencies, curves, {"l": "H", "c": "F", "q": "", "r": "Ω"}, named, outcomes
    )


def _crossed(conditions: Conditions) -> tuple[np.ndarray, np.ndarray]:
    count = len(conditions.celsius)
    return np.repeat(np.array(conditions.corners), count), np.tile(
        np.array(conditions.celsius, float), len(conditions.corners)
    )


def _port(name: str, net: str, number: int) -> Element:
    values = {"number": float(number), "impedance": SMALL, "dc": 0.0}
    return Element(name, "P", (net, GROUND), {key: Expression.constant(value) for key, value in values.items()})
