"""Impedances both ways at a terminal, with nothing inserted there."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from hearthline.core.analyses.ac import small_piece
from hearthline.core.analyses.frequencies import FREQUENCIES, count_of, frequencies_of
from hearthline.core.analyses.kind import TERMINAL, AnalysisKind, Ask, Lowered, Piece, Ready, Setting
from hearthline.core.errors import AnalysisError

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.system import System

CURVES = {"into": "Ω", "back": "Ω", "gamma_into": "", "gamma_back": "", "index": "", "loop": ""}
"""With their units; in formulas `look.into`."""


class Look(AnalysisKind):
    """What is seen into a part, and back into its net, at a terminal of it."""

    name, meaning, called = "look", "impedances both ways at a terminal over frequency", "seen"
    own = (
        Setting("terminal", "", "a terminal of a part or block, such as m1.g", TERMINAL, said="at"),
        *FREQUENCIES,
    )
    ready = (
        Ready("distance to a wanted impedance", "distance(look.back, 50)", "largest reflection against it"),
        Ready("least distance of the index from 1", "least(abs(look.index - 1))", "at 1 it oscillates"),
        Ready("least distance of the loop gain from -1", "least(abs(look.loop + 1))", "at -1 it oscillates"),
        Ready("impedance at f", "abs(at(look.into, 1e9))", "into the part, at a frequency"),
    )
    drivers = ("hearthline.core.engine.drive", "hearthline.core.engine.kernels.look")

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """Over what an RF cell is asked."""
        return {"from": "1M", "to": "10G", "points": "20", "spaced": "decade"}

    def points(self, plan: Ask) -> int:
        """Frequencies."""
        return count_of(plan)

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """Six curves."""
        from hearthline.core.engine.connection import connection_of
        from hearthline.core.engine.look import looks

        if "terminal" not in plan.settings:
            raise AnalysisError(plan.name, "say where to look: at m1.g")
        system, frequencies = plan.circuit.system(netlist, lanes), frequencies_of(plan)
        with plan.blamed():
            connection = connection_of(system, plan.settings["terminal"], plan.circuit.origin.inside)

        def run(job: Job) -> Piece:
            answer = looks(system, [connection], frequencies, plan.circuit.tolerances, job)
            curves = {f"look.{name}": getattr(answer, name)[0] for name in CURVES}
            units = {f"look.{name}": unit for name, unit in CURVES.items()}
            return small_piece(answer, answer.labelled("look", curves, units))

        return Lowered(system, 2 * len(CURVES) * len(lanes) * len(frequencies), run)

    def labels(self, system: System) -> frozenset[str]:
        """What is seen."""
        return frozenset(f"look.{name}" for name in CURVES)
