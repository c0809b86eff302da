"""What a plan of the die does to temperatures and readings: one of its numbers at several values, beside each other."""

from __future__ import annotations

from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.bench.heat import HeatSetup
from hearthline.core.bench.heat_placing import with_line
from hearthline.core.bench.run import solve_point
from hearthline.core.bench.sizing import readings_at_point, worst_row
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.data.heat import peak_label
from hearthline.core.engine.job import Job
from hearthline.core.errors import CircuitError, HearthlineError
from hearthline.core.quantity import field_text
from hearthline.core.thermal.die import PlanError

PITCH, FINGERS, THICKNESS = "pitch", "fingers", "thickness"
WAYS = (PITCH, FINGERS, THICKNESS)
FACTORS = (0.6, 0.8, 1.0, 1.25, 1.6, 2.0, 2.5, 3.2)
"""Of what it is now."""


@dataclass(frozen=True)
class Tried:
    """Values of `way` for a part: its peak temperature [°C] at the operating point and every reading there, NaN where a value
    cannot be or has no solution; `problem` is the first reason, `now` the value that the plan has."""

    part: str
    way: str
    values: np.ndarray
    now: float
    peaks: np.ndarray
    readings: Mapping[str, np.ndarray]
    problem: str = ""


def tried(snapshot: Snapshot, part: str, way: str, job: Job | None = None) -> Tried:
    """All of them, on all processors. Raises HearthlineError where there is no such part."""
    heat, job = snapshot.bench.heat, job or Job()
    if heat is None or all(one.part.lower() != part for one in heat.sources):
        raise CircuitError(f"{part} does not stand on a die", part=part)
    now = _now(heat, part, way)
    values = now * np.array(FACTORS)
    if way == FINGERS:
        values = np.unique(np.maximum(1, np.rint(values)))
    job.name(way, 1, 1)
    job.begin(len(values), len(values))
    done = job.progress

    def one(k: int) -> _One:
        found = _one(snapshot, part, way, float(values[k]), job.beside())
        done[k] = 1
        return found

    with ThreadPoolExecutor(job.workers) as pool:
        found = list(pool.map(one, range(len(values))))
    if job.stopped:
        raise CircuitError("stopped before every value was tried")
    names = [one.name for one in snapshot.bench.readings]
    readings = {name: np.array([one.readings.get(name, np.nan) for one in found]) for name in names}
    problem = next((one.problem for one in found if one.problem), "")
    return Tried(part, way, values, now, np.array([one.peak for one in found]), readings, problem)


@dataclass(frozen=True)
class _One:
    peak: float
    readings: Mapping[str, float]
    problem: str = ""


def _one(snapshot: Snapshot, part: str, way: str, value: float, job: Job) -> _One:
    if job.stopped:
        return _One(np.nan, {})
    try:
        heat = with_way(snapshot.bench.heat, part, way, value)
        changed = replace(snapshot, bench=replace(snapshot.bench, heat=heat))
        peak = float(solve_point(changed).curves[peak_label(part)][0, 0])
        found = readings_at_point(changed, job) if changed.bench.readings else {}
    except HearthlineError as error:
        return _One(np.nan, {}, f"{way} {field_text(value)}: {error}")
    rows = {name: float(table[worst_row(changed, name, table)]) for name, table in found.items()}
    return _One(peak, rows)


def _now(heat: HeatSetup, part: str, way: str) -> float:
    plan = heat.plan()
    own = plan.sources[plan.parts.index(part)]
    found = {PITCH: own.pitch, FINGERS: float(own.fingers), THICKNESS: plan.die.thickness}[way]
    if found <= 0:
        raise PlanError(f"{way} is 0, and nothing can be tried beside it", part, way)
    return found


def with_way(heat: HeatSetup | None, part: str, way: str, value: float) -> HeatSetup:
    """The plan with another value: of a part's row, or of the thickness of the die. Raises PlanError."""
    assert heat is not None
    text = field_text(float(f"{value:.4g}"))
    if way != THICKNESS:
        return with_line(heat, part, **{way: text})
    length, width, _ = (one.strip() for one in heat.die.split(","))
    found = replace(heat, die=f"{length}, {width}, {text}")
    found.plan()
    return found
