"""An oscillation of the circuit itself, found from its drawing alone."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.about import DRIVERS
from hearthline.core.analyses.balance import ALONG
from hearthline.core.analyses.kind import AnalysisKind, Ask, Counts, Lowered, Piece, Ready, Setting
from hearthline.core.analyses.temperatures import warm
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import AnalysisError

if TYPE_CHECKING:
    from hearthline.core.circuit.netlist import Netlist
    from hearthline.core.engine.job import Job
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.engine.periodic.oscillating import Wanted
    from hearthline.core.engine.periodic.states import Periodic
    from hearthline.core.engine.system import System

GROWTH, MARGIN = "start.growth", "start.margin"
"""Of the pole that it begins with [1/s]; and what gain makes of negative conductance over what is lost."""
SUPPOSED, MOST_HARMONICS = 16, 500
"""Harmonics that it is taken to need before it has run; and at most."""


class OscillationAnalysis(AnalysisKind):
    """Frequency, phasors and period of what swings by itself."""

    name, meaning, called = "oscillation", "what the circuit swings at by itself", "swing"
    own = (
        Setting("near", "Hz", "about where; left out, what grows fastest"),
        Setting("harmonics", "", "left out, as many as it takes"),
    )
    ready = (
        Ready("frequency", "carrier_frequency()", "of the oscillation"),
        Ready("amplitude", "abs(at_harmonic(V({out}), 1))", "peak of the first harmonic"),
        Ready("second harmonic", "dbc(V({out}), 2)", "over the first"),
        Ready("third harmonic", "dbc(V({out}), 3)", "over the first"),
        Ready("supply current", "-re(at_harmonic(I({supply}), 0))", "mean"),
        Ready("start margin", "at(start.margin, 0)", "negative conductance that gain makes, over what is lost at rest"),
        Ready(
            "start time",
            "log(abs(at_harmonic(V({out}), 1)) / 1e-6) / at(start.growth, 0)",
            "from 1 uV to its amplitude, as it grows at rest",
        ),
    )
    drivers = DRIVERS
    countable = False

    def points(self, plan: Ask) -> int:
        """About how many harmonics, and points of a period."""
        return ALONG + 1 + (int(plan.number("harmonics")) if "harmonics" in plan.settings else SUPPOSED)

    def lowered(self, plan: Ask, netlist: Netlist, lanes: Lanes) -> Lowered:
        """All voltages and currents are kept, device quantities as there is room, and how the phase answers to charge."""
        wanted, system = wanted_of(plan), plan.circuit.system(netlist, lanes)
        kept = plan.kept(system, len(lanes))

        def run(job: Job) -> Piece:
            found = found_for(plan, system, wanted, job)
            counts = Counts(found.iterations, len(found.states))
            data = _labelled(found, kept)
            piece = Piece(data, found.log, dict(found.failures), found.seconds, found.notes, counts)
            return warm(plan, piece, found.system)

        return Lowered(system, 2 * len(lanes) * self.points(plan) * (len(system.unknowns) + len(kept[1])), run)

    def labels(self, system: System) -> frozenset[str]:
        """As of all analyses, and the answer of the phase at each net."""
        from hearthline.core.engine.periodic.labelled import power_labels

        shifts = {f"shift({net})" for net in system.nets}
        return super().labels(system) | shifts | power_labels(system) | {GROWTH, MARGIN}


def wanted_of(plan: Ask) -> Wanted:
    """What a line asks for. Raises AnalysisError."""
    from hearthline.core.engine.periodic.oscillating import Wanted

    near = plan.number("near") if "near" in plan.settings else None
    if near is not None and near <= 0:
        raise AnalysisError(plan.name, f"an oscillation is near a frequency above 0 Hz, and not {near:g} Hz")
    harmonics = plan.count("harmonics", 1) if "harmonics" in plan.settings else None
    if harmonics is not None and harmonics > MOST_HARMONICS:
        raise AnalysisError(plan.name, f"there are up to {MOST_HARMONICS} harmonics, and not {harmonics}")
    return Wanted(near, harmonics)


def found_for(plan: Ask, system: System, wanted: Wanted, job: Job) -> Periodic:
    """The oscillation; the same one when asked for the same, as its phase noise does. Raises CircuitError."""
    from hearthline.core.engine.periodic.oscillating import oscillate

    last: list[Periodic] = []

    def solved(system: System) -> Periodic:
        last[:] = [oscillate(system, wanted, plan.circuit.tolerances, job, last[0] if last else None)]
        return last[0]

    def make() -> Periodic:
        heating = plan.circuit.heating
        return solved(system if heating is None else heating.about(system, solved))

    return plan.circuit.remembered(system, wanted, make, lambda found: not job.stopped)


def _with_start(data: Dataset, found: Periodic) -> Dataset:
    """With how it begins, the same in every row."""
    begins = [None if one is None else one.start for one in found.states]
    values = np.array([(np.nan, np.nan) if one is None else (one.growth, one.margin) for one in begins])
    wide = np.repeat(values[:, None, :], data.width, axis=1)
    curves = {GROWTH: wide[:, :, 0], MARGIN: wide[:, :, 1]}
    return replace(data, curves={**data.curves, **curves}, units={**data.units, GROWTH: "1/s", MARGIN: ""})


def _labelled(found: Periodic, kept: tuple[list[int] | None, list[int]]) -> Dataset:
    from hearthline.core.engine.periodic.labelled import dataset_of
    from hearthline.core.engine.periodic.oscillating import sensitivities

    hertz = np.array([np.nan if one is None else one.hertz[0] for one in found.states])
    frequencies = hertz[:, None] * np.arange(found.products)
    same = (frequencies == frequencies[0]).all()
    data = _with_start(dataset_of("oscillation", found, kept, frequencies[0] if same else frequencies), found)
    wave = data.wave
    if wave is None:
        return data
    nets = found.system.netlist.nets
    places = [found.system.nets.index(net) for net in nets]
    shifts = np.full((len(found.states), wave.width, len(nets)), np.nan)
    for lane, one in enumerate(sensitivities(found)):
        if one is not None:
            shifts[lane] = one.along_period(wave.width)[:, places]
    curves: Mapping[str, np.ndarray] = {f"shift({net})": shifts[:, :, k] for k, net in enumerate(nets)}
    units = {**wave.units, **dict.fromkeys(curves, "s/C")}
    return replace(data, wave=replace(wave, curves={**wave.curves, **curves}, units=units))
