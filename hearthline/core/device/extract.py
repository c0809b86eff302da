"""Which numbers are extracted from which sheet of a device, on the curve of one condition."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.constants import kelvin
from hearthline.core.data import extraction as ex
from hearthline.core.device.naming import axis_of
from hearthline.core.device.sheets import Characteristics
from hearthline.core.device.subject import Family
from hearthline.core.errors import HearthlineError


@dataclass(frozen=True)
class Extracted:
    """An extraction, and the chart that it belongs to: sweep, x, y, lane."""

    sweep: str
    x: str
    y: str
    lane: int
    found: ex.Extraction


def extract(found: Characteristics, corner: str, celsius: float) -> list[Extracted]:
    """Everything that is usually asked of such a device, in one condition."""
    makers = {
        Family.FET: _transistor,
        Family.DEPLETION: _transistor,
        Family.BIPOLAR: _bipolar,
        Family.DIODE: _diode,
    }
    return makers.get(found.subject.family, _nothing)(found, corner, celsius)


def lane_of(found: Characteristics, sweep: str, corner: str, celsius: float, step: int = 0) -> int:
    """The lane of a condition and a step of the family; raises HearthlineError where there is none."""
    dataset = found.datasets[sweep]
    here = (dataset.conditions["corner"] == corner) & (np.abs(dataset.conditions["temperature"] - celsius) < 1e-6)
    lanes = np.flatnonzero(here)
    if not len(lanes):
        raise HearthlineError(f"the sheets have no curve at {corner} and {celsius:g} °C")
    return int(lanes[step])


class _Curves:
    """Curves of one condition by sweep, name and step."""

    def __init__(self, found: Characteristics, corner: str, celsius: float):
        self.found, self.corner, self.celsius = found, corner, celsius

    def lane(self, sweep: str, step: int = 0) -> int:
        return lane_of(self.found, sweep, self.corner, self.celsius, step)

    def get(self, sweep: str, name: str, step: int = 0) -> np.ndarray:
        values, _ = axis_of(self.found.datasets[sweep], name)
        return values[self.lane(sweep, step)]

    def step_value(self, sweep: str, source: str, step: int) -> float:
        return float(self.found.datasets[sweep].conditions[source][self.lane(sweep, step)])

    def note(self, sweep: str, x: str, y: str, step: int, found: ex.Extraction) -> Extracted:
        return Extracted(sweep, x, y, self.lane(sweep, step), found)


def _transistor(found: Characteristics, corner: str, celsius: float) -> list[Extracted]:
    curves, subject = _Curves(found, corner, celsius), found.subject
    p, top = subject.polarity, subject.supply
    size = subject.number("w", 1.0) / subject.number("l", 1.0)
    vgs, current = curves.get("transfer", "vg"), curves.get("transfer", "id")
    small = abs(curves.step_value("transfer", "vd", 0))
    notes = [
        ("transfer", "vg", "id", 0, _turned(ex.threshold_constant_current(p * vgs, current, size), p, 1.0)),
        ("transfer", "vg", "id", 0, _turned(ex.threshold_extrapolated(p * vgs, current, small), p, p)),
        ("transfer", "vg", "id", 0, _turned(ex.threshold_second_derivative(p * vgs, current), p, p)),
    ]
    last = len(found.sheets.sweeps["output"].steps) - 1
    middle = last // 2 + 1
    vds, drain = curves.get("output", "vd", middle), curves.get("output", "id", middle)
    reach = float(np.nanmax(np.abs(vds)))
    last_vds, last_drain = curves.get("output", "vd", last), curves.get("output", "id", last)
    conductance = ex.slope(vds, drain, p * 0.8 * reach, "output conductance", "S", "d id / d vds")
    notes += [
        ("output", "vd", "id", middle, ex.lambda_from_two_points(vds, drain, p * 0.6 * reach, p * 0.95 * reach)),
        ("output", "vd", "id", middle, conductance),
        ("output", "vd", "id", last, ex.on_resistance(last_vds, last_drain, p * 0.05)),
    ]
    gate, saturated = curves.get("transfer", "vg", 1), curves.get("transfer", "id", 1)
    at = p * 0.75 * top if subject.family is Family.FET else 0.0
    steepness = ex.slope(gate, saturated, at, "transconductance", "S", "d id / d vgs")
    notes.append(("transfer", "vg", "id", 1, steepness))
    names = found.datasets["transfer"].curves
    if "gm/id" in names:
        level = "ic" if "ic" in names else "vg"
        ratio, x = curves.get("transfer", "gm/id", 1), curves.get("transfer", level, 1)
        notes.append(("transfer", level, "gm/id", 1, ex.largest(x, ratio, "largest gm/ID", "1/V", "gm / id")))
    if "ft" in names:
        fastest = ex.largest(gate, curves.get("transfer", "ft", 1), "largest fT", "Hz", "gm / (2π·cgg)")
        notes.append(("transfer", "vg", "ft", 1, fastest))
    return [curves.note(*note) for note in notes]


def _turned(found: ex.Extraction, x: float, y: float) -> ex.Extraction:
    """A construction made on turned axes, back on those of the device."""

    def turn(point: ex.Point) -> ex.Point:
        return x * point[0], y * point[1]

    lines = tuple((turn(a), turn(b)) for a, b in found.lines)
    value = x * found.value if found.name.startswith("threshold") else found.value
    return ex.Extraction(found.name, value, found.unit, found.formula, tuple(map(turn, found.points)), lines)


def _bipolar(found: Characteristics, corner: str, celsius: float) -> list[Extracted]:
    curves, p = _Curves(found, corner, celsius), found.subject.polarity
    vbe, ic = curves.get("gummel", "vb"), curves.get("gummel", "ic")
    notes = [("gummel", "vb", "ic", 0, _turned(ex.ideality(p * vbe, ic, float(kelvin(celsius)), 1e-9, 1e-6), p, 1.0))]
    names, level = found.datasets["gummel"].curves, np.abs(ic)
    if "beta" in names:
        largest = ex.largest(level, curves.get("gummel", "beta"), "largest beta", "", "ic / ib")
        notes.append(("gummel", "ic", "beta", 0, largest))
    vce, output = curves.get("output", "vc", 2), curves.get("output", "ic", 2)
    notes.append(("output", "vc", "ic", 2, ex.early_voltage(vce, output, p * 1.5)))
    if "ft" in names:
        fastest = ex.largest(level, curves.get("gummel", "ft"), "largest fT", "Hz", "gm / (2π·(cπ + cµ))")
        notes.append(("gummel", "ic", "ft", 0, fastest))
    return [curves.note(*note) for note in notes]


def _diode(found: Characteristics, corner: str, celsius: float) -> list[Extracted]:
    curves = _Curves(found, corner, celsius)
    outside, current = f"v{found.subject.terminals[0]}", curves.get("forward", "id")
    inside = "vd" if "vd" in found.datasets["forward"].curves else outside
    absolute = float(kelvin(celsius))
    notes = [
        ("forward", inside, "id", 0, ex.ideality(curves.get("forward", inside), current, absolute, 1e-9, 1e-6)),
        (
            "forward",
            outside,
            "id",
            0,
            ex.series_resistance(curves.get("forward", outside), current, absolute, 1e-9, 1e-6),
        ),
    ]
    return [curves.note(*note) for note in notes]


def _nothing(found: Characteristics, corner: str, celsius: float) -> list[Extracted]:
    return []
