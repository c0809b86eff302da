"""Balances and oscillations: against what they are made of, and against following the circuit in time."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from benchmarks.row import Row, best, paired, timed
from hearthline.app.start import DEMO
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.elements.port import POWER_VALUE, RESISTANCE_VALUE
from hearthline.core.engine.periodic.balance import Balance
from hearthline.core.engine.periodic.circuit import LaneCircuit
from hearthline.core.engine.periodic.excitation import excitation
from hearthline.core.engine.periodic.lanes import balance
from hearthline.core.engine.periodic.matrix import jacobian
from hearthline.core.engine.periodic.oscillating import Wanted, oscillate, phase_noise_of
from hearthline.core.engine.periodic.states import LaneState
from hearthline.core.engine.periodic.tones import one_tone
from hearthline.core.engine.scattering import ports_of
from hearthline.core.engine.solve import solve
from hearthline.core.engine.system import System
from hearthline.core.engine.transient.run import March, Times, transient
from hearthline.core.engine.transient.waves import SIN, WaveInLanes
from hearthline.core.formats.project_folder import read_project
from hearthline.core.spread.pvt import Condition, lanes_of

TONE = np.array([868e6])
HARMONICS = 9


def rows() -> list[Row]:
    """All of them."""
    project = read_project(DEMO)
    amplifier = Snapshot(project.benches["pa_868_bench-power"], project.cells, project.kit)
    oscillator = Snapshot(project.benches["vco_868_bench-swing"], project.cells, project.kit)
    return [*_one(amplifier), _sweep(amplifier), *_oscillation(oscillator)]


def _system(snapshot: Snapshot, corners: tuple[str, ...], powers: np.ndarray | None = None) -> System:
    point = snapshot.condition()
    conditions = tuple(Condition(corner, point.celsius, point.parameters) for corner in corners)
    lanes = snapshot.moved(lanes_of(conditions))
    if powers is not None:
        lanes = lanes.spread(**{"parameter:pin": powers})
    return snapshot.circuit.system(snapshot.netlist(), lanes)


def _one(snapshot: Snapshot) -> list[Row]:
    """A balance 5 dB below compression, from its operating point."""
    system, tones = _system(snapshot, ("typ",)), one_tone(HARMONICS)
    found = balance(system, TONE, tones).states[0]
    circuit, phasors = found.circuit, found.balanced.phasors
    counted = LaneCircuit(system, 0, found.tolerances)
    rest = np.zeros_like(phasors)
    rest[0] = solve(system).kept[0, 0]
    sources = excitation(system, 0, tones, TONE)[:, 1:]
    Balance(counted, tones, found.frequencies, sources).solve((), rest)
    along = circuit.along(found.balanced.tones, phasors)
    size = jacobian(circuit, found.balanced.tones, along, 2j * np.pi * found.frequencies, found.frequencies).reals
    dense, right = np.eye(size) + 0.1 * np.random.default_rng(1).random((size, size)), np.ones(size)

    def bare() -> None:
        for _ in range(counted.evaluations):
            circuit.along(found.balanced.tones, phasors)
        for _ in range(found.balanced.iterations):
            np.linalg.solve(dense, right)

    ours, floor = paired(lambda: balance(system, TONE, tones), bare)
    periods, settled = _settled(system, found)
    return [
        Row(
            f"balance of pa_868, {HARMONICS} harmonics", ours, floor, 3.0, "its evaluations and LAPACK solutions, bare"
        ),
        Row("the same against a transient until settled", ours, settled, 0.05, f"{periods} periods, to 0.1 %"),
    ]


def _settled(system: System, found: LaneState) -> tuple[int, float]:
    """How many periods the same drive takes in time until the first harmonic at the load is within a thousandth, and how long
    that is computed [s]."""
    port = next(one for one in ports_of(system) if one.number == 1)
    resistance, watts = (system.values[0, port.value + k] for k in (RESISTANCE_VALUE, POWER_VALUE))
    wave = WaveInLanes(SIN, np.array([[0.0, np.sqrt(8.0 * watts * resistance), TONE[0], 0.0, 0.0, 90.0]]))
    driven = replace(system, waves={port.name: wave})
    load = system.nets.index("out")
    wanted = abs(found.balanced.phasors[1, load])
    for periods in (80, 160, 320, 640, 1280):
        times = Times(1e-12, periods / TONE[0], (periods - 1) / TONE[0], 1 / TONE[0] / 200, rel=1e-4)
        marches: list[March] = []
        taken = timed(lambda times=times, marches=marches: marches.append(transient(driven, times)))
        rows = marches[0].tracks[0].rows
        at = rows[-1, 0] - (1.0 - np.arange(256) / 256) / TONE[0]
        here = 2.0 * abs(np.mean(np.interp(at, rows[:, 0], rows[:, 1 + load]) * np.exp(-2j * np.pi * TONE[0] * at)))
        if abs(here / wanted - 1.0) < 1e-3:
            return periods, taken
    raise RuntimeError("the transient and the balance do not agree")


def _sweep(snapshot: Snapshot) -> Row:
    system = _system(snapshot, ("typ", "ff", "ss", "fs", "sf"), np.linspace(-30.0, -8.0, 26))
    ours = best(lambda: balance(system, TONE, one_tone(HARMONICS)), 3)
    return Row("26 powers × 5 corners of pa_868", ours, 1.0, 1.0, "1 s")


def _oscillation(snapshot: Snapshot) -> list[Row]:
    system = _system(snapshot, ("typ",))
    wanted = Wanted(None, HARMONICS)
    found = oscillate(system, wanted)
    return [
        Row("oscillation of vco_868 from nothing", best(lambda: oscillate(system, wanted)), 0.5, 1.0, "0.5 s"),
        Row(
            "its sensitivity and phase noise",
            best(lambda: phase_noise_of(found, np.logspace(3, 7, 21))),
            1.0,
            1.0,
            "1 s",
        ),
    ]
