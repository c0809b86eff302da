"""Runs a bench: over all its conditions, or at the one point that the drawing shows."""

from __future__ import annotations

import math
from dataclasses import replace

from hearthline.core.bench.readings import Run
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.formula import Formula
from hearthline.core.engine.analyses import Result, SweptSource, dc_sweep, operating_point
from hearthline.core.engine.job import Job
from hearthline.core.engine.recall import Recall
from hearthline.core.errors import CircuitError
from hearthline.core.spread.pvt import lane_of


def run_bench(snapshot: Snapshot, job: Job | None = None) -> Run:
    """The bench's sweep at every condition of its grid. Raises HearthlineError for wrong input; a lane that does not
    converge is marked in the run and the others stand."""
    bench = snapshot.bench
    wanted = [Formula.parse(item.formula) for item in (*bench.watches, *bench.readings)]
    labels = tuple(dict.fromkeys(label for formula in wanted for label in formula.quantities))
    if not bench.sweep.stimulus:
        raise CircuitError(f"bench {bench.title} has no sweep; its operating point is on the drawing")
    netlist = snapshot.netlist()
    source = next((e for e in netlist.elements if e.name == bench.sweep.stimulus.lower()), None)
    unit = "A" if source is not None and source.kind == "I" else "V"
    swept = SweptSource(bench.sweep.stimulus.lower(), snapshot.sweep_points(), unit)
    result = dc_sweep(netlist, snapshot.kit.models, snapshot.grid().lanes(), swept, labels, job=job or Job())
    return _run(snapshot, result)


def _run(snapshot: Snapshot, result: Result) -> Run:
    solution = result.solution
    failures = {int(lane): str(solution.failure(lane)) for lane in solution.failed_lanes}
    return Run(snapshot, result.dataset, tuple(solution.log()), solution.seconds, failures)


def solve_point(snapshot: Snapshot, before: Dataset | None = None, recall: Recall | None = None) -> Dataset:
    """The operating point at the bench's point. Raises ConvergenceError when there is none, HearthlineError else.

    `before` is one of almost the same circuit: its voltages are where Newton starts, which saves most of the work;
    `recall` keeps what else need not be worked out again.
    """
    netlist = snapshot.netlist()
    if before is not None:
        known = {label[2:-1]: float(v[0, 0]) for label, v in before.curves.items() if label.startswith("V(")}
        netlist = replace(netlist, near={net: v for net, v in known.items() if math.isfinite(v)})
    result = operating_point(netlist, snapshot.kit.models, lane_of(snapshot.condition()), recall=recall)
    if len(result.solution.failed_lanes):
        raise result.solution.failure(0)
    return result.dataset
