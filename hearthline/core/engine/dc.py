"""The analyses of the direct current: operating point and sweep, from a circuit and its conditions to a dataset."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.circuit.netlist import Netlist
from hearthline.core.data.dataset import AROUND, Dataset
from hearthline.core.data.refinement import refined
from hearthline.core.engine.job import Job
from hearthline.core.engine.lanes import Lanes, one_lane
from hearthline.core.engine.recall import Recall
from hearthline.core.engine.solve import Solution, SourceSweep, Tolerances, solve
from hearthline.core.engine.system import System, lower
from hearthline.core.errors import CircuitError
from hearthline.core.outcome import Outcome
from hearthline.core.process.models import ModelSet

MOST_REFINED = 5000
"""Points of a refined sweep."""
SAME = 1e-3
"""Share of the largest voltage by which two solutions must differ to be two."""


@dataclass(frozen=True)
class DirectResult:
    """A dataset, and the solution it was read from (for its log, failures and counts)."""

    dataset: Dataset
    solution: Solution


@dataclass(frozen=True)
class SweptSource:
    """A source whose direct value [V or A] takes each of `points` (points,)."""

    source: str
    points: np.ndarray
    unit: str = "V"


def operating_point(
    netlist: Netlist,
    models: ModelSet,
    lanes: Lanes,
    tolerances: Tolerances | None = None,
    job: Job | None = None,
    recall: Recall | None = None,
) -> DirectResult:
    """All voltages, branch currents and device variables in each lane; the dataset has one point. `recall` speeds up the
    next circuit that is much like this one."""
    system = lower(netlist, models, lanes, recall)
    solution = solve(system, SourceSweep(), tolerances or Tolerances(), None, shown_variables(system), job)
    return DirectResult(dataset_of("op", solution, "point", "", np.zeros(1)), solution)


def dc_sweep(
    netlist: Netlist,
    models: ModelSet,
    lanes: Lanes,
    swept: SweptSource,
    watch: tuple[str, ...] | None = None,
    tolerances: Tolerances | None = None,
    job: Job | None = None,
    bend: float | None = None,
) -> DirectResult:
    """The source swept in each lane; keeps the curves named in `watch` (None: everything).

    The points may go up and down again: each starts from the one before, so that a circuit with hysteresis shows it. With
    `bend` they are where to begin, rising, and the sweep is refined until no curve misses a straight line by more than that
    share of its height.

    Raises CircuitError for a source or a watched quantity that the circuit does not have.
    """
    system = lower(netlist, models, lanes)
    if swept.source not in system.source_slots:
        known = ", ".join(system.source_slots) or "none"
        raise CircuitError(f"there is no source '{swept.source}' to sweep; there is {known}", part=swept.source)
    unknowns, variables = _watched(system, watch)
    solutions: list[Solution] = []

    def run(points: np.ndarray) -> Dataset:
        sweep = SourceSweep((swept.source,), points)
        solutions.append(solve(system, sweep, tolerances or Tolerances(), unknowns, variables, job))
        return dataset_of("dc", solutions[-1], swept.source, swept.unit, points)

    data = run(swept.points) if bend is None else refined(run, swept.points, bend, MOST_REFINED)
    return DirectResult(data, solutions[0])


def other_solutions(
    system: System, known: np.ndarray, tries: int = 40, seed: int = 1, tolerances: Tolerances | None = None
) -> np.ndarray:
    """Operating points of the first lane beside `known` (unknowns,), from starts at random: (found, unknowns).

    A latch or a reference with a dead state has more than one; what is not found may still exist.
    """
    span = max(1.0, float(np.abs(known[: system.net_count]).max()))
    starts = np.zeros((tries, len(system.unknowns) + 1))
    rng = np.random.default_rng(seed)
    starts[:, 1 : system.net_count + 1] = span * rng.uniform(-0.2, 1.2, (tries, system.net_count))
    found = [known]
    for k in range(tries):
        lane = replace(system, lanes=one_lane(system.lanes, 0), values=system.values[:1], guesses=starts[k : k + 1])
        solution = solve(lane, tolerances=tolerances or Tolerances())
        x = solution.kept[0, 0]
        if solution.outcomes[0, 0] == Outcome.SOLVED and not any(
            np.abs(x - one)[: system.net_count].max() < SAME * span for one in found
        ):
            found.append(x)
    return np.array(found[1:]).reshape(-1, len(known))


def shown_variables(system: System) -> list[int]:
    """Indices of the variables of drawn or written parts: not those of resistances inside them, nor of their messages."""
    drawn = {element.name for element in system.netlist.elements}
    return [k for k, variable in enumerate(system.variables) if variable.element in drawn and not variable.hidden]


def _watched(system: System, watch: tuple[str, ...] | None) -> tuple[list[int] | None, list[int]]:
    if watch is None:
        return None, shown_variables(system)
    unknowns = {unknown.label: k for k, unknown in enumerate(system.unknowns)}
    variables = {variable.label: k for k, variable in enumerate(system.variables)}
    for label in watch:
        if label not in unknowns and label not in variables:
            raise CircuitError(f"there is no quantity '{label}' to watch; nets are {', '.join(system.nets[:12])}")
    return [unknowns[w] for w in watch if w in unknowns], [variables[w] for w in watch if w in variables]


def dataset_of(kind: str, solution: Solution, axis: str, unit: str, points: np.ndarray) -> Dataset:
    """What a solution kept, over `points` of an axis."""
    system = solution.system
    curves: dict[str, np.ndarray] = {}
    units: dict[str, str] = {}
    for position, k in enumerate(solution.unknowns):
        unknown = system.unknowns[k]
        if not unknown.kind:
            continue  # a state inside a device
        curves[unknown.label], units[unknown.label] = solution.kept[:, :, position], unknown.kind.replace("I", "A")
    # all views in one go: a cell of sixty devices has two thousand readouts
    for k, values in zip(solution.variables.tolist(), np.moveaxis(solution.readouts, 2, 0), strict=True):
        variable = system.variables[k]
        if not variable.hidden:
            curves[variable.label], units[variable.label] = values, variable.unit
    return Dataset(kind, axis, unit, points, curves, units, conditions_of(system.lanes), solution.outcomes)


def conditions_of(lanes: Lanes) -> Mapping[str, np.ndarray]:
    """The conditions of each lane as labelled arrays."""
    known = {"corner": np.array(lanes.corners), "temperature": np.asarray(lanes.celsius), **lanes.parameters}
    return {**known, AROUND: np.array(lanes.around)} if lanes.around else known
