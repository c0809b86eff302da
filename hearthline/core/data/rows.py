"""Datasets as columns of plain numbers, one row a point."""

from __future__ import annotations

import numpy as np

from hearthline.core.data.dataset import Dataset


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
