"""Runs a bench: its analyses over all conditions, or the operating point that the drawing shows."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import replace

import numpy as np

from hearthline.core.analyses.direct import piece_of
from hearthline.core.analyses.kind import Piece
from hearthline.core.analyses.plan import Plan
from hearthline.core.analyses.temperatures import told as with_temperatures
from hearthline.core.bench.basis import basis_of_plan
from hearthline.core.bench.bench import Reading, Watch
from hearthline.core.bench.portions import Told, in_portions
from hearthline.core.bench.readings import Run
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.circuit.netlist import Netlist
from hearthline.core.data.dataset import Dataset, joined
from hearthline.core.data.formula import Formula
from hearthline.core.engine.dc import dataset_of, operating_point, shown_variables
from hearthline.core.engine.heating import Heating
from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.recall import Recall
from hearthline.core.engine.solve import SourceSweep, solve
from hearthline.core.errors import CircuitError
from hearthline.core.spread.draws import Draws
from hearthline.core.spread.pvt import Condition, key_of, lane_of


def run_bench(
    snapshot: Snapshot,
    job: Job | None = None,
    names: Iterable[str] | None = None,
    before: Run | None = None,
    told: Callable[[Run], None] | None = None,
) -> Run:
    """The analyses of the bench, or those of `names`, at every condition.

    What `before` holds of the same circuit and settings is taken over: only conditions that are new there, failed, or were
    not reached are computed. `told` gets the run as far as it is, now and then. Raises HearthlineError for wrong input; a lane
    that does not converge is marked in the run and the others stand.
    """
    bench, job = snapshot.bench, job or Job()
    chosen = [one for one in bench.analyses if names is None or one.name in set(names)]
    if not chosen:
        raise CircuitError(f"bench {bench.title} has no analysis to run; its operating point is on the drawing")
    conditions = snapshot.conditions()
    run, wanted = Run(snapshot, {}, conditions), wanted_labels(snapshot)
    for number, analysis in enumerate(bench.analyses):
        plan = Plan(snapshot.circuit, analysis, wanted[analysis.name])
        basis = basis_of_plan(snapshot, plan)
        old = _usable(before, basis, plan)
        if analysis in chosen:
            job.name(analysis.name, number + 1, len(bench.analyses))
            so_far = _teller(run, analysis.name, basis, told) if told is not None else None
            run = run.with_result(analysis.name, basis, *_completed(plan, conditions, old, before, job, so_far))
        elif old is not None and (kept := _chosen(old, conditions, before.conditions)) is not None:
            run = run.with_result(analysis.name, basis, kept, (), {}, 0.0)
    return run


def with_cold(run: Run, snapshot: Snapshot, job: Job, names: Iterable[str] | None = None) -> Run:
    """A run of a circuit that heats itself with the same beside it where it does not: every part at the condition's
    temperature. Raises HearthlineError."""
    heat = snapshot.bench.heat
    if heat is None or heat.isothermal or job.stopped:
        return run
    cold = run_bench(replace(snapshot, bench=replace(snapshot.bench, heat=replace(heat, isothermal=True))), job, names)
    return replace(run, cold=cold.results)


def wanted_labels(snapshot: Snapshot) -> dict[str, tuple[str, ...]]:
    """What watches and readings need of each analysis."""
    bench = snapshot.bench
    found: dict[str, dict[str, None]] = {name: {} for name in bench.analysis_names}
    items: tuple[Watch | Reading, ...] = (*bench.watches, *bench.readings)
    for item in items:
        for name, labels in Formula.parse(item.formula, bench.analysis_names).needs(bench.analysis_of(item)).items():
            found.setdefault(name, {}).update(dict.fromkeys(labels))
    return {name: tuple(labels) for name, labels in found.items()}


def _usable(before: Run | None, basis: str, plan: Plan) -> Dataset | None:
    """What an earlier run holds of an analysis, where it is of the same basis and has all that is watched now."""
    name = plan.analysis.name
    if before is None or before.bases.get(name) != basis or name not in before.results:
        return None
    data, nets = before.results[name], {f"V({net})" for net in plan.circuit.netlist.nets}
    if data.lanes != len(before.conditions) * data.per_condition:
        return None
    gone = [label for label in plan.labels if label.startswith("V(") and label not in nets]
    return data if all(label in data.curves or label in gone for label in plan.labels) else None


def _completed(plan: Plan, conditions: tuple[Condition, ...], data: Dataset | None, before: Run | None, job: Job,
               told: Told | None = None):  # fmt: skip
    """The dataset over all conditions, what was said, why lanes failed, how long it took, and what a person must know."""
    if data is None:
        piece = plan.run(conditions, job) if told is None else in_portions(plan, conditions, job, told)
        failures = {lane: str(error) for lane, error in piece.failures.items()}
        return piece.dataset, piece.log, failures, piece.seconds, piece.notes
    whole = data.complete.reshape(-1, data.per_condition).all(axis=1)
    have = {key_of(one): k for k, one in enumerate(before.conditions) if whole[k]}
    missing = tuple(one for one in conditions if key_of(one) not in have)
    if not missing:
        return _chosen(data, conditions, before.conditions), ("nothing new to compute",), {}, 0.0, ()
    return _merged(data, plan.run(missing, job), conditions, have, missing)


def _teller(run: Run, name: str, basis: str, told: Callable[[Run], None]) -> Told:
    """Hands on the run with what there is of one more analysis."""
    return lambda data: told(run.with_result(name, basis, data, (), {}, 0.0))


def _merged(data: Dataset, piece: Piece, conditions, have: dict, missing):
    per, new = data.per_condition, {key_of(one): k for k, one in enumerate(missing)}
    order = [
        have[key] * per + j if (key := key_of(one)) in have else data.lanes + new[key] * per + j
        for one in conditions
        for j in range(per)
    ]
    place = {source: lane for lane, source in enumerate(order)}
    failures = {place[data.lanes + lane]: str(error) for lane, error in piece.failures.items()}
    log = (f"{len(missing)} of {len(conditions)} conditions computed, the others were there", *piece.log)
    return joined([data, piece.dataset], np.array(order)), log, failures, piece.seconds, piece.notes


def _chosen(data: Dataset, conditions: tuple[Condition, ...], done: tuple[Condition, ...]) -> Dataset | None:
    """The lanes of these conditions out of those that are `done`; None where one is not among them."""
    places, per = {key_of(one): k for k, one in enumerate(done)}, data.per_condition
    if any(key_of(one) not in places for one in conditions):
        return None
    return joined([data], np.array([places[key_of(one)] * per + j for one in conditions for j in range(per)]))


def solve_point(
    snapshot: Snapshot, before: Dataset | None = None, recall: Recall | None = None, condition: Condition | None = None,
    draws: Draws | None = None,
) -> Dataset:  # fmt: skip
    """The operating point at the bench's point, or at another condition, or of a sample. Raises ConvergenceError when there
    is none, HearthlineError else.

    `before` is one of almost the same circuit: its voltages are where Newton starts, which saves most of the work;
    `recall` keeps what else need not be worked out again.
    """
    condition = condition or snapshot.condition()
    netlist = snapshot.netlist(condition.corner, condition.around)
    if before is not None:
        known = {label[2:-1]: float(v[0, 0]) for label, v in before.curves.items() if label.startswith("V(")}
        netlist = replace(netlist, near={net: v for net, v in known.items() if math.isfinite(v)})
    lanes = snapshot.moved(lane_of(condition))
    if draws is not None:
        lanes = draws.crossed(lanes)
    heating = snapshot.circuit.heating
    if heating is not None:
        return _hot_point(snapshot, heating, netlist, lanes)
    result = operating_point(netlist, snapshot.models, lanes, recall=recall)
    if len(result.solution.failed_lanes):
        raise result.solution.failure(0)
    return result.dataset


def _hot_point(snapshot: Snapshot, heating: Heating, netlist: Netlist, lanes: Lanes) -> Dataset:
    """The same at the temperatures that the circuit makes itself."""
    system = heating.at_rest(netlist, lanes)
    solution = solve(system, SourceSweep(), snapshot.circuit.tolerances, None, shown_variables(system))
    piece = with_temperatures(heating, piece_of(solution, dataset_of("op", solution, "point", "", np.zeros(1))), system)
    for failure in piece.failures.values():
        raise failure
    return piece.dataset


def size_of(snapshot: Snapshot, names: Iterable[str] | None = None) -> tuple[int, float]:
    """Points of a run over all conditions and analyses, and about how many bytes they take. Raises HearthlineError."""
    conditions, points, size = len(snapshot.conditions()), 0, 0.0
    elements = len(snapshot.circuit.netlist.nets) + 2
    for analysis in snapshot.bench.analyses:
        if names is None or analysis.name in set(names):
            count = conditions * Plan(snapshot.circuit, analysis).points()
            points, size = points + count, size + 8.0 * elements * count
    return points, size
