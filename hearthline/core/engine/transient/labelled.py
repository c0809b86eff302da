"""The steps of all lanes as one labelled Dataset; each lane keeps steps of its own."""

from __future__ import annotations

import numpy as np

from hearthline.core.data.dataset import Dataset
from hearthline.core.engine.dc import conditions_of
from hearthline.core.engine.transient.run import March, Track
from hearthline.core.outcome import Outcome

_UNITS = {"V": "V", "I": "A"}


def dataset_of(march: March) -> Dataset:
    """Curves (lanes, steps) over times of the same shape, NaN behind the last step of a lane; a lane that failed or was stopped
    says so at its end."""
    system = march.system
    unknowns = [system.unknowns[k] for k in march.unknowns]
    units = {k: (one.label, _UNITS[one.kind]) for k, one in enumerate(unknowns) if one.kind}  # others are inner states
    units |= {len(unknowns) + k: (v.label, v.unit) for k, v in enumerate(system.variables[j] for j in march.variables)}
    shape = len(march.tracks), max([len(track.rows) for track in march.tracks] + [1])
    points, outcomes = np.full(shape, np.nan), np.full(shape, int(Outcome.SOLVED), np.int64)
    curves = {label: np.full(shape, np.nan) for label, _ in units.values()}
    for track in march.tracks:
        _fill(track, points, {column: curves[label] for column, (label, _) in units.items()}, outcomes)
    return Dataset("tran", "time", "s", points, curves, dict(units.values()), conditions_of(system.lanes), outcomes)


def _fill(track: Track, points: np.ndarray, curves: dict[int, np.ndarray], outcomes: np.ndarray) -> None:
    rows, lane = track.rows, track.lane
    if len(rows):
        points[lane, : len(rows)] = rows[:, 0]
        for column, values in curves.items():
            values[lane, : len(rows)] = rows[:, 1 + column]
    if track.outcome != Outcome.SOLVED:
        outcomes[lane, min(len(rows), outcomes.shape[1] - 1) :] = int(track.outcome)
