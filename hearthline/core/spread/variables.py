"""What varies from chip to chip: parameters of the process, devices that differ from their twins, and values with a tolerance.

Mismatch follows Pelgrom, Duinmaijer and Welbers, IEEE J. Solid-State Circuits 24, 1989: the difference of two equal devices
has a standard deviation of a coefficient A over the root of the area of one, so one device A / sqrt(2 W L).
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field

import numpy as np

from hearthline.core.circuit.netlist import Element, Netlist, Scope
from hearthline.core.elements import DEVICES, ELEMENTS
from hearthline.core.engine.parameters import Environment
from hearthline.core.errors import CircuitError, ExpressionError
from hearthline.core.expression import Expression
from hearthline.core.process.kit import Statistics
from hearthline.core.spread.pvt import Condition
from hearthline.core.tolerance import Tolerance

PROCESS, MISMATCH, TOLERANCE = "process", "mismatch", "tolerance"
KINDS = (PROCESS, MISMATCH, TOLERANCE)
BY_MULTIPLES = {"Q", "D"}
"""Kinds of parts whose size is a multiple of the model's area."""
PAIR = math.sqrt(2.0)
"""A coefficient of a kit is of the difference of two."""

Target = tuple[str, str]
"""A part and its parameter."""


@dataclass(frozen=True)
class Variable:
    """One number that varies. Its `sigma` is in its own unit, or a share where it has a `tolerance`; `nominal` is the value of
    a part as it is written, 0 of what is a deviation. `targets` are what it moves; as a `share` of their value where it is
    one."""

    name: str
    kind: str
    part: str = ""
    parameter: str = ""
    nominal: float = 0.0
    sigma: float = 0.0
    targets: tuple[Target, ...] = ()
    share: bool = False
    tolerance: Tolerance | None = None

    def deviations(self, normal: np.ndarray) -> np.ndarray:
        """What standard normal numbers come to."""
        return self.tolerance.shares(normal) if self.tolerance else self.sigma * normal

    def values(self, normal: np.ndarray) -> np.ndarray:
        """As a person reads them: a part's own value, or the deviation."""
        deviations = self.deviations(normal)
        return self.nominal * (1.0 + deviations) if self.tolerance else deviations


@dataclass(frozen=True)
class BenchStatistics:
    """What a bench says beside the kit: tolerances by part and value ("" is the part's own), and for decks, which have no kit,
    coefficients of mismatch of one device and standard deviations of the process, by model and parameter."""

    tolerances: Mapping[Target, Tolerance] = field(default_factory=dict)
    mismatch: Mapping[str, Mapping[str, float]] = field(default_factory=dict)
    process: Mapping[str, Mapping[str, float]] = field(default_factory=dict)


def variables_of(
    netlist: Netlist, statistics: Statistics, at: Condition, own: BenchStatistics | None = None,
    kinds: Iterable[str] = KINDS,
) -> tuple[Variable, ...]:  # fmt: skip
    """Every variable of a circuit: the process's, those of each device, and tolerances. Raises CircuitError for a device whose
    area is not known, and for a tolerance of what is not there."""
    own, kinds = own or BenchStatistics(), set(kinds)
    environment = Environment(at.parameters, at.celsius)
    found: list[Variable] = []
    if PROCESS in kinds:
        found += [Variable(f"process.{name}", PROCESS, "", name, 0.0, s) for name, s in statistics.process.items()]
        found += _of_models(netlist, own)
    if MISMATCH in kinds:
        found += _of_devices(netlist, statistics, own, environment)
    if TOLERANCE in kinds:
        found += _of_values(netlist, own, environment)
    return tuple(found)


def model_of(element: Element) -> str:
    """The model as a person calls it, wherever its card stands."""
    return element.model.rpartition(":")[2]


def _of_models(netlist: Netlist, own: BenchStatistics) -> Iterator[Variable]:
    for model, sigmas in own.process.items():
        there = [one for one in netlist.elements if model_of(one) == model.lower()]
        if not there:
            raise CircuitError(
                f"process of '{model}': no part has that model; there are {_models(netlist)}", part=model
            )
        for name, sigma in sigmas.items():
            targets = tuple((one.name, name) for one in there)
            yield Variable(f"process.{model}.{name}", PROCESS, "", name, 0.0, sigma, targets, there[0].kind in DEVICES)


def _models(netlist: Netlist) -> str:
    return ", ".join(sorted({model_of(one) for one in netlist.elements if one.model})) or "none"


def _of_devices(
    netlist: Netlist, statistics: Statistics, own: BenchStatistics, environment: Environment
) -> Iterator[Variable]:
    """Each parameter of each device that differs."""
    known = {model_of(one) for one in netlist.elements}
    for model in own.mismatch:
        if model.lower() not in known:
            raise CircuitError(
                f"mismatch of '{model}': no part has that model; there are {_models(netlist)}", part=model
            )
    of_bench = {name.lower(): table for name, table in own.mismatch.items()}
    for element in netlist.elements:
        of_kit = {name: A / PAIR for name, A in statistics.mismatch.get(element.model, {}).items()}
        for name, coefficient in {**of_kit, **of_bench.get(model_of(element), {})}.items():
            sigma = coefficient / math.sqrt(area_of(element, environment))
            plain = element.kind in DEVICES and name in DEVICES[element.kind].defaults
            targets = ((element.name, name),)
            yield Variable(f"{element.name}.{name}", MISMATCH, element.name, name, 0.0, sigma, targets, plain)


def device_sigmas(netlist: Netlist, statistics: Statistics, at: Condition, part: str) -> dict[str, float]:
    """Standard deviations of what differs in one device of a kit, by its area; nothing where nothing does. Raises
    CircuitError."""
    element = next((one for one in netlist.elements if one.name == part), None)
    law = statistics.mismatch.get(element.model, {}) if element is not None else {}
    if element is None or not law:
        return {}
    area = area_of(element, Environment(at.parameters, at.celsius))
    return {name: coefficient / PAIR / math.sqrt(area) for name, coefficient in law.items()}


def is_voltage(parameter: str) -> bool:
    """Whether a deviation of a device is one of a voltage; every other is a share."""
    return parameter.startswith("dv")


def area_of(element: Element, environment: Environment) -> float:
    """Width times length of all devices in parallel [m²]; of bipolars and diodes the multiple of the model's area. Raises
    CircuitError."""
    found = 1.0
    for name in ("area", "m") if element.kind in BY_MULTIPLES else ("w", "l", "m"):
        expression = element.values.get(name)
        if expression is None:
            if name in ("area", "m"):
                continue
            raise CircuitError(
                f"{element.name}: its {name} is not given, so its mismatch is not known", part=element.name
            )
        found *= _number(element.name, name, expression, element.scope, environment)
    if not found > 0:
        raise CircuitError(f"{element.name}: it has no area, so its mismatch is not known", part=element.name)
    return found


def _number(part: str, name: str, expression: Expression, scope: Scope, environment: Environment) -> float:
    try:
        return float(environment.value(expression, scope))
    except ExpressionError as error:
        raise CircuitError(f"{part}: {name}: {error}", part=part) from None


def main_value(element: Element) -> str:
    """The value that is meant where none is named; nothing where there is none."""
    main = ELEMENTS[element.kind].main if element.kind in ELEMENTS else ""
    return main if element.values.get(main) is not None else ""


def _of_values(netlist: Netlist, own: BenchStatistics, environment: Environment) -> Iterator[Variable]:
    """Tolerances, those of the bench in the place of those on the drawing."""
    values = dict(values_of(netlist))
    main = {one.name: main_value(one) for one in netlist.elements}
    wanted = {key: one.tolerance for key, (one, _) in values.items() if one.tolerance is not None}
    for (part, name), tolerance in own.tolerances.items():
        key = part.lower(), name.lower() or main.get(part.lower(), "")
        if key not in values:
            raise CircuitError(_unknown(part, name, values), part=part)
        wanted[key] = tolerance
    for (part, name), tolerance in wanted.items():
        expression, scope = values[part, name]
        nominal = _number(part, name, expression, scope, environment)
        if nominal == 0:
            raise CircuitError(f"{part}: its {name} is 0, and a tolerance of nothing is nothing", part=part)
        targets, sigma = ((part, name),), tolerance.deviation
        yield Variable(f"{part}.{name}", TOLERANCE, part, name, nominal, sigma, targets, True, tolerance)


def values_of(netlist: Netlist) -> Iterator[tuple[Target, tuple[Expression, Scope]]]:
    """Every value of every part, with the scope in which it holds: of a device that is a small circuit what it was given."""
    for element in netlist.elements:
        scope = element.scope
        if scope.inside is None:
            for name, expression in element.values.items():
                if expression is not None:
                    yield (element.name, name), (expression, scope)
        elif scope.parent is not None:
            for name, expression in scope.given.items():
                yield (scope.inside.device, name), (expression, scope.parent)


def _unknown(part: str, name: str, values: Iterable[Target]) -> str:
    own = [value for owner, value in values if owner == part.lower()]
    if not own:
        parts = list(dict.fromkeys(owner for owner, _ in values))
        return f"there is no part '{part}' whose value could vary; there are {', '.join(parts[:20])}"
    if not name:
        return f"{part} has more values than one; say of = one of {', '.join(own)}"
    return f"{part} has no value '{name}'; it has {', '.join(own)}"
