"""The periodic state that small signals and modes are about: a balance of one tone, or an oscillation."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from hearthline.core.analyses import balance, oscillation
from hearthline.core.analyses.about import PERIODIC, named
from hearthline.core.errors import AnalysisError

if TYPE_CHECKING:
    from hearthline.core.analyses.kind import Ask
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.periodic.states import Periodic
    from hearthline.core.engine.system import System


@dataclass(frozen=True)
class Large:
    """The periodic state that an analysis is about: its `check` of a circuit raises CircuitError, `found` computes it; so many
    harmonics are asked for, as many as it takes where that is None; whether it swings by `itself`."""

    check: Callable[[System], None]
    found: Callable[[System, Job], Periodic]
    harmonics: int | None
    itself: bool


def large_of(plan: Ask) -> Large:
    """Of one tone. Raises AnalysisError where there is none, or the tones are two."""
    name = named(plan, *PERIODIC)
    about, kinds = plan.beside(name), {one.name: one.kind for one in plan.circuit.analyses}
    if kinds[name] == "oscillation":
        wanted = oscillation.wanted_of(about)
        return Large(
            lambda system: None,
            lambda system, job: oscillation.found_for(about, system, wanted, job),
            wanted.harmonics,
            True,
        )
    hertz, tones = balance.tones_of(about)
    if len(hertz) > 1:
        raise AnalysisError(plan.name, "this is about a balance of one tone")

    def check(system: System) -> None:
        from hearthline.core.engine.periodic.lanes import check_sources

        check_sources(system, hertz, tones)

    harmonics = None if tones is None else len(tones) - 1
    return Large(check, lambda system, job: balance.found_for(about, system, job), harmonics, False)
