"""Balances and oscillations: against what they are made of, and against following the circuit in time."""

from __future__ import annotations

import numpy as np

from benchmarks.row import Row, best, paired, timed
from hearthline.app.start import DEMO
from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.engine.periodic.circuit import LaneCircuit
from hearthline.core.engine.periodic.lanes import balance
from hearthline.core.engine.periodic.matrix import jacobian
from hearthline.core.engine.periodic.oscillating import Wanted, oscillate, phase_noise_of
from hearthline.core.engine.periodic.tones import one_tone
from hearthline.core.engine.system import System
from hearthline.core.engine.transient.run import Times, transient
from hearthline.core.formats.project_folder import read_project
from hearthline.core.spread.pvt import Condition, lanes_of

TONE = np.array([868e6])
HARMONICS = 9
SETTLING = 40
"""Periods in which the power amplifier is taken to have settled: its choke and coupling take that long."""


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
    balanced = found.balanced
    circuit = LaneCircuit(system, 0, found.circuit.tolerances)
    s = 2j * np.pi * found.frequencies
    matrix = jacobian(circuit, tones, balanced.along, s, found.frequencies)
    size = matrix._reach.count * tones.reals
    dense, right = np.eye(size) + 0.1 * np.random.default_rng(1).random((size, size)), np.ones(size)

    def bare() -> None:
        for _ in range(found.circuit.evaluations):
            circuit.along(balanced.tones, balanced.phasors)
        for _ in range(balanced.iterations):
            np.linalg.solve(dense, right)

    ours, floor = paired(lambda: balance(system, TONE, tones), bare)
    times = Times(1e-12, SETTLING / TONE[0], (SETTLING - 1) / TONE[0], 1 / TONE[0] / 200, rel=1e-4)
    settled = timed(lambda: transient(system, times))
    return [
        Row(
            f"balance of pa_868, {HARMONICS} harmonics", ours, floor, 3.0, "its evaluations and LAPACK solutions, bare"
        ),
        Row(
            "the same against a transient until settled", ours, settled, 0.05, f"{SETTLING} periods, without the power"
        ),
    ]


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
