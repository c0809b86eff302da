"""Whether a balance or an oscillation stands: what grows or dies about it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.about import DRIVERS, PERIODIC, first_of, named
from hearthline.core.analyses.kind import LARGE, AnalysisKind, Ask, Counts, Lowered, Piece, Ready, Setting
from hearthline.core.analyses.large import large_of
from hearthline.core.analyses.temperatures import warm
from hearthline.core.data.dataset import Dataset
from hearthline.core.outcome import Outcome

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.periodic.states import Periodic
    from hearthline.core.engine.system import System

SHOWN = 6
"""Modes that are kept."""
CURVES = {"mode.growth": "1/s", "mode.frequency": "Hz"}


class ModesAnalysis(AnalysisKind):
    """Exponents about a periodic state, the one that grows most first."""

    name, meaning, called = "modes", "what grows or dies about a periodic state: whether it stands", "standing"
    own = (Setting("of", "", "the balance or oscillation, by the name of its analysis", LARGE),)
    ready = (
        Ready("largest growth", "peak(mode.growth)", "above 0 the periodic state is left"),
        Ready("where it grows most", "at(mode.frequency, 1)", "half the tone: it divides by two"),
    )
    drivers = DRIVERS

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """Of the first that there is."""
        return {"of": first_of(circuit, *PERIODIC)}

    def needs(self, plan: Ask) -> tuple[str, ...]:
        """What it is about."""
        return (named(plan, *PERIODIC),)

    def points(self, plan: Ask) -> int:
        """Modes."""
        return SHOWN

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """The few that matter."""
        large, system = large_of(plan), plan.circuit.system(netlist, lanes)
        large.check(system)

        def run(job: Job) -> Piece:
            found = large.found(system, job)
            counts = Counts(found.iterations, len(lanes))
            data = _labelled(found, job, large.itself)
            piece = Piece(data, found.log, dict(found.failures), found.seconds, found.notes, counts)
            return warm(plan, piece, found.system)

        return Lowered(system, 2 * SHOWN * len(lanes), run)

    def labels(self, system: System) -> frozenset[str]:
        """Growth and frequency."""
        return frozenset(CURVES)


def _labelled(found: Periodic, job: Job, itself: bool) -> Dataset:
    from hearthline.core.engine.dc import conditions_of
    from hearthline.core.engine.periodic.modes import modes
    from hearthline.core.engine.periodic.states import run_shares, shares_of

    each: dict[int, np.ndarray] = {}

    def work(lanes: np.ndarray) -> None:
        for lane in lanes:
            state = found.states[lane]
            if state is not None and not job.stopped:
                each[int(lane)] = modes(state, itself)[:SHOWN]

    run_shares(work, shares_of(len(found.states)), job.workers)
    count = max([1, *(len(one) for one in each.values())])
    exponents = np.full((len(found.states), count), np.nan + 0j)
    for lane, here in each.items():
        exponents[lane, : len(here)] = here
        exponents[lane, len(here) :] = here[-1:]
    curves = {"mode.growth": exponents.real, "mode.frequency": exponents.imag / (2.0 * np.pi)}
    outcomes = np.repeat(found.outcomes[:, None], count, axis=1)
    outcomes[[lane for lane in range(len(outcomes)) if lane not in each and found.states[lane] is not None]] = (
        Outcome.STOPPED
    )
    number = np.arange(1.0, count + 1.0)
    return Dataset("modes", "number", "", number, curves, CURVES, conditions_of(found.system.lanes), outcomes)
