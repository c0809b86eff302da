"""How surely an oscillation begins: the pole that grows at rest, and the negative conductance over the loss."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.engine.kernels.determinant import slopes_at
from hearthline.core.engine.passive import made_passive
from hearthline.core.engine.periodic.start import Pole
from hearthline.core.engine.solve import Tolerances
from hearthline.core.engine.system import System
from hearthline.core.engine.worker import new_memory

OPPOSITE = 0.9
"""Share of the loudest net's swing that another one has against it, for the two to be the sides of one resonator."""
LEAK = 1e-15
"""[S] From each net to ground, for nets that nothing holds once gain is off."""


@dataclass(frozen=True)
class Startup:
    """Growth of the pole [1/s]; how many times its loss the negative conductance is that gain makes where it swings, NaN where
    it does not swing."""

    growth: float
    margin: float


def startup(system: System, lane: int, rest: np.ndarray, pole: Pole, tolerances: Tolerances) -> Startup:
    """Of a pole about rest (unknowns,). What is lost is what is left of the admittance between the nets that swing most when
    all controlled flows are off."""
    if not pole.swings:
        return Startup(pole.s.real, np.nan)
    pattern, circuit = system.dynamic
    slots, charged = circuit.slots.astype(np.int64), circuit.capacitance_slots.astype(np.int64)
    g, c = np.zeros(len(slots)), np.zeros(len(charged))
    slopes_at(
        circuit,
        new_memory(circuit, pattern),
        system.values[lane],
        np.concatenate([[0.0], rest]),
        tolerances.array(),
        g,
        c,
    )
    drive = _between(pole.shape[: system.net_count], len(rest))
    frequency = np.array([pole.frequency])
    columns = np.repeat(pattern.order, np.diff(pattern.starts))
    conductance = []
    for passive, (one, other) in enumerate(((g, c), made_passive(system, g, c, mirrored=False))):
        entries = len(pattern.rows) + 1
        spread = system.dispersion(lane, frequency, bool(passive))
        flat = np.bincount(slots, one, entries) + 2j * np.pi * pole.frequency * np.bincount(charged, other, entries)
        np.add.at(flat, slots[spread.entries], spread.gains[0])
        matrix = np.zeros((len(rest), len(rest)), complex)
        matrix[pattern.rows, columns] = flat[:-1]
        matrix[np.diag_indices(system.net_count)] += LEAK
        conductance.append(float((1.0 / (drive @ np.linalg.solve(matrix, drive))).real))
    active, lost = conductance
    return Startup(pole.s.real, (lost - active) / lost if lost > 0 else np.nan)


def _between(shape: np.ndarray, size: int) -> np.ndarray:
    """A unit current between the loudest net and the one that swings against it, or ground."""
    loudest = int(np.argmax(np.abs(shape)))
    against = (shape / shape[loudest]).real
    drive = np.zeros(size)
    drive[loudest] = 1.0
    other = int(np.argmin(against))
    if against[other] < -OPPOSITE:
        drive[other] = -1.0
    return drive
