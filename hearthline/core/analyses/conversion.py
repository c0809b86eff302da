"""Small signals about a periodic state: what a mixer makes of them, and its noise."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.about import DRIVERS, PERIODIC, first_of, named
from hearthline.core.analyses.frequencies import FREQUENCIES, count_of, frequencies_of
from hearthline.core.analyses.kind import (
    LARGE,
    NET,
    SOURCE,
    AnalysisKind,
    Ask,
    Counts,
    Lowered,
    Piece,
    Ready,
    Setting,
)
from hearthline.core.analyses.large import large_of
from hearthline.core.analyses.noise import ends_of
from hearthline.core.analyses.temperatures import warm
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import AnalysisError

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.periodic.conversion import Conversion
    from hearthline.core.engine.system import System

FIGURES = {"gain": "", "noise_factor": "", "noise_factor_double": ""}
"""Between ports, with their units; in formulas `conversion.gain`."""
TOTAL = "noise.output"


class ConversionAnalysis(AnalysisKind):
    """Answers at the frequencies of the output to a small signal at a sideband of what repeats, and noise there."""

    name, meaning, called = "conversion", "small signals and noise about a periodic state, as of a mixer", "mixer"
    own = (
        Setting("of", "", "the balance or oscillation, by the name of its analysis", LARGE),
        Setting("by", "", "the source that the small signal comes from", SOURCE),
        Setting("sideband", "", "where it is: the frequency of the output plus so many times the tone"),
        Setting("output", "", "the net, or two with a comma, where it comes out", NET, said="into"),
        Setting("beside", "", "the harmonic that the output's frequencies are counted from; left out, 0 Hz"),
        *FREQUENCIES,
    )
    ready = (
        Ready("conversion gain", "db10(at(conversion.gain, 1e6))", "between ports, at an output frequency"),
        Ready("noise figure, single sideband", "db10(at(conversion.noise_factor, 1e6))", "between ports"),
        Ready("noise figure, double sideband", "db10(at(conversion.noise_factor_double, 1e6))", "between ports"),
        Ready("output noise", "at(noise.output, 1e6)", "at an output frequency"),
    )
    drivers = DRIVERS

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """From one sideband above the tone of what repeats first to the likely output."""
        first = first_of(circuit, *PERIODIC)
        driven = [one.name for one in circuit.sources if "mag" in one.values] or [one.name for one in circuit.sources]
        by = next(iter(driven), "")
        return {"of": first, "by": by, "sideband": "1", "output": circuit.output, "from": "100k", "to": "10M",
                "points": "10", "spaced": "decade"}  # fmt: skip

    def needs(self, plan: Ask) -> tuple[str, ...]:
        """What it is about."""
        return (named(plan, *PERIODIC),)

    def points(self, plan: Ask) -> int:
        """Frequencies of the output."""
        return count_of(plan)

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """Voltages and currents at the output's frequency, and every contributor to the noise."""
        from hearthline.core.engine.noise_sources import noise_count
        from hearthline.core.engine.periodic.conversion import Asked, conversion
        from hearthline.core.engine.small_signal import pick, unit_excitation

        if "by" not in plan.settings:
            raise AnalysisError(plan.name, "say which source the small signal comes from: by p1")
        large = large_of(plan)
        beside, sideband = self._harmonics(plan, large.harmonics)
        frequencies = frequencies_of(plan)
        if frequencies[0] <= 0:
            raise AnalysisError(plan.name, "frequencies of the output begin above 0 Hz")
        system = plan.circuit.system(netlist, lanes)
        asked = Asked(plan.settings["by"].lower(), beside + sideband, ends_of(plan.settings["output"]), beside)
        with plan.blamed():
            pick(system, asked.output)
            unit_excitation(system, asked.source)
        large.check(system)

        def run(job: Job) -> Piece:
            found = large.found(system, job)
            mixed = conversion(found, asked, frequencies, job)
            counts = Counts(found.iterations, len(frequencies) * len(lanes))
            piece = Piece(_labelled(mixed), found.log, dict(found.failures), found.seconds, found.notes, counts)
            return warm(plan, piece, found.system)

        width = 2 * len(system.unknowns) + noise_count(system)
        return Lowered(system, len(lanes) * len(frequencies) * width, run)

    def _harmonics(self, plan: Ask, most: int | None) -> tuple[int, int]:
        """That the output is beside, and how many the small signal is above it. Raises AnalysisError."""
        beside = plan.number("beside") if "beside" in plan.settings else 0.0
        sideband = plan.number("sideband")
        for word, said, number in (("sideband", sideband, beside + sideband), ("beside", beside, beside)):
            if said != int(said) or (most is not None and abs(number) > most):
                within = "" if most is None else f", and with it up to {most} harmonics are reached"
                raise AnalysisError(plan.name, f"{word} is a whole number{within}, and not {said:g}")
        return int(beside), int(sideband)

    def labels(self, system: System) -> frozenset[str]:
        """Answers, figures, and contributors to the noise."""
        from hearthline.core.engine.noise_sources import noise_names

        figures = (f"conversion.{name}" for name in FIGURES)
        return frozenset([*(one.label for one in system.unknowns if one.kind), *figures, TOTAL, *noise_names(system)])


def _labelled(found: Conversion) -> Dataset:
    """Phasors, figures, and noise with its contributors, the largest first."""
    from hearthline.core.engine.dc import conditions_of

    system = found.large.system
    shown = [(k, one) for k, one in enumerate(system.unknowns) if one.kind]
    curves: dict[str, np.ndarray] = {one.label: found.values[:, :, k] for k, one in shown}
    units = {one.label: one.kind.replace("I", "A") for _, one in shown}
    if found.gain is not None and found.single is not None and found.double is not None:
        figures = (found.gain, found.single, found.double)
        curves |= {f"conversion.{name}": rows for name, rows in zip(FIGURES, figures, strict=True)}
        units |= {f"conversion.{name}": unit for name, unit in FIGURES.items()}
    parts = {name: np.sqrt(found.densities[:, :, k]) for k, name in enumerate(found.sources)}
    curves[TOTAL] = np.sqrt(found.densities.sum(axis=2))
    largest = {name: np.nanmax(np.append(rows.ravel(), 0.0)) for name, rows in parts.items()}
    names = sorted(parts, key=lambda name: -largest[name])
    curves |= {name: parts[name] for name in names}
    units |= dict.fromkeys([TOTAL, *names], "V/√Hz")
    outcomes = np.repeat(found.outcomes[:, None], len(found.frequencies), axis=1)
    return Dataset(
        "conversion", "frequency", "Hz", found.frequencies, curves, units, conditions_of(system.lanes), outcomes
    )
