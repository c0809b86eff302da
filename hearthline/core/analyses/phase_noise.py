"""Noise of an oscillation's phase, by every mechanism of every part."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.about import DRIVERS, first_of, named
from hearthline.core.analyses.frequencies import FREQUENCIES, count_of, frequencies_of
from hearthline.core.analyses.kind import OSCILLATION, AnalysisKind, Ask, Counts, Lowered, Piece, Ready, Setting
from hearthline.core.analyses.oscillation import found_for, wanted_of
from hearthline.core.analyses.temperatures import warm
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
ALONG_PERIOD = ("shift", "strength", "action")
"""Of a mechanism."""
ALONG = 256
"""Points of a period."""


class PhaseNoiseAnalysis(AnalysisKind):
    """Single sideband over the carrier, by offset from it."""

    name, meaning, called = "phase_noise", "noise of an oscillation's phase over the offset from it", "skirt"
    own = (Setting("of", "", "the oscillation, by the name of its analysis", OSCILLATION), *FREQUENCIES)
    ready = (
        Ready("phase noise at 1 MHz", "db10(at(noise.phase, 1e6))", "over the carrier, in 1 Hz"),
        Ready("phase noise at 100 kHz", "db10(at(noise.phase, 1e5))", "over the carrier, in 1 Hz"),
        Ready("corner of flicker", "flicker_corner(noise.phase)", "offset above which white noise decides"),
        Ready("jitter of a cycle", "accumulated_jitter(noise.phase, {of}(carrier_frequency()))", "root mean square"),
        Ready("jitter of 100 cycles", "accumulated_jitter(noise.phase, {of}(carrier_frequency()), 100)", "accumulated"),
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
            piece = Piece(data, found.log, dict(found.failures), found.seconds, found.notes, counts)
            return warm(plan, piece, found.system)

        return Lowered(system, len(lanes) * len(offsets) * (1 + noise_count(system)), run)

    def labels(self, system: System) -> frozenset[str]:
        """The total, and contributors."""
        from hearthline.core.engine.noise_sources import noise_names

        names = noise_names(system)
        return frozenset([TOTAL, *names, *(f"{name}.{what}" for name in names for what in ALONG_PERIOD)])


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
        conditions_of(whole.system.lanes), outcomes, wave=_acting(found),
    )  # fmt: skip


def _acting(found: PhaseNoise) -> Dataset | None:
    """Along a period, of each mechanism: how the phase answers between its ends [s/C], how strong it is [A/√Hz] (of 1/f at
    1 Hz), and both together [1/√Hz]: what it does at each phase; and the transconductance of each device."""
    from hearthline.core.engine.dc import conditions_of

    first = next((one for one in found.acting if one is not None), None)
    if first is None:
        return None
    lanes, every = len(found.acting), max(1, len(first.across) // ALONG)
    times = np.full((lanes, len(first.across[::every])), np.nan)
    shape = (*times.shape, first.across.shape[1])
    across, strength = np.full(shape, np.nan), np.full(shape, np.nan)
    system = found.oscillation.system
    places = [k for k, variable in enumerate(system.variables) if variable.label.endswith(".gm")]
    conducting = [system.variables[k] for k in places]
    gm = np.full((*times.shape, len(places)), np.nan)
    for lane, act in enumerate(found.acting):
        state = found.oscillation.states[lane]
        if act is not None and state is not None:
            step = max(1, len(act.across) // times.shape[1])
            times[lane] = np.arange(times.shape[1]) / times.shape[1] / state.hertz[0]
            points = state.balanced.samples(times.shape[1])
            gm[lane] = state.circuit.readouts(points, np.array(places, np.int64))
            across[lane], strength[lane] = act.across[::step], np.sqrt(act.density[::step])
    curves: dict[str, np.ndarray] = {}
    units: dict[str, str] = {}
    for k, name in enumerate(found.sources[: shape[2]]):
        curves |= {f"{name}.shift": across[:, :, k], f"{name}.strength": strength[:, :, k]}
        curves[f"{name}.action"] = across[:, :, k] * strength[:, :, k]
        units |= {f"{name}.shift": "s/C", f"{name}.strength": "A/√Hz", f"{name}.action": "1/√Hz"}
    for k, variable in enumerate(conducting):
        curves[variable.label], units[variable.label] = gm[:, :, k], variable.unit
    same = (times == times[0]).all()
    outcomes = np.repeat(found.oscillation.outcomes[:, None], times.shape[1], axis=1)
    return Dataset(
        "phase_noise-wave", "time", "s", times[0] if same else times, curves, units,
        conditions_of(found.oscillation.system.lanes), outcomes,
    )  # fmt: skip
