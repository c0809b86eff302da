"""Temperatures beside the other curves of an analysis, where the circuit heats itself."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.analyses.kind import Ask, Piece
from hearthline.core.constants import kelvin
from hearthline.core.data.dataset import Dataset
from hearthline.core.outcome import Outcome

if TYPE_CHECKING:
    from hearthline.core.engine.heating import Heating
    from hearthline.core.engine.system import System
    from hearthline.core.engine.transient.run import March


def warm(plan: Ask, piece: Piece, system: System) -> Piece:
    """With temperatures, where the circuit heats itself and they are not told yet."""
    heating = plan.circuit.heating
    if heating is None or heating.labels & set(piece.dataset.curves):
        return piece
    return told(heating, piece, system)


def followed(plan: Ask, march: March, data: Dataset) -> tuple[Dataset, tuple[str, ...]]:
    """A course in time with its temperatures, where these follow in time, and what a person must know of them."""
    heating, system = plan.circuit.heating, march.system
    if heating is None or not heating.moves(system):
        return data, ()
    columns = {k: place for place, k in enumerate(march.unknowns)}
    shape = data.points.shape if data.ragged else (data.lanes, data.width)
    rows = np.full((*shape, len(columns)), np.nan)
    for track in march.tracks:
        rows[track.lane, : len(track.rows)] = track.rows[:, 1 : 1 + len(columns)]
    ambient = np.repeat(kelvin(system.lanes.celsius), shape[1])
    found = heating.along(system, rows.reshape(-1, len(columns)), columns, ambient)
    curves, units = heating.curves(found, lambda values: values.reshape(shape))
    return replace(data, curves={**data.curves, **curves}, units={**data.units, **units}), heating.beyond(found.peaks)


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
    failures = {**piece.failures, **{lane // points: why for lane, why in found.failures.items()}}
    notes = (*piece.notes, *heating.beyond(found.peaks))
    return replace(done, log=(*piece.log, *heating.said(system)), failures=failures, notes=notes)


def _cold(heating: Heating, piece: Piece, system: System) -> Piece:
    """With those of the conditions; with none where heat is not switched off, and nobody has found any."""
    data = piece.dataset
    hot = np.repeat(system.lanes.celsius.reshape(data.lanes, -1)[:, :1], data.width, axis=1)
    hot = hot if heating.isothermal else np.full_like(hot, np.nan)
    curves = dict.fromkeys(sorted(heating.cold_labels), hot)
    return piece.with_data(curves={**data.curves, **curves}, units={**data.units, **dict.fromkeys(curves, "°C")})
