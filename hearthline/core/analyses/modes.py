"""Whether a balance stands: what grows or dies about it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.about import DRIVERS, first_of, named
from hearthline.core.analyses.balance import found_for, tones_of
from hearthline.core.analyses.kind import BALANCE, AnalysisKind, Ask, Counts, Lowered, Piece, Ready, Setting
from hearthline.core.analyses.temperatures import warm
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import AnalysisError
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
    own = (Setting("of", "", "the balance, by the name of its analysis", BALANCE),)
    ready = (
        Ready("largest growth", "peak(mode.growth)", "above 0 the periodic state is left"),
        Ready("where it grows most", "at(mode.frequency, 1)", "half the tone: it divides by two"),
    )
    drivers = DRIVERS

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """Of the first balance."""
        return {"of": first_of(circuit, "balance")}

    def needs(self, plan: Ask) -> tuple[str, ...]:
        """The balance."""
        return (named(plan, "balance"),)

    def points(self, plan: Ask) -> int:
        """Modes."""
        return SHOWN

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """The few that matter."""
        from hearthline.core.engine.periodic.lanes import check_sources

        large = plan.beside(named(plan, "balance"))
        hertz, tones = tones_of(large)
        if len(hertz) > 1:
            raise AnalysisError(plan.name, "modes are of a balance of one tone")
        system = plan.circuit.system(netlist, lanes)
        check_sources(system, hertz, tones)

        def run(job: Job) -> Piece:
            found = found_for(large, system, job)
            counts = Counts(found.iterations, len(lanes))
            data = _labelled(found, job)
            piece = Piece(data, found.log, dict(found.failures), found.seconds, found.notes, counts)
            return warm(plan, piece, found.system)

        return Lowered(system, 2 * SHOWN * len(lanes), run)

    def labels(self, system: System) -> frozenset[str]:
        """Growth and frequency."""
        return frozenset(CURVES)


def _labelled(found: Periodic, job: Job) -> Dataset:
    from hearthline.core.engine.dc import conditions_of
    from hearthline.core.engine.periodic.modes import modes
    from hearthline.core.engine.periodic.states import run_shares, shares_of

    each: dict[int, np.ndarray] = {}

    def work(lanes: np.ndarray) -> None:
        for lane in lanes:
            state = found.states[lane]
            if state is not None and not job.stopped:
                each[int(lane)] = modes(state)[:SHOWN]

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
