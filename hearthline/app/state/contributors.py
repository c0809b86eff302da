"""Which parts the noise that is shown comes from, as warmth on the drawing."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hearthline.core.analyses.phase_noise import TOTAL
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.instance import Instance
from hearthline.core.data.dataset import Dataset

LEAST = 0.01
"""Share of all noise from which on a part is shown."""


def warm_parts(data: Dataset | None, cell: Cell, instance: Instance) -> Iterator[tuple[str, str, float]]:
    """(part, "", heat) on a shown cell, by the root of its share of a phase's noise in the middle of the offsets, in the lane
    that has most of it; of a block all that is in it."""
    if data is None or data.kind != "phase_noise" or TOTAL not in data.curves:
        return
    middle = data.width // 2
    whole = data.curves[TOTAL][:, middle]
    share = {name: _most(rows[:, middle] / whole) for name, rows in data.curves.items() if name != TOTAL}
    shares = {part.name: _of(share, instance.part(part.name)) for part in cell.parts}
    most = max(shares.values(), default=0.0)
    for name, value in shares.items():
        if value > LEAST:
            yield name, "", (value / most) ** 0.5


def _of(share: dict[str, float], flat: str) -> float:
    return sum(value for name, value in share.items() if name.startswith(f"{flat}."))


def _most(values: np.ndarray) -> float:
    known = values[np.isfinite(values)]
    return float(known.max()) if len(known) else 0.0
