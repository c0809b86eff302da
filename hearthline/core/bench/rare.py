"""Failures of a bench's specifications that samples would not meet, and the likeliest point of a reading at some sigma."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.bench.bench import Bench
from hearthline.core.bench.passing import Limits, judged_limits
from hearthline.core.bench.sampled import SamplePlan, evaluated
from hearthline.core.bench.statistical import StatisticalCorner, plain
from hearthline.core.engine.job import Job
from hearthline.core.errors import BenchError
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.tails import Tail, tail, worst_point

LOW, HIGH = "low", "high"


@dataclass(frozen=True)
class Side:
    """One end of a specification: the reading, which end, and its value."""

    reading: str
    end: str
    limit: float

    def margins(self, values: np.ndarray) -> np.ndarray:
        """How far values (samples, rows) are within it, at the worst row."""
        away = values - self.limit if self.end == LOW else self.limit - values
        return away.min(axis=1)


@dataclass(frozen=True)
class RareFailure:
    """How rarely any of some limits is passed, and the set of the likeliest failing points, a sample each."""

    sides: tuple[Side, ...]
    tail: Tail
    points: SampleSet


def limits_of_bench(plan: SamplePlan) -> dict[str, Limits]:
    """Those of its specifications, by reading; the nominal circuit tells the units. Raises HearthlineError."""
    probe = evaluated(plan, np.zeros((1, len(plan.space.variables))), Job())
    return judged_limits(plan.snapshot.bench, probe)


def sides_of(plan: SamplePlan, limits: Mapping[str, Limits] | None = None) -> tuple[Side, ...]:
    """The limits of the bench's specifications, or others by reading. Raises BenchError where there is none, or no reading."""
    bench = plan.snapshot.bench
    known = [one.name for one in bench.readings]
    for name in limits or ():
        if name not in known:
            raise BenchError(f"there is no reading '{name}'; there is {', '.join(known)}", "readings", "name")
    found = [
        Side(name, end, value)
        for name, ends in (limits_of_bench(plan) if limits is None else limits).items()
        for end, value in zip((LOW, HIGH), ends, strict=True)
        if np.isfinite(value)
    ]
    if not found:
        raise BenchError("no specification has a limit, so nothing can fail", "specifications", "low")
    return tuple(found)


class _StoppedError(Exception):
    """Somebody asked for the end."""


def rare_failure(
    plan: SamplePlan,
    limits: Mapping[str, Limits] | None = None,
    job: Job | None = None,
    wanted: float = 0.1,
    most: int = 5000,
) -> RareFailure | None:
    """How rarely a specification fails, or other limits by reading are passed, as `spread.tails` finds it; None where it was
    stopped. Raises HearthlineError."""
    job = job or Job()
    job.name("rare failures", 1, 1)
    sides, spent = sides_of(plan, limits), 0

    def margins(points: np.ndarray) -> np.ndarray:
        nonlocal spent
        job.portion(spent, len(points), most)
        spent += len(points)
        values = evaluated(plan, plan.space.correlated(points), job).values
        if job.stopped:
            raise _StoppedError
        return np.column_stack([side.margins(values[side.reading]) for side in sides])

    try:
        found = tail(margins, len(sides), len(plan.space.variables), wanted, most, plan.sampling.seed)
    except _StoppedError:
        return None
    where = np.array([one.at for one in found.points]).reshape(-1, len(plan.space.variables))
    return RareFailure(sides, found, evaluated(plan, plan.space.correlated(where), job))


def statistical_corner(plan: SamplePlan, side: Side, sigma: float, job: Job | None = None) -> SampleSet | None:
    """The point at some sigma from the nominal circuit at which a reading is worst towards one end, whatever its limit: as a
    set of one sample; None where it was stopped. Raises HearthlineError."""
    job = job or Job()
    job.name(f"worst {sigma:g} sigma", 1, 1)

    def margins(points: np.ndarray) -> np.ndarray:
        values = evaluated(plan, plan.space.correlated(points), job).values[side.reading]
        if job.stopped:
            raise _StoppedError
        return side.margins(values)[:, None]

    try:
        at = worst_point(margins, 0, len(plan.space.variables), sigma)
    except _StoppedError:
        return None
    return replace(evaluated(plan, plan.space.correlated(at[None]), job), asked=1)


def with_corner(bench: Bench, corner: StatisticalCorner) -> Bench:
    """The bench with a statistical corner, or with that of its name found anew, and with the condition of the point in it
    picked for every run."""
    corners = (*(one for one in bench.statistical if one.name != corner.name), corner)
    base = plain(bench.point.corner, corners)
    there = replace(bench.point, corner=f"{base}+{corner.name}")
    picked = bench.grid.picked if there in bench.grid.picked else (*bench.grid.picked, there)
    return replace(bench, statistical=corners, grid=replace(bench.grid, picked=picked))
