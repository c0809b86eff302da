"""Datasets as columns of plain numbers, one row a point."""

from __future__ import annotations

import numpy as np

from hearthline.core.data.dataset import Dataset
from hearthline.core.outcome import Outcome


def columns_of(data: Dataset) -> dict[str, np.ndarray]:
    """Every curve (rows,), lane after lane; a complex one as two columns."""
    found: dict[str, np.ndarray] = {}
    for label, values in data.curves.items():
        found |= split(label, values.reshape(-1))
    return found


def split(label: str, values: np.ndarray) -> dict[str, np.ndarray]:
    """Real and imaginary part of what is complex, else itself."""
    if np.iscomplexobj(values):
        return {f"{label}.re": values.real, f"{label}.im": values.imag}
    return {label: values}


def solved_rows(data: Dataset) -> np.ndarray:
    """Indices of the points that have a solution, lane after lane."""
    solved = data.outcomes == Outcome.SOLVED
    if data.ragged:
        solved = solved & np.isfinite(data.points)
    return np.flatnonzero(solved.reshape(-1))


def rows_of(data: Dataset) -> dict[str, np.ndarray]:
    """Conditions, axis and curves (rows,) of the points that have a solution; complex curves stay complex."""
    rows = solved_rows(data)
    lane = rows // data.width
    found = {name: values[lane] for name, values in data.conditions.items()}
    if data.axis != "point":
        found[data.axis] = np.broadcast_to(data.points, data.outcomes.shape).reshape(-1)[rows]
    return found | {label: values.reshape(-1)[rows] for label, values in data.curves.items()}
