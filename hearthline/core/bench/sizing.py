"""What the sizes of the parts do to every reading of a bench, and a circuit with one of them changed.

Sizes are moved a little up and down, all of them in lanes beside each other, each lane from its neighbour's solution. A
difference of readings to both sides is their slope, with an error of the third order in the step.
"""

from __future__ import annotations

from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from hearthline.core.bench.mending import Edit, edited, number_times, part_at
from hearthline.core.bench.sampled import SamplePlan, evaluated, plans_of_readings
from hearthline.core.bench.samples import SampleSetup, sampling_of
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.bench.verdict import limits
from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.elements.kind import Symbol
from hearthline.core.engine.job import Job
from hearthline.core.engine.parameters import Environment
from hearthline.core.errors import CircuitError, ExpressionError, QuantityError
from hearthline.core.spread.draws import Space
from hearthline.core.spread.variables import TOLERANCE, Target, Variable, values_of
from hearthline.core.tolerance import split

STEP = 0.01
"""Share by which a size is moved to both sides."""


@dataclass(frozen=True)
class Size:
    """A value that parts of a cell have, which are alike and stay so: `typed` on the drawing, a `number` in its unit. `targets`
    are what it moves, in every copy of the cell."""

    cell: str
    parts: tuple[str, ...]
    value: str
    typed: str
    number: float
    unit: str
    targets: tuple[Target, ...]

    @property
    def name(self) -> str:
        """As a person says it."""
        return f"{', '.join(self.parts)} {self.value}"

    def edits(self, factor: float) -> list[Edit]:
        """What would be typed, for a size so many times as large."""
        new = number_times(self.typed, factor)
        return [Edit(self.cell, part, self.value, self.typed, new) for part in self.parts]


@dataclass(frozen=True)
class Leverage:
    """What each of `sizes` does: of each reading its `values` (rows,), and the `slopes` of these by the logarithm of each size
    (sizes, rows); a row for each value of what an analysis is made within. `lost` are sizes that had no solution beside."""

    snapshot: Snapshot
    sizes: tuple[Size, ...]
    values: Mapping[str, np.ndarray]
    slopes: Mapping[str, np.ndarray]
    units: Mapping[str, str]
    lost: Mapping[int, str]
    seconds: float

    def row(self, reading: str) -> int:
        """Which row stands for a reading: the one that is worst for its limits, or the first."""
        return worst_row(self.snapshot, reading, self.values[reading])

    def foretold(self, reading: str, size: int, factor: float) -> float:
        """A reading with a size so many times as large."""
        row = self.row(reading)
        return float(self.values[reading][row] + self.slopes[reading][size, row] * np.log(factor))

    def broken(self, size: int, factor: float) -> list[str]:
        """Readings that keep their limits now, and would not."""
        found = []
        for spec in self.snapshot.bench.specifications:
            if spec.reading not in self.values:
                continue
            with suppress(QuantityError):  # a limit that is no number has no verdict either
                low, high = limits(spec, self.units[spec.reading])
                now = self.values[spec.reading][self.row(spec.reading)]
                if low <= now <= high and not low <= self.foretold(spec.reading, size, factor) <= high:
                    found.append(spec.reading)
        return found

    def ranked(self, reading: str) -> list[int]:
        """Sizes, those that move a reading most first; those that do not move it are left out."""
        slopes = np.abs(self.slopes[reading][:, self.row(reading)])
        order = np.argsort(-slopes, kind="stable")
        return [int(k) for k in order if np.isfinite(slopes[k]) and slopes[k] > 0]


def worst_row(snapshot: Snapshot, reading: str, values: np.ndarray) -> int:
    """The row of a reading that is worst for its limits, or the first."""
    spec = next((one for one in snapshot.bench.specifications if one.reading == reading), None)
    if spec is None or bool(spec.high) == bool(spec.low) or not np.isfinite(values).any():
        return 0
    return int(np.nanargmax(values) if spec.high else np.nanargmin(values))


def wanted_way(snapshot: Snapshot, reading: str) -> int:
    """1 where more of a reading is better, -1 where less is, by the limit that it has; 0 where that is not said."""
    spec = next((one for one in snapshot.bench.specifications if one.reading == reading), None)
    return 0 if spec is None else bool(spec.low) - bool(spec.high)


@dataclass(frozen=True)
class _Finder:
    """The sizes of a drawing."""

    snapshot: Snapshot

    def all(self) -> tuple[Size, ...]:
        """Each once. Raises CircuitError where the circuit is not drawn."""
        if self.snapshot.written is not None:
            raise CircuitError("a deck is changed in its own file; sizes are those of a drawing")
        found: dict[tuple, Size] = {}
        for (flat, value), (expression, scope) in values_of(self.snapshot.netlist()):
            try:
                cell, part = part_at(self.snapshot, flat)
                number = self._environment.value(expression, scope)
            except (CircuitError, ExpressionError):  # of the bench, or inside a device
                continue
            unit = self._units(part).get(value, "")
            typed = split(part.values.get(value, ""))[0].strip()
            if not unit or not typed or not number or isinstance(number, np.ndarray):
                continue
            parts = tuple(one.name for one in cell.parts if _alike(one, part))
            key = cell.name, parts, value
            before = found.get(key)
            targets = tuple(dict.fromkeys([*(before.targets if before else ()), (flat, value)]))
            found[key] = Size(cell.name, parts, value, typed, float(number), unit, targets)
        return tuple(found.values())

    @cached_property
    def _environment(self) -> Environment:
        condition = self.snapshot.condition()
        return Environment(condition.parameters, condition.celsius)

    def _units(self, part: Part) -> dict[str, str]:
        """Of its values that are sizes, and can be a little larger: numbers of fingers and turns cannot, and what feeds the
        circuit is no size."""
        library = self.snapshot.library
        symbol = library.symbol(part) if library.knows(part) else None
        fields = symbol.fields if isinstance(symbol, Symbol) else ()
        return {} if any(one.kind == "wave" for one in fields) else {one.name: one.unit for one in fields}


def _alike(one: Part, other: Part) -> bool:
    return one.device == other.device and one.values == other.values


def sizes_of(snapshot: Snapshot) -> tuple[Size, ...]:
    """Every size on the drawings under test; parts of one cell that are the same in all their values are meant to be alike,
    and change together. Raises CircuitError."""
    return _Finder(snapshot).all()


def leverage(snapshot: Snapshot, job: Job | None = None) -> Leverage:
    """What each size does to every reading, at the point of the bench. Raises HearthlineError."""
    if not snapshot.bench.readings:
        raise CircuitError(f"bench {snapshot.bench.title} has no reading; what a size does is told by a number")
    sizes, job = sizes_of(snapshot), job or Job()
    if not sizes:
        raise CircuitError("no part on these drawings has a size that could be changed")
    variables = tuple(
        Variable(one.name, TOLERANCE, one.parts[0], one.value, one.number, STEP, one.targets, True) for one in sizes
    )
    plan = _plan(snapshot, variables)
    each = np.eye(len(sizes))
    normal = np.concatenate([np.zeros((1, len(sizes))), *(np.stack([row, -row]) for row in each)])
    job.name("sizes", 1, 1)
    found = evaluated(plan, normal, job)
    if found.count < len(normal):
        raise CircuitError("stopped before every size was tried")
    if 0 in found.failures:
        raise CircuitError(f"the circuit as it is: {found.failures[0]}")
    beside = np.log1p(STEP) - np.log1p(-STEP)
    slopes = {name: (table[1::2] - table[2::2]) / beside for name, table in found.values.items()}
    lost = {(lane - 1) // 2: text for lane, text in found.failures.items()}
    values = {name: table[0] for name, table in found.values.items()}
    return Leverage(snapshot, sizes, values, slopes, found.units, lost, found.seconds)


def with_size(snapshot: Snapshot, size: Size, factor: float) -> Snapshot:
    """The circuit with a size so many times as large, as it would be typed."""
    cells: dict[str, Cell] = dict(snapshot.cells)
    for edit in size.edits(factor):
        cells[edit.cell] = edited(cells[edit.cell], edit)
    return replace(snapshot, cells=cells)


def readings_at_point(snapshot: Snapshot, job: Job | None = None) -> dict[str, np.ndarray]:
    """Every reading (rows,) at the point of the bench. Raises HearthlineError, of a lane that failed too."""
    found = evaluated(_plan(snapshot, ()), np.zeros((1, 0)), job or Job())
    if found.failures:
        raise CircuitError(next(iter(found.failures.values())))
    return {name: table[0] for name, table in found.values.items() if len(table)}


def _plan(snapshot: Snapshot, variables: tuple[Variable, ...]) -> SamplePlan:
    sampling = sampling_of(SampleSetup(), ())
    return SamplePlan(snapshot, sampling, Space(variables), (snapshot.condition(),), plans_of_readings(snapshot))
