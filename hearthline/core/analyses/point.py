"""The operating point."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.direct import piece_of
from hearthline.core.analyses.kind import AnalysisKind, Ask, DeckCard, Lowered, Piece

if TYPE_CHECKING:
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes


class Point(AnalysisKind):
    """All voltages, currents and device quantities at rest."""

    name, meaning, called = "point", "operating point", "point"
    card, form = ".op", "write .op"
    drivers = ("hearthline.core.engine.drive",)

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """One point a lane; everything is kept, but of very many."""
        from hearthline.core.engine.dc import dataset_of
        from hearthline.core.engine.solve import SourceSweep, solve

        system = plan.circuit.system(netlist, lanes)
        unknowns, variables = plan.kept(system, len(lanes))

        def run(job: Job) -> Piece:
            solution = solve(system, SourceSweep(), plan.circuit.tolerances, unknowns, variables, job)
            return piece_of(solution, dataset_of("op", solution, "point", "", np.zeros(1)))

        width = len(system.unknowns if unknowns is None else unknowns) + len(variables)
        return Lowered(system, len(lanes) * width, run)

    def of_card(self, card: DeckCard) -> dict[str, str]:
        """Nothing more is said."""
        return {}
