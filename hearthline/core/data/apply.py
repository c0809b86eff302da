"""Applies a function to operands: lane by lane where lanes have points of their own, with units, and with marks."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np

from hearthline.core import limits
from hearthline.core.data.functions import FUNCTIONS, ON_NEW_AXIS, ON_SWEEPS, ON_VALUES, WINDOWS, Function
from hearthline.core.data.measure import Mistake
from hearthline.core.data.operand import Axis, Operand
from hearthline.core.data.spectrum import spectrum
from hearthline.core.data.units import PLAIN, unit_of

_VOLT = unit_of("V")


@dataclass(frozen=True)
class Mark:
    """Where a number was taken: `function` of the curve that `text` says, in `analysis`, at `places` (lanes, places) of
    `axis`."""

    function: str
    text: str
    analysis: str
    axis: str
    places: np.ndarray


def apply(
    name: str,
    arguments: list[Operand],
    named: Mapping[str, Operand | str],
    sources: list[str],
    analysis: str = "",
    marks: list[Mark] | None = None,
    per_condition: int = 1,
) -> Operand:
    """The function of that name of operands whose texts are `sources`; `per_condition` lanes in a row belong together. Raises
    Mistake."""
    function = FUNCTIONS[name]
    try:
        if name in ON_VALUES:
            return _on_values(function, arguments)
        if name in ON_SWEEPS:
            return _on_sweeps(name, arguments, sources, per_condition)
        if not arguments or arguments[0].axis is None:
            raise Mistake(f"wants a curve ({function.takes})")
        if name in ON_NEW_AXIS:
            return _on_new_axis(name, arguments, named, sources)
        return _on_curves(name, function, arguments, named, sources[0], analysis, marks)
    except (TypeError, IndexError, ValueError):
        raise Mistake(f"has the wrong arguments; it takes {function.takes}") from None


def _on_values(function: Function, arguments: list[Operand]) -> Operand:
    first = arguments[0]
    if len(arguments) == 2 and first.unit and arguments[1].unit and not first.unit.fits(arguments[1].unit):
        raise Mistake(f"compares {first.unit or 'a number'} with {arguments[1].unit or 'a number'}")
    unit = next((one.unit for one in arguments if one.unit), None)
    unit = None if unit is None else function.unit(unit, PLAIN)
    if unit is None and function.unit(PLAIN, PLAIN).name:
        unit = function.unit(PLAIN, PLAIN)
    axis = next((one.axis for one in arguments if one.axis), None)
    return Operand(np.asarray(function.call(*(one.values for one in arguments))), unit, axis)


def _on_sweeps(name: str, arguments: list[Operand], sources: list[str], per: int) -> Operand:
    """All values that belong together at once; each of them gets the result."""
    function = ON_SWEEPS[name]
    if per < 2:
        raise Mistake(
            "wants what an analysis gives within several values, as in: balance at 1G within pin at -30 to 0 step 1"
        )
    lanes = max(len(one.values) for one in arguments)
    first = arguments[: function.curves]
    if len(first) < function.curves or any(one.values.shape[1] != 1 for one in first):
        raise Mistake(f"wants numbers; it takes {function.takes}")
    tables = [np.broadcast_to(np.real(one.values), (lanes, 1)).reshape(-1, per) for one in first]
    more = [float(np.real(one.values.flat[0])) for one in arguments[function.curves :]]
    found = np.repeat(function.call(*tables, *more), per, axis=0)
    unit = function.unit(first[0].known, PLAIN, *(one.known for one in first[1:]))
    if not function.curve:
        return Operand(found, unit)
    along = np.repeat(tables[1], per, axis=0)
    points = along[0] if (along == along[0]).all() else along
    return Operand(found, unit, Axis(sources[1], first[1].known, points))


def _on_curves(
    name: str, function: Function, arguments: list[Operand], named, source: str, analysis: str, marks: list[Mark] | None
) -> Operand:
    axis = arguments[0].axis
    for other in arguments[1 : function.curves]:
        if other.axis and not other.axis.same(axis):
            raise Mistake("wants curves over the same points")
    others = {key: value for key, value in named.items() if isinstance(value, Operand)}
    lanes = max(len(one.values) for one in (*arguments, *others.values()))
    if axis.ragged:
        lanes = max(lanes, len(axis.points))
    units = [one.known for one in arguments[1:]]
    unit = function.unit(arguments[0].known, axis.unit, *units)
    if arguments[0].unit is None and function.unit(_VOLT, axis.unit, *units) != unit:
        unit = None  # it depends on one that is not known
    plan = _Calls(function, axis, lanes, arguments, others)
    values = plan.run(function.call)
    if marks is not None and (function.places or function.itself):
        marks.append(Mark(name, source, analysis, axis.name, values if function.itself else plan.run(function.places)))
    return Operand(values, unit, axis if function.curve else None)


@dataclass(frozen=True)
class _Calls:
    """Arguments made ready for a function, called for all lanes at once where that can be."""

    function: Function
    axis: Axis
    lanes: int
    arguments: list[Operand]
    named: Mapping[str, Operand]

    def run(self, call: Callable) -> np.ndarray:
        """Values (lanes, 1), or (lanes, points) padded by NaN."""
        varied = any(len(one.values) > 1 for one in (*self.arguments[self.function.curves :], *self.named.values()))
        if not self.axis.ragged and not varied:
            return np.asarray(self._call(call, slice(None), self.axis.points))
        rows = [np.asarray(self._call(call, slice(k, k + 1), self.axis.row(k)))[0] for k in range(self.lanes)]
        width = self.axis.points.shape[-1] if self.function.curve else max(len(row) for row in rows)
        return np.array([np.pad(row, (0, width - len(row)), constant_values=np.nan) for row in rows])

    def _call(self, call: Callable, lanes: slice, x: np.ndarray):
        """`call(curve, x, *others)` of some lanes."""
        if len(x) < 2:
            raise Mistake("wants a curve of two points or more")
        count = self.function.curves
        curves = [self._curve(one.values, lanes, x) for one in self.arguments[:count]]
        single = [self._single(one.values, lanes) for one in self.arguments[count:]]
        named = {key: self._single(one.values, lanes) for key, one in self.named.items()}
        return call(curves[0], x, *curves[1:], *single, **named)

    def _curve(self, values: np.ndarray, lanes: slice, x: np.ndarray) -> np.ndarray:
        values = values if np.isrealobj(values) or self.function.phasors else np.abs(values)
        full = np.broadcast_to(values, (self.lanes, values.shape[1]))[lanes, : len(x)]
        return np.broadcast_to(full, (len(full), len(x)))

    def _single(self, values: np.ndarray, lanes: slice) -> float | complex:
        if values.shape[1] != 1:
            raise Mistake(f"wants a number in the place of a curve; it takes {self.function.takes}")
        found = np.broadcast_to(values, (self.lanes, 1))[lanes].flat[0]
        return complex(found) if np.iscomplexobj(found) and self.function.phasors else float(np.real(found))


def _on_new_axis(name: str, arguments: list[Operand], named, sources: list[str]) -> Operand:
    first = arguments[0]
    if name == "against":
        other = arguments[1]
        if other.axis is None or not other.axis.same(first.axis):
            raise Mistake("wants two curves over the same points")
        values, over = np.broadcast_arrays(first.values, other.values)
        return Operand(
            values, first.unit, Axis(sources[1], other.known, np.abs(over) if np.iscomplexobj(over) else over)
        )
    given = named.get("count", arguments[1] if len(arguments) > 1 else None)
    wanted = float(given.values.flat[0].real) if isinstance(given, Operand) else 4096.0
    count = int(wanted) if abs(wanted) < 1e15 else -1
    if not 2 <= count <= limits.POINTS:
        raise Mistake(f"takes 2 to {limits.POINTS} points, not {count:g}")
    window = named.get("window", "hann")
    if window not in WINDOWS:
        raise Mistake(f"has no window '{window}'; there are {', '.join(WINDOWS)}")
    lanes = max(len(first.values), len(first.axis.points) if first.axis.ragged else 1)
    rows = np.broadcast_to(first.values, (lanes, first.values.shape[1]))
    xs = [first.axis.row(k) for k in range(lanes)]
    found = [spectrum(rows[k : k + 1, : len(x)], x, count, window) for k, x in enumerate(xs)]
    frequencies = np.array([one[0] for one in found])
    same = bool((np.abs(frequencies - frequencies[0]) <= 1e-9 * np.abs(frequencies[0])).all())
    axis = Axis("frequency", unit_of("Hz"), frequencies[0] if same else frequencies)
    return Operand(np.concatenate([one[1] for one in found]), first.unit, axis)
