"""Runs the compiled driver over all lanes on all processors."""

from __future__ import annotations

import time
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field, replace

import numpy as np

from hearthline.core.circuit.checks import likely_cause, nets_touched
from hearthline.core.engine.drive import run_lanes
from hearthline.core.engine.job import Job
from hearthline.core.engine.module import spoken
from hearthline.core.engine.system import System
from hearthline.core.engine.worker import new_memory
from hearthline.core.errors import ConvergenceError
from hearthline.core.outcome import Continuation, Outcome

FEW_LANES, LANES_A_SHARE, MOST_SHARES = 16, 4, 256
FAR_AWAY = 1e6
"""Where voltages [V] are beyond this it is no fault of a device that it gives no number."""


@dataclass(frozen=True)
class Tolerances:
    """When Newton is done: relative step, absolute steps [V] and [A], gmin across junctions [S], most iterations."""

    reltol: float = 1e-7
    vntol: float = 1e-9
    abstol: float = 1e-15
    gmin: float = 0.0
    iterations: int = 100

    def array(self) -> np.ndarray:
        """As compiled code takes them."""
        return np.array([self.reltol, self.vntol, self.abstol, self.gmin, float(self.iterations), np.inf])


@dataclass(frozen=True)
class SourceSweep:
    """Sources that take a value at each point: `points` (points,) or (lanes, points), in V or A."""

    sources: tuple[str, ...] = ()
    points: np.ndarray = field(default_factory=lambda: np.zeros(1))


@dataclass(frozen=True)
class Solution:
    """What came out, in all lanes.

    `kept` (lanes, points, watched unknowns), `readouts` (lanes, points, watched variables), NaN where there is no
    solution; `outcomes` (lanes, points) of Outcome; `continuations` (lanes,) of Continuation; `moved` (lanes, unknowns + 1) the
    last Newton step of a lane that failed.
    """

    system: System
    unknowns: np.ndarray
    variables: np.ndarray
    kept: np.ndarray
    readouts: np.ndarray
    outcomes: np.ndarray
    continuations: np.ndarray
    moved: np.ndarray
    culprits: np.ndarray
    iterations: int
    seconds: float

    @property
    def failed_lanes(self) -> np.ndarray:
        """Indices of lanes with a point that was tried and not solved."""
        bad = (
            (self.outcomes != Outcome.SOLVED) & (self.outcomes != Outcome.STOPPED) & (self.outcomes != Outcome.NOT_RUN)
        )
        return np.flatnonzero(bad.any(axis=1))

    def failure(self, lane: int) -> ConvergenceError:
        """The error that says why `lane` failed: the outcome, and the nets and parts that moved last."""
        first = next(o for o in self.outcomes[lane] if o not in (Outcome.SOLVED, Outcome.NOT_RUN))
        if self.culprits[lane] and np.abs(self.moved[lane, 1 : 1 + self.system.net_count]).max(initial=0.0) < FAR_AWAY:
            return self._no_number(lane)
        steps = np.abs(self.moved[lane, 1:])
        worst = [k for k in np.argsort(-np.nan_to_num(steps, nan=np.inf), kind="stable") if steps[k] != 0]
        nets = tuple(self.system.unknowns[k].name for k in worst if k < self.system.net_count)[:3]
        if nets:
            parts = nets_touched(self.system.netlist.elements, nets[:1])[:4]
            where = f"; moved last: nets {', '.join(nets)}, parts {', '.join(parts)}"
        else:
            parts = tuple(self.system.unknowns[k].name.split(".")[0] for k in worst[:1])
            where = f"; moved last: the current of {parts[0]}" if parts else ""
        cause = likely_cause(self.system.netlist.elements, nets)
        return ConvergenceError(Outcome(first).sentence + where + cause, nets, parts)

    def _no_number(self, lane: int) -> ConvergenceError:
        """The error about a device that gave no number: its name, model and bias."""
        name = self.system.owner_of_current(self.culprits[lane] - 1)
        element = next((e for e in self.system.netlist.elements if e.name == name), None)
        x, index = self.moved[lane], {u.name: k + 1 for k, u in enumerate(self.system.unknowns)}
        nets = element.nets if element else ()
        bias = ", ".join(f"V({net}) = {x[index[net]]:.4g} V" for net in nets if net in index)
        model = f" (model {element.model})" if element and element.model else ""
        nets = tuple(net for net in nets if net in index)
        loops = " and loops that do not end" if name in self.system.modules else ""
        message = (
            f"{name}{model} gave a value that is not a number at {bias or 'its bias'}; look at its sizes, its model{loops}, "
            f"and what is at net{'s' * (len(nets) > 1)} {', '.join(nets)}"
        )
        return ConvergenceError(message, nets, (name,))

    def log(self) -> list[str]:
        """One line for each help that lanes needed, and for each message of a device text."""
        helped = [
            f"{count} of {len(self.continuations)} lanes: {continuation.sentence}"
            for continuation in Continuation
            if continuation and (count := int(np.sum(self.continuations == continuation)))
        ]
        return [*helped, *self.system.messages, *self._said()]

    def notes(self) -> list[str]:
        """What a person must know of the result: what was added to the circuit, and what device texts say."""
        added = int(np.sum(self.continuations == Continuation.GMIN_LEFT))
        return [*([Continuation.GMIN_LEFT.sentence] if added else []), *self.system.messages, *self._said()]

    def _said(self) -> list[str]:
        """What device texts said about the solution: each message once, with the numbers of its first point."""
        columns = {self.system.variables[k].label: position for position, k in enumerate(self.variables)}
        found = []
        for name, module in self.system.modules.items():
            for number, said in enumerate(module.said):
                column = columns.get(f"{name}.@{number}.0")
                if column is None:
                    continue
                active = np.argwhere(np.nan_to_num(self.readouts[:, :, column]) != 0)
                if len(active):
                    lane, point = active[0]
                    numbers = self.readouts[lane, point, column + 1 : column + 1 + said.arguments]
                    times = f" ({len(active)} points)" if len(active) > 1 else ""
                    found.append(f"{name}: {spoken(said, numbers)}{times}")
        return found


def solve(
    system: System,
    sweep: SourceSweep = SourceSweep(),
    tolerances: Tolerances = Tolerances(),
    unknowns: Sequence[int] | None = None,
    variables: Sequence[int] = (),
    job: Job | None = None,
    hold: bool = False,
) -> Solution:
    """Solves `system` in every lane at every point of `sweep`; keeps the given unknowns (None: all) and variables.

    `hold` keeps the nets that have an initial voltage there. A lane that fails is marked and the others stand. Returns
    what is there when the job is stopped.
    """
    job = job or Job()
    lanes, points = len(system.lanes), np.atleast_2d(sweep.points).shape[1]
    watched = np.array(range(len(system.unknowns)) if unknowns is None else unknowns, np.int64)
    watched_variables = np.array([*variables, *system.hidden], np.int64)
    solution = Solution(
        system, watched, watched_variables,
        np.full((lanes, points, len(watched)), np.nan),
        np.full((lanes, points, len(watched_variables)), np.nan),
        np.full((lanes, points), int(Outcome.NOT_RUN), np.int64),
        np.zeros(lanes, np.int64),
        np.zeros((lanes, len(system.unknowns) + 1)),
        np.zeros(lanes, np.int64),
        0, 0.0,
    )  # fmt: skip
    shares = _shares(lanes)
    job.begin(lanes * points, len(shares))
    job.follow(lambda: (solution.outcomes != Outcome.NOT_RUN).mean(axis=1))
    counts = np.zeros(len(shares), np.int64)
    _ = system.static  # kernels are loaded before the clock runs
    begin = time.perf_counter()
    _run(system, sweep, tolerances, solution, shares, counts, job, hold)
    return replace(solution, iterations=int(counts.sum()), seconds=time.perf_counter() - begin)


def _run(
    system: System, sweep: SourceSweep, tolerances: Tolerances, solution: Solution, shares: list, counts: np.ndarray, job: Job,
    hold: bool,
) -> None:  # fmt: skip
    lanes, points = solution.outcomes.shape
    table = np.array(np.broadcast_to(np.atleast_2d(sweep.points), (lanes, points)), float, order="C")
    limits, watched = tolerances.array(), solution.unknowns + 1
    pattern, circuit = system.static
    held = system.held if hold else system.held[:0]
    volts = np.ascontiguousarray(system.initial[:, held])
    swept = np.array([system.source_slots[name] for name in sweep.sources], np.int64)

    def work(task: tuple[int, np.ndarray]) -> None:
        share, chunk = task
        run_lanes(
            circuit, new_memory(circuit, pattern, held), system.values, system.guesses, volts, chunk, swept, table, watched,
            solution.variables, solution.kept, solution.readouts, solution.outcomes, solution.continuations, solution.moved,
            solution.culprits, counts, job.progress, job.flag, share, limits.copy(),
        )  # fmt: skip

    if len(shares) == 1:
        work((0, shares[0]))
        return
    with ThreadPoolExecutor(job.workers) as pool:
        list(pool.map(work, enumerate(shares)))


def _shares(lanes: int) -> list[np.ndarray]:
    """Neighbouring lanes stay together, so that each starts from a close one.

    How they are shared out depends on their number alone, and not on the machine: a circuit with two stable states
    then ends in the same one everywhere.
    """
    count = lanes if lanes < FEW_LANES else min(MOST_SHARES, -(-lanes // LANES_A_SHARE))
    return np.array_split(np.arange(lanes), count)
