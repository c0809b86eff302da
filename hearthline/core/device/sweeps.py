"""Sweeps of a device between sources, over corners and temperatures, with points where the curves bend."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from hearthline.core.data.dataset import Dataset
from hearthline.core.data.refinement import merged, misses
from hearthline.core.device.subject import DUT, Subject
from hearthline.core.engine.dc import SweptSource, dc_sweep
from hearthline.core.engine.in_time import follow_source
from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.system import lower

COARSE, FINEST = 41, 400
BEND = 2e-3
"""Where a straight line between neighbours misses the point between them by more than this share of a curve's height, points
are added on both sides."""

ROUNDS = 4
DECADES = 12.0
"""Currents this many decades under the largest do not decide where points go."""


@dataclass(frozen=True)
class SweepPlan:
    """One source swept, another stepped for a family, the rest held; what to keep, and which of it is looked at in decades.

    Values are those of an n-type device; polarity turns them.
    """

    key: str
    swept: str
    start: float
    stop: float
    stepped: str = ""
    steps: tuple[float, ...] = (0.0,)
    held: Mapping[str, float] = field(default_factory=dict)
    kept: tuple[str, ...] = ()
    decades: tuple[str, ...] = ()
    driven_by_current: tuple[str, ...] = ()
    unit: str = "V"
    stepped_unit: str = "V"


@dataclass(frozen=True)
class LoopPlan:
    """A sine at one source, at several frequencies [Hz]; two periods are run and the second is kept. With no frequencies, those
    around the one at which the loop is widest."""

    key: str
    source: str
    amplitude: float
    kept: tuple[str, ...] = ()
    loop: tuple[str, str] = ("v", "i")
    frequencies: tuple[float, ...] = ()


@dataclass(frozen=True)
class Conditions:
    """Corners and temperatures [degC], all crossed."""

    corners: tuple[str, ...] = ("",)
    celsius: tuple[float, ...] = (27.0,)


def run_sweep(subject: Subject, plan: SweepPlan, conditions: Conditions, job: Job | None = None) -> Dataset:
    """Every condition and step at every point; the dataset's conditions are corner, temperature and the stepped source.

    A condition that fails has NaN and its outcome says so; the others stand. Raises CircuitError.
    """
    lanes = _lanes(subject, plan, conditions)
    netlist = subject.netlist(driven_by_current=plan.driven_by_current)
    labels = tuple(f"{DUT}.{name}" for name in plan.kept)

    def solve(points: np.ndarray) -> Dataset:
        swept = SweptSource(plan.swept, subject.polarity * points, plan.unit)
        return dc_sweep(netlist, subject.models, lanes, swept, labels, job=job).dataset

    points = np.linspace(plan.start, plan.stop, COARSE)
    found = solve(points)
    for _ in range(ROUNDS):
        more = _where_it_bends(points, found, plan)
        if not len(more) or (job and job.flag[0]):
            break
        points, found = merged(points, found, more, solve(more))
    return _named(found, plan, subject.polarity * points, lanes)


def _lanes(subject: Subject, plan: SweepPlan, conditions: Conditions) -> Lanes:
    count = len(conditions.celsius)
    corners = tuple(corner for corner in conditions.corners for _ in range(count))
    lanes = Lanes(corners, np.tile(np.array(conditions.celsius, float), len(conditions.corners)))
    for source, value in plan.held.items():
        lanes = lanes.spread(**{f"source:{source}": [subject.polarity * value]})
    if plan.stepped:
        lanes = lanes.spread(**{f"source:{plan.stepped}": subject.polarity * np.array(plan.steps)})
    return lanes


def _where_it_bends(points: np.ndarray, found: Dataset, plan: SweepPlan) -> np.ndarray:
    """Middles of the intervals beside points that a straight line would miss."""
    miss = np.zeros(len(points) - 2)
    for name in plan.kept:
        curve = found.curve(f"{DUT}.{name}")
        views = [curve]
        if name in plan.decades:
            floor = np.nanmax(np.abs(curve), initial=1e-300) * 10.0**-DECADES
            views.append(np.log10(np.maximum(np.abs(curve), floor)))
        for view in views:
            miss = np.maximum(miss, misses(points, view))
    beside = miss > BEND
    wanted = np.zeros(len(points) - 1, bool)
    wanted[:-1] |= beside
    wanted[1:] |= beside
    wanted &= np.diff(points) > abs(plan.stop - plan.start) / (8 * FINEST)
    middles = 0.5 * (points[1:] + points[:-1])[wanted]
    return middles[: max(0, FINEST - len(points))]


def _named(found: Dataset, plan: SweepPlan, points: np.ndarray, lanes: Lanes) -> Dataset:
    """Curves by their bare names, the swept and stepped sources by theirs."""
    curves = {label.removeprefix(f"{DUT}."): values for label, values in found.curves.items()}
    units = {label.removeprefix(f"{DUT}."): unit for label, unit in found.units.items()}
    conditions = {"corner": np.array(lanes.corners), "temperature": np.asarray(lanes.celsius)}
    if plan.stepped:
        conditions[plan.stepped] = np.asarray(lanes.sources[plan.stepped])
    return Dataset(plan.key, plan.swept, plan.unit, points, curves, units, conditions, found.outcomes)


SAMPLES = 1500
"""Of one period of a sine."""

DECADES_TRIED = tuple(10.0**k for k in range(10))


def run_loop(subject: Subject, plan: LoopPlan, conditions: Conditions, job: Job | None = None) -> Dataset:
    """A device under a sine in every condition, at every frequency. The dataset's points are shares of a period."""
    frequencies = plan.frequencies
    if not frequencies:
        here = Conditions(conditions.corners[:1], conditions.celsius[:1])
        tried = _loops(subject, plan, here, DECADES_TRIED, 300, job)
        best = DECADES_TRIED[int(np.argmax(_width_of_loops(tried, plan)))]
        frequencies = (best, 3 * best, 10 * best)
    return _loops(subject, plan, conditions, frequencies, SAMPLES, job)


def _loops(subject, plan, conditions, frequencies, samples, job) -> Dataset:
    count = len(conditions.celsius) * len(frequencies)
    corners = tuple(corner for corner in conditions.corners for _ in range(count))
    celsius = np.tile(np.repeat(np.array(conditions.celsius, float), len(frequencies)), len(conditions.corners))
    hertz = np.tile(np.array(frequencies), len(corners) // len(frequencies))
    system = lower(subject.netlist(), subject.models, Lanes(corners, celsius))
    share = np.arange(2 * samples + 1) / samples
    wave = np.tile(subject.polarity * plan.amplitude * np.sin(2 * np.pi * share), (len(corners), 1))
    labels = tuple(f"{DUT}.{name}" for name in plan.kept)
    found = follow_source(system, plan.source, wave, 1 / (hertz * samples), labels, job)
    last = slice(samples, None)
    curves = {label.removeprefix(f"{DUT}."): np.ascontiguousarray(y[:, last]) for label, y in found.curves.items()}
    units = {label.removeprefix(f"{DUT}."): unit for label, unit in found.units.items()}
    conditions_now = {"corner": np.array(corners), "temperature": celsius, "frequency": hertz}
    return Dataset(plan.key, "period", "", share[last] - 1, curves, units, conditions_now, found.outcomes[:, last])


def _width_of_loops(found: Dataset, plan: LoopPlan) -> np.ndarray:
    """Area between the way up and the way down of the first half, as a share of the box around it."""
    x, y = (np.nan_to_num(found.curve(name)) for name in plan.loop)
    solved = (found.outcomes == 0).all(axis=1)
    half = x.shape[1] // 4
    up, down = y[:, :half], y[:, half : 2 * half][:, ::-1]
    box = np.abs(x).max(axis=1) * np.abs(y).max(axis=1)
    between = (np.abs(up - down) * np.abs(np.diff(x[:, : half + 1], axis=1))).sum(axis=1)
    return np.where(solved, between / np.maximum(box, 1e-300), 0.0)


def spread_steps(first: float, last: float, count: int) -> tuple[float, ...]:
    """Evenly spread steps of a family, rounded so that they read well."""
    return tuple(float(f"{value:.3g}") for value in np.linspace(first, last, count))
