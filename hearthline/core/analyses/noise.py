"""Noise at an output, referred to a source."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import TYPE_CHECKING

from hearthline.core.analyses.ac import small_piece
from hearthline.core.analyses.frequencies import CARD_WORDS, FREQUENCIES, count_of, frequencies_of, of_card
from hearthline.core.analyses.kind import NET, SOURCE, AnalysisKind, Ask, DeckCard, Lowered, Piece, Ready, Setting
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import AnalysisError

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.system import System

TOTALS = {"output_noise": "noise.output", "input_noise": "noise.input"}
"""Totals are quantities of their own beside contributors such as `m1.channel`."""


class Noise(AnalysisKind):
    """Densities at an output, of every contributor and of all, over frequency."""

    name, meaning, called = "noise", "noise at an output over frequency", "density"
    own = (
        Setting("of", "", "the net, or two nets with a comma, whose noise is wanted", NET),
        Setting("by", "", "the source that noise is referred to", SOURCE),
        *FREQUENCIES,
    )
    ready = (
        Ready("integrated noise", "integrated_noise(noise.output)", "at the output, over all frequencies"),
        Ready("input noise", "integrated_noise(noise.input)", "referred to the input, over all frequencies"),
        Ready("corner frequency", "corner_frequency(noise.output)", "where flicker and white noise are equal"),
    )
    card, form = ".noise", "write .noise v(out) vin dec 10 1k 1meg"
    drivers = ("hearthline.core.engine.drive", "hearthline.core.engine.kernels.small_signal")

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """At the output, referred to the source that drives."""
        driven = [one.name for one in circuit.sources if "mag" in one.values] or [one.name for one in circuit.sources]
        by = next(iter(driven), "")
        return {"of": circuit.output, "by": by, "from": "1", "to": "1G", "points": "10", "spaced": "decade"}

    def points(self, plan: Ask) -> int:
        """Frequencies."""
        return count_of(plan)

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """Every contributor is kept."""
        from hearthline.core.engine.noise_sources import noise_count
        from hearthline.core.engine.small_signal import noise, pick, unit_excitation

        if "by" not in plan.settings:
            raise AnalysisError(plan.name, "say which source noise is referred to: by vin")
        system, frequencies = plan.circuit.system(netlist, lanes), frequencies_of(plan)
        output, source = ends_of(plan.settings["of"]), plan.settings["by"].lower()
        with plan.blamed():
            pick(system, output)
            unit_excitation(system, source)

        def run(job: Job) -> Piece:
            answer = noise(system, frequencies, output, source, plan.circuit.tolerances, job)
            return small_piece(answer, _named(answer.dataset()))

        return Lowered(system, len(lanes) * len(frequencies) * (2 + noise_count(system)), run)

    def labels(self, system: System) -> frozenset[str]:
        """Totals and contributors."""
        from hearthline.core.engine.noise_sources import noise_names

        return frozenset([*TOTALS.values(), *noise_names(system)])

    def of_card(self, card: DeckCard) -> dict[str, str]:
        """An output, a source, and frequencies."""
        tokens = card.tokens
        if len(tokens) < 7 or tokens[0] != "v":
            raise card.error(f"noise has an output, a source and frequencies; {self.form}")
        kinds = [k for k, token in enumerate(tokens) if token in CARD_WORDS]
        if not kinds or kinds[0] not in (3, 4):
            raise card.error(f"the kind of spacing is missing: dec, oct or lin; {self.form}")
        first = kinds[0]
        frequencies = of_card(card, tokens[first : first + 4], self.form)
        return {"of": ",".join(tokens[1 : first - 1]), "by": tokens[first - 1], **frequencies}

    def columns(self, plan: Ask) -> Mapping[str, str]:
        """Totals by one word."""
        return {name: short for short, name in TOTALS.items()}


def ends_of(text: str) -> tuple[str, str]:
    """The two nets of `out`, `outp,outn` or `V(out)`; the second may be ground."""
    nets = [net.strip().lower() for net in text.removeprefix("V(").removesuffix(")").split(",")]
    return nets[0], nets[1] if len(nets) > 1 else "0"


def _named(data: Dataset) -> Dataset:
    curves = {TOTALS.get(label, label): values for label, values in data.curves.items()}
    return replace(data, curves=curves, units={TOTALS.get(label, label): unit for label, unit in data.units.items()})
