"""Conversion by a periodic state in every lane: small signals from one sideband to another, and noise figures of mixers."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.constants import BOLTZMANN
from hearthline.core.data.two_port import NOISE_TEMPERATURE
from hearthline.core.engine.job import Job
from hearthline.core.engine.noise_sources import NoiseSources, noise_sources
from hearthline.core.engine.periodic.sensitivity import densities_of
from hearthline.core.engine.periodic.sidebands import Sidebands, about, noise_through
from hearthline.core.engine.periodic.states import LaneState, Periodic, run_shares, shares_of
from hearthline.core.engine.scattering import Port, ports_of
from hearthline.core.engine.small_signal import pick, unit_excitation
from hearthline.core.engine.system import System
from hearthline.core.errors import CircuitError
from hearthline.core.outcome import Outcome


@dataclass(frozen=True)
class Asked:
    """Where a small signal goes in: a source and the sideband of it; the nets where it and noise come out, and the harmonic
    that these are looked at beside."""

    source: str
    sideband: int
    output: tuple[str, str]
    beside: int = 0


@dataclass(frozen=True)
class Conversion:
    """At frequencies (points,) [Hz] of the output, above the harmonic that it is beside: `values` (lanes, points, unknowns)
    for 1 V or 1 A from the source at its sideband; `densities` (lanes, points, sources) [V²/Hz] of `sources` at the output; of
    a port, `gain` (lanes, points) into another port over what it can give, and noise factors with one and with both sidebands;
    `outcomes` (lanes,) say which came to their end."""

    large: Periodic
    outcomes: np.ndarray
    frequencies: np.ndarray
    values: np.ndarray
    sources: tuple[str, ...]
    densities: np.ndarray
    gain: np.ndarray | None
    single: np.ndarray | None
    double: np.ndarray | None


def conversion(large: Periodic, asked: Asked, frequencies: np.ndarray, job: Job | None = None) -> Conversion:
    """About the periodic state of every lane. Raises CircuitError for a net or source that the circuit does not have, and for a
    sideband beyond the harmonics that were found."""
    system, job = large.system, job or Job()
    unit, wanted = unit_excitation(system, asked.source)[1:], pick(system, asked.output)[1:]
    sources, ports = noise_sources(system), _ends(system, asked)
    lanes, points = len(large.states), len(frequencies)
    _check_reach(large, asked)
    values = np.full((lanes, points, len(system.unknowns)), np.nan + 0j)
    densities = np.full((lanes, points, len(sources.names)), np.nan)
    figures = np.full((3, lanes, points), np.nan)
    outcomes, shares = large.outcomes.copy(), shares_of(lanes)
    job.begin(lanes * points, len(shares))

    def one(lane: int, state: LaneState, share: int) -> None:
        circuit, along = about(state)
        noisy, reach = densities_of(state, sources), None
        for k, frequency in enumerate(frequencies):
            if job.stopped:
                outcomes[lane] = Outcome.STOPPED
                return
            bands = Sidebands(state, circuit, along, float(frequency), reach)
            reach = bands.reach
            there = bands.answer(unit, asked.sideband)[bands.place(asked.beside)]
            adjoint = bands.adjoint(wanted, asked.beside)
            values[lane, k] = there
            densities[lane, k] = noise_through(bands, sources, adjoint, noisy)
            if ports is not None:
                figures[:, lane, k] = _figures(
                    system, lane, bands, (adjoint, there, densities[lane, k]), asked, ports, sources
                )
            job.progress[share] += 1

    def work(task: tuple[int, np.ndarray]) -> None:
        for lane in task[1]:
            state = large.states[lane]
            if state is not None:
                one(int(lane), state, task[0])

    run_shares(work, list(enumerate(shares)), job.workers)
    gain, single, double = figures if ports is not None else (None, None, None)
    return Conversion(large, outcomes, frequencies, values, sources.names, densities, gain, single, double)


def _check_reach(large: Periodic, asked: Asked) -> None:
    least = min((len(one.balanced.tones) - 1 for one in large.states if one is not None), default=None)
    wanted = max(abs(asked.sideband), abs(asked.beside))
    if least is not None and wanted > least:
        raise CircuitError(
            f"the periodic state has {least} harmonics, and {wanted} are asked about; say harmonics {wanted}"
        )


def _ends(system: System, asked: Asked) -> tuple[Port, Port] | None:
    """The port that the signal comes from, and the one at the output; None where these are no ports."""
    ports = {port.name: port for port in ports_of(system)}
    if asked.source not in ports:
        return None
    index = {net: k + 1 for k, net in enumerate(system.nets)}
    ends = tuple(index.get(net, 0) for net in asked.output)
    into = next((one for one in ports.values() if one.ends == ends and one.name != asked.source), None)
    return None if into is None else (ports[asked.source], into)


def _figures(
    system: System, lane: int, bands: Sidebands, found: tuple[np.ndarray, np.ndarray, np.ndarray], asked: Asked,
    ports: tuple[Port, Port], sources: NoiseSources,
) -> tuple[float, float, float]:  # fmt: skip
    """Transducer gain, and noise factors: all that comes out but the load's own, with the source at 290 K at every sideband,
    over what of that comes by the wanted sideband, or by it and its image."""
    source, load = ports
    adjoint, there, densities = found
    resistances = [float(port.impedance(system)[lane].real) for port in ports]
    gain = 4.0 * resistances[0] * resistances[1] * abs(there[load.branch - 1]) ** 2
    through = np.abs(adjoint[:, source.branch - 1]) ** 2
    own = {f"{port.name}.thermal" for port in ports}
    others = sum(float(density) for name, density in zip(sources.names, densities, strict=True) if name not in own)
    each = 4.0 * BOLTZMANN * NOISE_TEMPERATURE * resistances[0] * through
    wanted = each[bands.orders == asked.sideband].sum()
    mirrored = asked.sideband and not asked.beside
    image = each[bands.orders == -asked.sideband].sum() if mirrored else 0.0
    whole = others + each.sum()
    return gain, whole / wanted, whole / (wanted + image)
