"""The linear circuit about an operating point as plain matrices: poles, zeros and sensitivities. For some hundred unknowns.

(G + sC)·x = b. Poles are the generalised eigenvalues of the pencil, by the QZ algorithm (Moler and Stewart 1973); zeros of
a transfer are those of the pencil bordered by its input and output.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.circuit.netlist import Element
from hearthline.core.elements import drives
from hearthline.core.engine.instances import DeviceInstances
from hearthline.core.engine.kernels.small_signal import linearised_at
from hearthline.core.engine.lanes import one_lane
from hearthline.core.engine.small_signal import DEFAULT, pick, unit_excitation
from hearthline.core.engine.solve import SourceSweep, solve
from hearthline.core.engine.system import System
from hearthline.core.engine.worker import new_memory
from hearthline.core.errors import CircuitError
from hearthline.core.expression import Expression
from hearthline.core.process.models import ModelSet

MOST_UNKNOWNS = 300
INFINITE = 1e-11
"""Share of the pencil's size under which a denominator of QZ is nothing: that eigenvalue is at infinity."""
STEP = 1e-6
"""Relative change of a parameter, for slopes by it."""


@dataclass(frozen=True)
class Pencil:
    """G, C (unknowns, unknowns) and the residual at x, without ground."""

    conductance: np.ndarray
    capacitance: np.ndarray
    residual: np.ndarray


def solved_point(system: System, lane: int) -> np.ndarray:
    """The operating point (unknowns,). Raises ConvergenceError."""
    solution = solve(system, SourceSweep(), DEFAULT, None, ())
    if lane in solution.failed_lanes:
        raise solution.failure(lane)
    return solution.kept[lane, 0]


def pencil_at(system: System, values: np.ndarray, x: np.ndarray) -> Pencil:
    """The linear circuit at x (unknowns,) with the kernels' values of a lane."""
    pattern, circuit = system.dynamic
    entries = len(pattern.rows) + 1
    g, c, residual = np.zeros(entries), np.zeros(entries), np.zeros(len(x) + 1)
    linearised_at(
        circuit, new_memory(circuit, pattern), values, np.concatenate([[0.0], x]), DEFAULT.array(), g, c, residual
    )
    columns = np.repeat(pattern.order, np.diff(pattern.starts))
    matrices = np.zeros((2, len(x), len(x)))
    for matrix, numbers in zip(matrices, (g, c), strict=True):
        matrix[pattern.rows, columns] = numbers[:-1]
    return Pencil(*matrices, residual[1:])


def _small_enough(system: System) -> None:
    if len(system.unknowns) > MOST_UNKNOWNS:
        raise CircuitError(
            f"the circuit has {len(system.unknowns)} unknowns; poles and zeros are found for up to {MOST_UNKNOWNS}"
        )


def eigenvalues(g: np.ndarray, c: np.ndarray) -> np.ndarray:
    """Finite s with det(G + sC) = 0 [rad/s], smallest first."""
    from scipy.linalg import eig  # late: it is rarely wanted

    if not c.any():
        return np.zeros(0, complex)
    rows = 1.0 / np.maximum(np.abs(g).max(axis=1), 1e-300)
    scale = 1.0 / np.abs(c * rows[:, None]).max()
    alpha, beta = eig(g * rows[:, None], -c * rows[:, None] * scale, right=False, homogeneous_eigvals=True)
    finite = np.abs(beta) > INFINITE * np.hypot(np.abs(alpha), np.abs(beta))
    found = alpha[finite] / beta[finite] * scale
    return found[np.argsort(np.abs(found), kind="stable")]


def poles(system: System, lane: int = 0) -> np.ndarray:
    """Natural frequencies of a circuit about its operating point [rad/s], smallest first.

    Raises CircuitError for a circuit that is too large, ConvergenceError where there is no operating point.
    """
    _small_enough(system)
    pencil = pencil_at(system, system.values[lane], solved_point(system, lane))
    return eigenvalues(pencil.conductance, pencil.capacitance)


def zeros(system: System, output: tuple[str, str], source: str, lane: int = 0) -> np.ndarray:
    """Frequencies [rad/s] at which a source does not reach an output, smallest first."""
    _small_enough(system)
    pencil = pencil_at(system, system.values[lane], solved_point(system, lane))
    b, wanted = unit_excitation(system, source)[1:].real, pick(system, output)[1:].real
    size = len(b)
    g, c = np.zeros((2, size + 1, size + 1))
    g[:size, :size], g[:size, size], g[size, :size] = pencil.conductance, -b, wanted
    c[:size, :size] = pencil.capacitance
    return eigenvalues(g, c)


@dataclass(frozen=True)
class Sensitivity:
    """By how much an output changes with each parameter of each part: `slopes` [output's unit / parameter's], and the same
    for a change of one percent; in the order of the netlist."""

    slopes: dict[tuple[str, str], complex]
    per_percent: dict[tuple[str, str], complex]


def sensitivity(
    system: System,
    models: ModelSet,
    output: tuple[str, str],
    lane: int = 0,
    frequency: float | None = None,
    excitation: np.ndarray | None = None,
) -> Sensitivity:
    """Of the operating point at an output, or, at a `frequency` [Hz], of the answer to an excitation (unknowns + 1).

    One solution of the transposed system serves all parameters (Director and Rohrer 1969); the part itself is evaluated at a
    slightly different parameter. The answer at a frequency takes the shift of the operating point along.
    """
    x, values = solved_point(system, lane), system.values[lane]
    at = pencil_at(system, values, x)
    wanted = pick(system, output)[1:]
    dc_adjoint = np.linalg.solve(at.conductance.T, wanted)
    if frequency is not None:
        omega = 2j * np.pi * frequency
        matrix = at.conductance + omega * at.capacitance
        adjoint, answer = np.linalg.solve(matrix.T, wanted), np.linalg.solve(matrix, excitation[1:])
    slopes, per_percent = {}, {}
    for (name, parameter), nominal, changed, step in _changes(system, models, lane):
        moved = pencil_at(system, changed, x)
        by_parameter = (moved.residual - at.residual) / step
        if frequency is None:
            slope = -(dc_adjoint @ by_parameter)
        else:
            shift = -np.linalg.solve(at.conductance, by_parameter)
            there = pencil_at(system, changed, x + step * shift)
            difference = (there.conductance - at.conductance) + omega * (there.capacitance - at.capacitance)
            slope = -(adjoint @ (difference @ answer)) / step
        slopes[name, parameter] = complex(slope)
        per_percent[name, parameter] = complex(slope) * nominal / 100.0
    return Sensitivity(slopes, per_percent)


def _changes(system: System, models: ModelSet, lane: int):
    """For each number of each part: its key and value, the kernels' values with it changed, and the change."""
    lanes = one_lane(system.lanes, lane)
    items = DeviceInstances(system.netlist, models, lanes)
    places = {one.name: (one.value, one.kind.values) for one in system.instance_places}
    for element in system.netlist.elements:
        if element.kind == "K":
            continue
        for parameter, expression in element.values.items():
            if expression is None or (drives(element) and parameter != "dc"):
                continue
            nominal = float(np.ravel(items.environment.value(expression, element.scope))[0])
            step = STEP * (abs(nominal) or 1.0)
            item = next(iter(items.of(_with(element, parameter, nominal + step))))
            start, count = places[element.name]
            if item.values.shape[1] != count:
                continue
            changed = system.values[lane].copy()
            changed[start : start + count] = item.values[0]
            yield (element.name, parameter), nominal, changed, step


def _with(element: Element, parameter: str, value: float) -> Element:
    return replace(element, values={**element.values, parameter: Expression.constant(value)})
