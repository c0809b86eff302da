"""Temperatures beside the other curves of an analysis, where the circuit heats itself."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.kind import Ask, Piece
from hearthline.core.outcome import Outcome

if TYPE_CHECKING:
    from hearthline.core.engine.heating import Heating
    from hearthline.core.engine.system import System


MEAN = "capacity is not followed yet: temperatures are those of the mean power, without time constants"
"""What must be known of a die that was told how much heat it holds."""


def warm(plan: Ask, piece: Piece, system: System) -> Piece:
    """With temperatures, where the circuit heats itself and they are not told yet."""
    heating = plan.circuit.heating
    if heating is None or heating.labels & set(piece.dataset.curves):
        return piece
    return told(heating, piece, system)


def told(heating: Heating, piece: Piece, system: System, points: int = 1) -> Piece:
    """With temperatures beside the other curves; of a system whose lanes are so many `points` of one. Lanes that found no
    temperatures fail."""
    data, found = piece.dataset, heating.of(system)
    if found is None:
        return _cold(heating, piece, system)
    shape = (data.lanes, data.width)

    def wide(values: np.ndarray) -> np.ndarray:
        return np.broadcast_to(values.reshape(data.lanes, points), shape)

    curves, units = heating.curves(found, wide)
    lost = np.zeros(data.lanes * points, bool)
    lost[list(found.failures)] = True
    away = wide(lost)
    kept = {**data.curves, **curves}
    if away.any():
        kept = {label: np.where(away, np.nan, values) for label, values in kept.items()}
    outcomes = np.where(away, int(Outcome.NO_CONVERGENCE), data.outcomes)
    done = piece.with_data(curves=kept, units={**data.units, **units}, outcomes=outcomes)
    notes = (*piece.notes, MEAN) if heating.plan.die.capacity else piece.notes
    return replace(
        done, notes=notes, failures={**piece.failures, **{lane // points: why for lane, why in found.failures.items()}}
    )


def _cold(heating: Heating, piece: Piece, system: System) -> Piece:
    """With those of the conditions; with none where heat is not switched off, and nobody has found any."""
    data = piece.dataset
    hot = np.repeat(system.lanes.celsius.reshape(data.lanes, -1)[:, :1], data.width, axis=1)
    hot = hot if heating.isothermal else np.full_like(hot, np.nan)
    curves = dict.fromkeys(sorted(heating.cold_labels), hot)
    return piece.with_data(curves={**data.curves, **curves}, units={**data.units, **dict.fromkeys(curves, "°C")})
