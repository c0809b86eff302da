"""Process, voltage, temperature: the grid of conditions that a cell must hold over."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from hearthline.core.engine.lanes import Lanes


@dataclass(frozen=True)
class Condition:
    """One point: corner, temperature [degC], and parameters (supplies among them)."""

    corner: str
    celsius: float
    parameters: Mapping[str, float] = field(default_factory=dict)


@dataclass(frozen=True)
class Grid:
    """Axes to be crossed: corners, temperatures [degC], and values of parameters. An axis may have one entry."""

    corners: tuple[str, ...]
    celsius: tuple[float, ...]
    parameters: Mapping[str, tuple[float, ...]] = field(default_factory=dict)

    def __len__(self) -> int:
        sizes = [len(self.corners), len(self.celsius), *(len(values) for values in self.parameters.values())]
        return int(np.prod(sizes))

    def lanes(self) -> Lanes:
        """All crossings; corners slowest, so that neighbouring lanes are close."""
        count = len(self.corners)
        lanes = Lanes(self.corners, np.zeros(count))
        lanes = lanes.spread(celsius=np.array(self.celsius))
        return lanes.spread(**{f"parameter:{name}": np.array(values) for name, values in self.parameters.items()})


def lane_of(condition: Condition) -> Lanes:
    """A single lane."""
    parameters = {name: np.array([value]) for name, value in condition.parameters.items()}
    return Lanes((condition.corner,), np.array([condition.celsius]), parameters)
