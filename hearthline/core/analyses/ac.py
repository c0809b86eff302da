"""Small signals over frequency."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.frequencies import FREQUENCIES, count_of, frequencies_of, of_card
from hearthline.core.analyses.kind import SOURCE, AnalysisKind, Ask, Counts, DeckCard, Lowered, Piece, Ready, Setting
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import AnalysisError

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.small_signal import Small


class Ac(AnalysisKind):
    """What every net answers to a small signal, about the operating point."""

    name, meaning, called = "ac", "small signals over frequency", "response"
    own = (
        *FREQUENCIES,
        Setting("by", "", "the source that is 1 V or 1 A; without it those drawn with an amplitude", SOURCE),
    )
    ready = (
        Ready("low-frequency gain", "gain(V({out}))", "magnitude at the lowest frequency"),
        Ready("gain at f", "gain(V({out}), 1e6)", "magnitude at a frequency, here 1 MHz"),
        Ready("bandwidth", "bandwidth(V({out}))", "3 dB down from the lowest frequency"),
        Ready("unity-gain frequency", "unity_gain(V({out}))", "where the magnitude falls through 1"),
        Ready("phase margin", "phase_margin(V({out}))", "of a loop gain, positive at low frequencies"),
        Ready("gain margin", "gain_margin(V({out}))", "of a loop gain"),
        Ready("CMRR", "rejection({other}(V({out})), {here}(V({out})))", "differential over common response"),
        Ready(
            "PSRR", "rejection({other}(V({out})), {here}(V({out})))", "response to the input over that to the supply"
        ),
    )
    card, form = ".ac", "write .ac dec 10 1k 1meg"
    drivers = ("hearthline.core.engine.drive", "hearthline.core.engine.kernels.small_signal")

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """Driven by the first source where none is drawn with an amplitude."""
        driven = any("mag" in one.values for one in circuit.sources)
        by = "" if driven or not circuit.sources else circuit.sources[0].name
        return {"from": "1", "to": "10G", "points": "20", "spaced": "decade", "by": by}

    def points(self, plan: Ask) -> int:
        """Frequencies."""
        return count_of(plan)

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """What is kept as of a sweep; everything where a quantity of a device is watched, which follows from all nets."""
        from hearthline.core.engine.small_signal import ac, unit_excitation

        system, frequencies = plan.circuit.system(netlist, lanes), frequencies_of(plan)
        by, excitations = plan.settings.get("by", ""), None
        if by:
            with plan.blamed():
                excitations = unit_excitation(system, by.lower())[None, :]
        elif not plan.everything and not any(np.any(phasor != 0) for phasor in system.phasors.values()):
            message = "no source has an AC amplitude; give one, or say which drives: by vin"
            raise AnalysisError(plan.name, message)
        known = {one.label for one in system.variables}
        watched = tuple(label for label in plan.labels if label in known)
        unknowns = None if watched else plan.kept(system, len(lanes))[0]

        def run(job: Job) -> Piece:
            answer = ac(system, frequencies, plan.circuit.tolerances, job, excitations, unknowns)
            return small_piece(answer, answer.dataset(variables=watched))

        width = len(system.unknowns if unknowns is None else unknowns)
        return Lowered(system, 2 * len(lanes) * len(frequencies) * width, run)

    def of_card(self, card: DeckCard) -> dict[str, str]:
        """The sources are the deck's own."""
        return {**of_card(card, card.tokens, self.form), "by": ""}


def small_piece(answer: Small, data: Dataset) -> Piece:
    """A small-signal answer with its dataset."""
    failures = {int(lane): answer.failure(lane) for lane in answer.failed_lanes}
    counts = Counts(answer.point.iterations, len(answer.frequencies) * data.lanes)
    return Piece(data, tuple(answer.point.log()), failures, answer.seconds, tuple(answer.notes()), counts)
