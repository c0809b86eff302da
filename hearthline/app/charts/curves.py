"""Curves of watches, and what a cursor reads from them. No widget is needed for either."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hearthline.app.charts.usual import usual_watches
from hearthline.core.bench.bench import Bench, Watch
from hearthline.core.bench.readings import Reader
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.formula import Formula
from hearthline.core.data.plane import PLANES, REFERENCE, Reflection, reflections
from hearthline.core.data.response import decibels, phase_deg
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import write

NOTHING = 1e-9
"""Share of the largest value under which the cursor reads 0: the solver's tolerance, not the circuit."""
LOG_AXES = ("frequency",)
REPEATS = ("balance", "oscillation")
"""Analyses whose spectra are lines."""
DEPTH = 120.0
"""How far below the highest line of a spectrum [dB] others are still drawn."""
IN_DEGREES = {"phase": phase_deg, "angle": lambda values: np.degrees(np.angle(values))}


@dataclass(frozen=True)
class Trace:
    """One watch over all lanes: `y` (lanes, points) over `x`, (points,) or (lanes, points), as it is drawn; of a complex one
    `points` (lanes, points) are where it is in a plane, with the impedances (lanes,) [Ω] that they are `against` if that is not
    the usual one. Of a spectrum of `lines` nothing is between the points. `problem` says why there is nothing."""

    watch: Watch
    unit: str
    x: np.ndarray
    y: np.ndarray
    axis: str = ""
    axis_unit: str = ""
    log: bool = False
    problem: str = ""
    points: np.ndarray | None = None
    against: np.ndarray | None = None
    lines: bool = False

    @property
    def plane(self) -> str:
        """The plane that it is drawn in, or nothing."""
        return self.watch.scale if self.points is not None and self.watch.scale in PLANES else ""

    @property
    def is_complex(self) -> bool:
        """Whether it has angles."""
        return self.points is not None

    def point(self, lane: int, x: float) -> complex:
        """Of the plane, straight between points of a lane."""
        if self.points is None or not self.points.size:
            return complex(np.nan, np.nan)
        xs = self.x if self.x.ndim == 1 else self.x[lane]
        row = self.points[lane]
        return complex(np.interp(x, xs, row.real, np.nan, np.nan), np.interp(x, xs, row.imag, np.nan, np.nan))

    def reflection(self, lane: int, x: float) -> Reflection:
        """The same as a reflection, with the impedance that it is against."""
        return Reflection(self.point(lane, x), REFERENCE if self.against is None else complex(self.against[lane]))

    @property
    def lanes(self) -> int:
        """How many rows there are."""
        return len(self.y)

    def row(self, lane: int) -> tuple[np.ndarray, np.ndarray]:
        """x and y of a lane, without what is behind its last point."""
        if self.x.ndim == 1:
            return self.x, self.y[lane]
        count = np.count_nonzero(np.isfinite(self.x[lane]))
        return self.x[lane, :count], self.y[lane, :count]

    def stems(self, lane: int) -> tuple[np.ndarray, np.ndarray]:
        """The row of a lane as lines that stand on the foot of the chart, with gaps between."""
        x, y = self.row(lane)
        known = np.isfinite(y) & (y >= self.foot)
        up = np.stack([np.full(known.sum(), self.foot), y[known], np.full(known.sum(), np.nan)], axis=1)
        return np.repeat(x[known], 3), up.ravel()

    @cached_property
    def foot(self) -> float:
        """Where lines stand: at 0, or of decibels so far down that nothing of weight is below."""
        known = self.y[np.isfinite(self.y)]
        if self.unit not in ("dB", "dBm"):
            return 0.0
        return float(max(known.min(initial=0.0), known.max(initial=-DEPTH) - DEPTH)) if len(known) else 0.0

    @cached_property
    def rises(self) -> bool:
        """Whether x only goes up, so that a cursor has one place on it."""
        rows = self.x[None, :] if self.x.ndim == 1 else self.x
        steps = np.diff(rows, axis=1)
        return bool(np.all((steps > 0) | np.isnan(steps)))

    def value(self, lane: int, x: float) -> float:
        """The curve of a lane at x, straight between points, of lines the nearest; NaN outside, 0 where it is nothing beside
        its largest."""
        xs, ys = self.row(lane)
        if not len(xs):
            return np.nan
        if self.lines:
            return float(ys[np.nanargmin(np.abs(xs - x))])
        xs, ys = (xs, ys) if xs[0] <= xs[-1] else (xs[::-1], ys[::-1])
        found = float(np.interp(x, xs, ys, np.nan, np.nan))
        return 0.0 if abs(found) < NOTHING * self.largest else found

    @cached_property
    def largest(self) -> float:
        """The greatest size of all lanes."""
        return float(np.nanmax(np.abs(self.y), initial=0.0))

    def values(self, x: float) -> np.ndarray:
        """Of all lanes (lanes,)."""
        return np.array([self.value(lane, x) for lane in range(self.lanes)])

    def slope(self, lane: int, x: float) -> float:
        """Slope of a lane's curve at x."""
        xs, ys = self.row(lane)
        if len(xs) < 2:
            return np.nan
        order = slice(None) if xs[0] <= xs[-1] else slice(None, None, -1)
        slope = float(np.interp(x, xs[order], np.gradient(ys, xs)[order], np.nan, np.nan))
        return 0.0 if abs(slope) * abs(xs[-1] - xs[0]) < NOTHING * np.nanmax(np.abs(ys), initial=0.0) else slope

    def slope_along(self, lane: int, x: float, log_x: bool) -> tuple[float, str]:
        """The slope as the axis shows it, with its unit: per decade on a logarithmic one."""
        if not log_x:
            return self.slope(lane, x), self.slope_unit
        return self.slope(lane, x) * x * np.log(10.0), f"{self.unit or '1'}/decade"

    @property
    def slope_unit(self) -> str:
        """Of the slope."""
        return "" if self.unit == self.axis_unit else f"{self.unit or '1'}/{self.axis_unit or '1'}"


def trace_of(bench: Bench, results: dict[str, Dataset], watch: Watch) -> Trace:
    """A watch as it is drawn; one that does not fit the run is empty and says why."""
    name = bench.analysis_of(watch)
    try:
        scope = Reader(bench, results).scope(name)
        found = Formula.parse(watch.formula, bench.analysis_names).evaluate(scope)
        if found.axis is None:
            raise HearthlineError(f"{watch.formula} is a number; a chart wants a curve. Take it as a reading")
    except HearthlineError as error:
        data = results.get(name)
        lanes = data.lanes if data else 0
        axis = (data.axis, data.axis_unit) if data else ("", "")
        return Trace(watch, watch.unit, np.zeros(0), np.zeros((lanes, 0)), *axis, problem=str(error))
    axis, lanes = found.axis, scope.data.lanes
    values, unit = _drawn(np.broadcast_to(found.values, (lanes, found.values.shape[1])), found, watch, axis.points)
    points = against = None
    if np.iscomplexobj(found.values):
        own = str(found.unit) if found.unit is not None else ""
        points = reflections(np.broadcast_to(found.values, (lanes, found.values.shape[1])), own)
        against = _port_impedance(watch, scope.data)
    return Trace(
        watch,
        unit,
        axis.points,
        values,
        axis.name,
        str(axis.unit),
        watch.scale == "log",
        points=points,
        against=against,
        lines=scope.data.kind in REPEATS and axis.name == scope.data.axis,
    )


def _port_impedance(watch: Watch, data: Dataset) -> np.ndarray | None:
    """What the reflection of a port is against (lanes,) [Ω], None of anything else."""
    match = re.fullmatch(r"\s*S\(\s*(\d+)\s*,\s*(\d+)\s*\)\s*", watch.formula)
    found = data.curves.get(f"port{match[1]}.impedance") if match and match[1] == match[2] else None
    return None if found is None else found[:, 0]


def _drawn(values: np.ndarray, found, watch: Watch, x: np.ndarray) -> tuple[np.ndarray, str]:
    """Real numbers with their unit, by the scale of the watch; small signals are drawn in decibels where none is said."""
    unit = str(found.unit) if found.unit is not None and str(found.unit) else watch.unit
    with np.errstate(all="ignore"):
        if watch.scale in IN_DEGREES:
            return IN_DEGREES[watch.scale](values), "°"
        if watch.scale == "delay":
            return -np.gradient(np.radians(phase_deg(values)), 2.0 * np.pi * x, axis=-1), "s"
        if watch.scale in ("real", "imaginary"):
            return (values.real if watch.scale == "real" else np.imag(values)), unit
        if watch.scale == "dB" or (np.iscomplexobj(values) and not watch.scale):
            return decibels(values), "dB"
        values = np.abs(values) if np.iscomplexobj(values) or watch.scale == "log" else values
    return values, unit


def groups(bench: Bench, analysis: str, data: Dataset | None = None) -> list[tuple[Watch, ...]]:
    """The watches of an analysis, those that share a strip together; where there are none, those that are usual for it."""
    every = (*bench.watches, *usual_watches(bench, analysis, data))
    return in_strips(tuple(watch for watch in every if bench.analysis_of(watch) == analysis))


def in_strips(watches: tuple[Watch, ...]) -> list[tuple[Watch, ...]]:
    """Those that share a strip together."""
    found: dict[str, list[Watch]] = {}
    for k, watch in enumerate(watches):
        found.setdefault(watch.strip or f"\0{k}", []).append(watch)
    return [tuple(watches) for watches in found.values()]


def read_at(trace: Trace, lanes: list[tuple[int, str]], x: float) -> Iterator[tuple[int, str, str]]:
    """What the cursor says of some lanes: each with its name and its value."""
    for lane, name in lanes:
        yield lane, name, write(trace.value(lane, x), trace.unit, 4)


def range_at(trace: Trace, x: float) -> str:
    """From the least to the greatest of all lanes at x; nothing where there is one alone."""
    values = trace.values(x)
    known = values[np.isfinite(values)]
    if trace.lanes < 2 or not len(known):
        return ""
    return f"{write(float(known.min()), trace.unit, 3)} … {write(float(known.max()), trace.unit, 3)}"
