"""How many poles of a circuit grow, from the turns of its determinant."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from hearthline.core.analyses.ac import small_piece
from hearthline.core.analyses.frequencies import FREQUENCIES, count_of, frequencies_of
from hearthline.core.analyses.kind import AnalysisKind, Ask, Lowered, Piece, Ready

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.system import System

UNITS = {"stability.ndf": "", "stability.turns": ""}


class Stability(AnalysisKind):
    """The determinant over that of the same circuit made passive; its turns count the unstable poles."""

    name, meaning, called = "stability", "unstable poles, by the turns of the determinant over frequency", "poles"
    own = FREQUENCIES
    ready = (Ready("unstable poles", "unstable_poles()", "none where the circuit is stable"),)
    drivers = (
        "hearthline.core.engine.drive",
        "hearthline.core.engine.kernels.small_signal",
        "hearthline.core.engine.kernels.determinant",
    )

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """From where everything has settled to where nothing amplifies any more."""
        return {"from": "1k", "to": "100G", "points": "20", "spaced": "decade"}

    def points(self, plan: Ask) -> int:
        """Frequencies that are kept; others are looked at between them."""
        return count_of(plan)

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """Two curves."""
        from hearthline.core.engine.stability import stability

        system, frequencies = plan.circuit.system(netlist, lanes), frequencies_of(plan)

        def run(job: Job) -> Piece:
            answer = stability(system, frequencies, plan.circuit.tolerances, job)
            curves = {"stability.ndf": answer.ndf, "stability.turns": answer.turns}
            return small_piece(answer, answer.labelled("stability", curves, UNITS))

        return Lowered(system, 3 * len(lanes) * len(frequencies), run)

    def labels(self, system: System) -> frozenset[str]:
        """The determinant, and the count up to each frequency."""
        return frozenset(UNITS)
