"""Runs a bench over samples: every analysis for each, in portions, so that what is kept does not grow with the curves."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from hashlib import sha256

import numpy as np

from hearthline.core import limits
from hearthline.core.analyses.plan import Plan
from hearthline.core.bench.basis import basis_of_plan
from hearthline.core.bench.passing import all_pass, passing
from hearthline.core.bench.readings import Reader
from hearthline.core.bench.run import wanted_labels
from hearthline.core.bench.samples import CONDITIONS, PICKED, SECTION, SampleSetup, Sampling, sampling_of
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.data.dataset import Dataset, joined
from hearthline.core.data.formula import Formula
from hearthline.core.engine.job import Job
from hearthline.core.errors import BenchError, CircuitError
from hearthline.core.outcome import Outcome
from hearthline.core.spread.draws import LATIN, Space, normals
from hearthline.core.spread.gathering import Gathering
from hearthline.core.spread.pvt import Condition
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.variables import variables_of
from hearthline.core.spread.yields import yield_of

PORTION_BYTES, PORTION, FEWEST = 3e6, 400, 8
"""Of curves, and samples, that are worked on at a time, and the least of them."""
CURVE_BYTES = 32e6
"""Of the watched curves of samples that are kept."""
FEW_POINTS, TRIED = 2e6, 8
"""Points of all samples under which their time is not worth asking about, and samples that are timed for it."""
LEAST = 100
"""Samples before a rule may end the run."""

Told = Callable[[SampleSet], None]


@dataclass(frozen=True)
class SamplePlan:
    """A bench made ready to be sampled: how, its variables, its conditions, and the analyses with what is read from them."""

    snapshot: Snapshot
    sampling: Sampling
    space: Space
    conditions: tuple[Condition, ...]
    plans: tuple[Plan, ...]

    @property
    def lanes(self) -> int:
        """Of one sample."""
        return len(self.conditions) * max((len(plan.outer) or 1) for plan in self.plans)

    @property
    def bytes(self) -> float:
        """That are kept, but for curves."""
        rows = self.lanes * len(self.snapshot.bench.readings)
        return 8.0 * self.sampling.count * (len(self.space.variables) + rows)

    @property
    def basis(self) -> str:
        """What the samples depend on, as one short text: two of the same text go on from each other."""
        digest = sha256(f"{self.sampling.seed} {self.sampling.way} {self.conditions}".encode())
        for plan in self.plans:
            digest.update(f"{plan.name} {basis_of_plan(self.snapshot, plan)}".encode())
        for one in self.snapshot.bench.readings:
            digest.update(f"{one.name} {one.formula} {one.unit} {self.snapshot.bench.analysis_of(one)}".encode())
        for variable in self.space.variables:
            digest.update(f"{variable.name} {variable.sigma!r} {variable.tolerance}".encode())
        digest.update(self.space.root.tobytes())
        if self.sampling.way == LATIN:
            digest.update(f"{self.sampling.count}".encode())
        return digest.hexdigest()[:20]


def sample_plan(snapshot: Snapshot, setup: SampleSetup | None = None) -> SamplePlan:
    """The samples of a bench, or others. Raises HearthlineError where nothing varies, where there is nothing to read, and for
    more samples than can be kept."""
    bench = snapshot.bench
    sampling = sampling_of(setup or bench.samples or SampleSetup(), bench.tolerances)
    if not bench.readings:
        raise CircuitError(f"bench {bench.title} has no reading; what samples are judged by is a number")
    statistics = snapshot.kit.statistics
    variables = variables_of(snapshot.netlist(), statistics, snapshot.condition(), sampling.statistics, sampling.kinds)
    if not variables:
        raise BenchError(_nothing(sampling), SECTION, "of")
    space, conditions = Space.of(variables, statistics), _conditions(snapshot, sampling)
    plan = SamplePlan(snapshot, sampling, space, conditions, plans_of_readings(snapshot))
    if plan.bytes > limits.SAMPLE_BYTES:
        raise BenchError(
            f"{sampling.count} samples of {len(variables)} variables and {len(bench.readings)} readings take "
            f"{plan.bytes / 1e9:.1f} GB, and at most {limits.SAMPLE_BYTES / 1e9:.0f} GB are kept; ask for fewer",
            SECTION, "count",
        )  # fmt: skip
    return plan


def plans_of_readings(snapshot: Snapshot) -> tuple[Plan, ...]:
    """The analyses that a reading is taken from."""
    wanted, used = wanted_labels(snapshot), _used(snapshot)
    return tuple(Plan(snapshot.circuit, one, wanted[one.name]) for one in snapshot.bench.analyses if one.name in used)


def _nothing(sampling: Sampling) -> str:
    return (
        f"nothing varies: the circuit has no {' and no '.join(sampling.kinds)} to draw from; give a part a tolerance, as in "
        "5k ±3%, or take devices whose kit has statistics"
    )


def _used(snapshot: Snapshot) -> set[str]:
    """The analyses that a reading is taken from, by itself or by another."""
    bench = snapshot.bench
    found: set[str] = set()
    for one in bench.readings:
        own = bench.analysis_of(one)
        found |= {own, *Formula.parse(one.formula, bench.analysis_names).needs(own)}
    return found


def _conditions(snapshot: Snapshot, sampling: Sampling) -> tuple[Condition, ...]:
    if sampling.at == CONDITIONS:
        return snapshot.conditions()
    if sampling.at == PICKED:
        if not snapshot.bench.grid.picked:
            raise BenchError(
                "samples at picked conditions, and none is picked; pick one, or say at = point", SECTION, "at"
            )
        return snapshot.picked()
    return (snapshot.condition(),)


def run_samples(
    plan: SamplePlan, job: Job | None = None, before: SampleSet | None = None, told: Told | None = None
) -> SampleSet:
    """Every sample, or those that `before` lacks; `told` gets what there is after each portion. A stop keeps whole samples.
    Raises HearthlineError for wrong input; a sample that does not converge is kept as one that fails."""
    job, sampling = job or Job(), plan.sampling
    old = before.first(sampling.count) if before is not None and before.basis == plan.basis else None
    names = [one.name for one in plan.space.variables]
    normal = plan.space.correlated(normals(sampling.count, names, sampling.seed, sampling.way))
    gathered, size = Gathering(normal, CURVE_BYTES, old), _portion(plan)
    job.name("samples", 1, 1)
    while gathered.count < sampling.count and not job.stopped and not _sure(plan, gathered.found):
        done = gathered.count
        count = min(size, sampling.count - done)
        job.portion(done, count, sampling.count)
        piece = _piece(plan, normal[done : done + count], job, gathered.room)
        if piece.count < count and job.stopped and not piece.count:
            break
        found = gathered.add(piece)
        if told is not None and found.count < sampling.count:
            told(found)
    job.portion(sampling.count, 0, sampling.count)
    return replace(gathered.found or _piece(plan, normal[:0], job), asked=sampling.count)


def seconds_of(plan: SamplePlan, done: int = 0) -> float:
    """About how long the samples take that are not done yet, by a few of them; 0 where they are too few to be asked about."""
    todo = max(0, plan.sampling.count - done)
    if todo * sum(one.points() for one in plan.plans) * len(plan.conditions) < FEW_POINTS:
        return 0.0
    job, few = Job(), max(1, min(todo, TRIED))
    normal = np.zeros((few, len(plan.space.variables)))
    _piece(plan, normal[:1], job)
    return _piece(plan, normal, job).seconds * todo / few


def evaluated(plan: SamplePlan, normal: np.ndarray, job: Job) -> SampleSet:
    """Samples with given numbers (samples, variables), which go together already; without curves. Raises HearthlineError."""
    gathered, size = Gathering(normal), _portion(plan)
    for begin in range(0, max(len(normal), 1), size):
        gathered.add(_piece(plan, normal[begin : begin + size], job))
        if job.stopped:
            break
    return gathered.found or _piece(plan, normal[:0], job)


def one_sample(plan: SamplePlan, normal: np.ndarray, job: Job | None = None) -> dict[str, Dataset]:
    """Everything of one sample, by its numbers (variables,): each analysis of the bench that readings are taken from, at the
    conditions of the samples. Raises HearthlineError."""
    draws = plan.space.draws(normal[None])
    job = job or Job()
    return {one.name: replace(one, draws=draws).run(plan.conditions, job).dataset for one in plan.plans}


def _portion(plan: SamplePlan) -> int:
    """Samples that are worked on at a time, whatever the number of processors: vectorised sums may differ in the last digit."""
    numbers = max(one.points() * max(len(one.labels), 1) for one in plan.plans) * len(plan.conditions)
    return int(np.clip(PORTION_BYTES / (16.0 * max(numbers, 1)), FEWEST, PORTION))


def _sure(plan: SamplePlan, found: SampleSet | None) -> bool:
    """Whether the interval of the total is as narrow as is wanted."""
    if not plan.sampling.until or found is None or found.count < LEAST:
        return False
    verdicts = passing(plan.snapshot.bench, found)
    return bool(verdicts) and yield_of(all_pass(found, verdicts)).width <= plan.sampling.until


def _piece(plan: SamplePlan, normal: np.ndarray, job: Job, room: float = 0.0) -> SampleSet:
    """Samples with these numbers; with as many curves as there is room for [bytes]."""
    begin, bench, count = time.perf_counter(), plan.snapshot.bench, len(normal)
    draws = plan.space.draws(normal)
    results: dict[str, Dataset] = {}
    failures: dict[int, str] = {}
    whole = np.ones(count, bool)
    for one in plan.plans if count else ():
        piece = replace(one, draws=draws, share=1e-3).run(plan.conditions, job)
        results[one.name] = data = piece.dataset
        for lane, error in piece.failures.items():
            failures.setdefault(_sample_of(plan, one, lane, count), f"{one.name}: {error}")
        tried = ~((data.outcomes == Outcome.NOT_RUN) | (data.outcomes == Outcome.STOPPED)).any(axis=1)
        whole &= tried.reshape(len(plan.conditions), count, -1).all(axis=(0, 2))
    kept = count if whole.all() else int(np.argmin(whole))
    numbers = Reader(bench, results).all()
    rows, inner = _rows(plan, results)
    values = {name: _by_sample(one.values, plan, count, inner) for name, one in numbers.items()}
    found = SampleSet(
        plan.space.variables, normal, rows, values, {name: one.unit for name, one in numbers.items()},
        len(plan.conditions), failures, dict(_curves(plan, results, kept, room)) if room and kept else {}, plan.basis,
        time.perf_counter() - begin, count, plan.sampling.seed, plan.sampling.way,
    )  # fmt: skip
    return found if kept == count else found.first(kept)


def _inner(plan: Plan) -> int:
    return max(1, len(plan.outer))


def _sample_of(plan: SamplePlan, one: Plan, lane: int, count: int) -> int:
    return lane // _inner(one) % count


def _rows(plan: SamplePlan, results: Mapping[str, Dataset]) -> tuple[dict[str, np.ndarray], int]:
    """The columns of the rows of each reading, those of the analysis that nests the most, and how many rows a condition has."""
    largest = max(plan.plans, key=_inner)
    inner = _inner(largest)
    if largest.name not in results:
        return {}, inner
    data = results[largest.name]
    count = data.per_condition // inner
    first = np.arange(data.lanes).reshape(len(plan.conditions), count, inner)[:, 0, :].ravel()
    return {name: column[first] for name, column in data.conditions.items()}, inner


def _by_sample(values: np.ndarray, plan: SamplePlan, count: int, inner: int) -> np.ndarray:
    """Values (lanes,) of one analysis as (samples, rows)."""
    conditions = len(plan.conditions)
    if not count:
        return np.zeros((0, conditions * inner))
    if not len(values):
        return np.full((count, conditions * inner), np.nan)
    own = len(values) // (conditions * count)
    table = values.reshape(conditions, count, own).transpose(1, 0, 2)
    if own not in (1, inner):  # nests something else: what is worst cannot be said here, so the first stands for it
        table = table[:, :, :1]
    return np.broadcast_to(table, (count, conditions, inner)).reshape(count, -1).copy()


def _curves(
    plan: SamplePlan, results: Mapping[str, Dataset], count: int, bytes_left: float
) -> Iterator[tuple[str, Dataset]]:
    """What is watched, of as many samples as there is room for, a sample's lanes together."""
    watched = _watched(plan)
    numbers = sum(results[n].width * results[n].per_condition for n in watched) * len(plan.conditions)
    samples = max((data.per_condition for data in results.values()), default=1)
    each = 16.0 * sum(len(labels) for labels in watched.values()) * numbers / max(1, samples)
    room = int(min(count, bytes_left // max(each, 1.0)))
    for one in plan.plans:
        if one.name in watched and room:
            data, inner = results[one.name], _inner(one)
            total = data.per_condition // inner
            lanes = np.arange(data.lanes).reshape(len(plan.conditions), total, inner)
            order = lanes[:, :room].transpose(1, 0, 2).ravel()
            curves = {label: data.curves[label] for label in watched[one.name] if label in data.curves}
            found = joined([replace(data, curves=curves, outcomes=data.outcomes.astype(np.int8))], order)
            samples_of = np.repeat(np.arange(1.0, room + 1), len(plan.conditions) * inner)
            yield one.name, replace(found, conditions={**found.conditions, "sample": samples_of}, per_condition=inner)


def _watched(plan: SamplePlan) -> dict[str, tuple[str, ...]]:
    bench = plan.snapshot.bench
    found: dict[str, dict[str, None]] = {}
    for watch in bench.watches:
        needs = Formula.parse(watch.formula, bench.analysis_names).needs(bench.analysis_of(watch))
        for name, labels in needs.items():
            found.setdefault(name, {}).update(dict.fromkeys(labels))
    return {one.name: tuple(found[one.name]) for one in plan.plans if one.name in found}
