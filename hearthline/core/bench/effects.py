"""Which condition moves a reading, and by how much: the mean at each level of an axis, over everything else (main effects, as
in the design of experiments; R. A. Fisher 1935)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True)
class Effect:
    """What an axis does to a reading: its levels, the mean at each, their spread from least to greatest, and the share that it
    has of the spread of all axes."""

    axis: str
    levels: tuple
    means: np.ndarray
    spread: float
    share: float


def main_effects(conditions: Mapping[str, np.ndarray], values: np.ndarray) -> list[Effect]:
    """The effect of each axis that takes more than one value, the strongest first. values (lanes,); those that are missing do
    not count."""
    found = []
    for name, column in conditions.items():
        levels = tuple(dict.fromkeys(column.tolist()))
        if len(levels) < 2:
            continue
        means = np.array([_mean(values[column == level]) for level in levels])
        known = means[np.isfinite(means)]
        found.append((name, levels, means, float(known.max() - known.min()) if len(known) else 0.0))
    total = sum(spread for *_, spread in found)
    effects = [Effect(*one, one[-1] / total if total else 0.0) for one in found]
    return sorted(effects, key=lambda one: -one.spread)


def _mean(values: np.ndarray) -> float:
    known = values[np.isfinite(values)]
    return float(known.mean()) if len(known) else np.nan
