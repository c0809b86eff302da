"""Noise of an oscillation's phase, by every mechanism of every part."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.about import DRIVERS, first_of, named
from hearthline.core.analyses.frequencies import FREQUENCIES, count_of, frequencies_of
from hearthline.core.analyses.kind import OSCILLATION, AnalysisKind, Ask, Counts, Lowered, Piece, Ready, Setting
from hearthline.core.analyses.oscillation import found_for, wanted_of
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import AnalysisError

if TYPE_CHECKING:
    from hearthline.core.analyses.circuit import Circuit
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.periodic.oscillating import PhaseNoise
    from hearthline.core.engine.system import System

TOTAL = "noise.phase"


class PhaseNoiseAnalysis(AnalysisKind):
    """Single sideband over the carrier, by offset from it."""

    name, meaning, called = "phase_noise", "noise of an oscillation's phase over the offset from it", "skirt"
    own = (Setting("of", "", "the oscillation, by the name of its analysis", OSCILLATION), *FREQUENCIES)
    ready = (
        Ready("phase noise at 1 MHz", "db10(at(noise.phase, 1e6))", "over the carrier, in 1 Hz"),
        Ready("phase noise at 100 kHz", "db10(at(noise.phase, 1e5))", "over the carrier, in 1 Hz"),
    )
    drivers = DRIVERS

    def defaults(self, given: Mapping[str, str], circuit: Circuit) -> dict[str, str]:
        """Over offsets that receivers are asked about, of the first oscillation."""
        first = first_of(circuit, "oscillation")
        return {"of": first, "from": "100", "to": "10M", "points": "5", "spaced": "decade"}

    def needs(self, plan: Ask) -> tuple[str, ...]:
        """The oscillation."""
        return (named(plan, "oscillation"),)

    def points(self, plan: Ask) -> int:
        """Offsets."""
        return count_of(plan)

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """Every contributor is kept."""
        from hearthline.core.engine.noise_sources import noise_count
        from hearthline.core.engine.periodic.oscillating import phase_noise_of

        offsets = frequencies_of(plan)
        if offsets[0] <= 0:
            raise AnalysisError(plan.name, "offsets from the carrier begin above 0 Hz")
        wanted = wanted_of(plan.beside(named(plan, "oscillation")))
        system = plan.circuit.system(netlist, lanes)

        def run(job: Job) -> Piece:
            found = found_for(plan, system, wanted, job)
            data = _labelled(phase_noise_of(found, offsets))
            counts = Counts(found.iterations, len(offsets) * len(lanes))
            return Piece(data, found.log, dict(found.failures), found.seconds, found.notes, counts)

        return Lowered(system, len(lanes) * len(offsets) * (1 + noise_count(system)), run)

    def labels(self, system: System) -> frozenset[str]:
        """The total, and contributors."""
        from hearthline.core.engine.noise_sources import noise_names

        return frozenset([TOTAL, *noise_names(system)])


def _labelled(found: PhaseNoise) -> Dataset:
    """All, and each source's part, the largest first."""
    from hearthline.core.engine.dc import conditions_of

    parts = {name: found.each[:, :, k] for k, name in enumerate(found.sources)}
    largest = {name: np.nanmax(np.append(rows.ravel(), 0.0)) for name, rows in parts.items()}
    curves = {TOTAL: found.each.sum(axis=2)}
    curves |= {name: parts[name] for name in sorted(parts, key=lambda name: -largest[name])}
    whole = found.oscillation
    outcomes = np.repeat(whole.outcomes[:, None], len(found.offsets), axis=1)
    return Dataset(
        "phase_noise", "frequency", "Hz", found.offsets, curves, dict.fromkeys(curves, "1/Hz"),
        conditions_of(whole.system.lanes), outcomes,
    )  # fmt: skip
