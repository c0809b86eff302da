"""What stands about the curves of a plane: circles of the two-port at a frequency, and the impedances that are wanted."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np

from hearthline.app.charts.curves import Trace
from hearthline.core.bench.bench import Bench
from hearthline.core.bench.verdict import limits
from hearthline.core.data.circles import (
    LOAD,
    SOURCE,
    Circle,
    gain_circles,
    noise_circles,
    stability_circle,
    target_circle,
)
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import HearthlineError

_WANTED = re.compile(r"\s*distance\((.*?\)|[^,]*),\s*([^,]+?)\s*(?:,.*)?\)\s*")
USUAL_DISTANCE = 0.1
"""Of a wanted impedance without a limit."""


def side_of(trace: Trace) -> int:
    """The port whose reflection a curve is: 1 or 2; 0 for any other."""
    match = re.fullmatch(r"\s*S\(\s*([12])\s*,\s*([12])\s*\)\s*", trace.watch.formula)
    return int(match[1]) if match and match[1] == match[2] else 0


def circles_at(data: Dataset, side: int, lane: int, x: float) -> Iterator[Circle]:
    """Of a two-port at a frequency, in the plane of one of its ports."""
    if not side or "twoport.k" not in data.curves or not np.isfinite(x):
        return
    if any(np.abs(data.curves[f"port{n}.impedance"][lane, 0].imag) > 0 for n in (1, 2)):
        return
    at = [np.array([_at(data, f"S({a},{b})", lane, x) for b in (1, 2)]) for a in (1, 2)]
    s = np.array(at)
    if not np.isfinite(s).all():
        return
    circle = stability_circle(s, SOURCE if side == 1 else LOAD)
    if circle is not None:
        yield circle
    yield from gain_circles(s, side)
    if side == SOURCE:
        least, best, resistance = (_at(data, f"twoport.{n}", lane, x) for n in ("noise_factor_min", "gamma_opt", "rn"))
        if np.isfinite([least.real, best.real, resistance.real]).all():
            own = float(data.curves["port1.impedance"][lane, 0].real)
            yield from noise_circles(least.real, best, resistance.real, own)


def _at(data: Dataset, label: str, lane: int, x: float) -> complex:
    row = data.curves[label][lane]
    return complex(
        np.interp(x, data.points, row.real), np.interp(x, data.points, row.imag) if np.iscomplexobj(row) else 0.0
    )


def targets(bench: Bench, traces: list[Trace], analysis: str) -> Iterator[Circle]:
    """Wanted impedances of the bench's readings, as far away as their specification allows, on the curves they are
    about."""
    for reading in bench.readings:
        match = _WANTED.fullmatch(reading.formula)
        if not match or bench.analysis_of(reading) != analysis or not any(_same(match[1], trace) for trace in traces):
            continue
        try:
            wanted = complex(match[2].replace(" ", ""))
        except ValueError:
            continue
        high = next((_high(one, reading.unit) for one in bench.specifications if one.reading == reading.name), None)
        yield target_circle(wanted, high or USUAL_DISTANCE)


def _high(specification, unit: str) -> float | None:
    try:
        return limits(specification, unit)[1]
    except HearthlineError:
        return None


def _same(formula: str, trace: Trace) -> bool:
    """Whether an impedance is that of a curve: itself, or of the port whose reflection it is."""
    own, shown = formula.replace(" ", ""), trace.watch.formula.replace(" ", "")
    side = side_of(trace)
    return (
        own == shown
        or (side > 0 and own == f"impedance_of({side})")
        or own.partition(".")[0] == shown.partition(".")[0] == "look"
    )
