"""Samples under limits, and their yields in words."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hearthline.core.spread.yields import Yield, yield_of

Limits = tuple[float, float]


@dataclass(frozen=True)
class Judged:
    """Samples under limits: by reading whether each is within (samples,), all together, and how many fail a reading."""

    limits: Mapping[str, Limits]
    passing: Mapping[str, np.ndarray]
    together: np.ndarray

    @cached_property
    def total(self) -> Yield:
        """Of all specifications."""
        return yield_of(self.together)

    @cached_property
    def _fails(self) -> np.ndarray:
        return np.sum([~one for one in self.passing.values()], axis=0) if self.passing else np.zeros(0)

    def of(self, name: str) -> Yield:
        """Of one specification."""
        return yield_of(self.passing[name])

    def without(self, name: str) -> Yield:
        """Of all but one."""
        return yield_of(self._fails - ~self.passing[name] == 0)


def percent(share: float) -> str:
    """A share in percent, with more digits where it nears all: `93.7`, `99.62`, `99.994`."""
    away = 1.0 - share
    if away < 5e-6:
        return "100"
    return f"{100 * share:.{1 if away >= 0.01 else 2 if away >= 0.001 else 3}f}"


def share_text(share: Yield) -> str:
    """`93.7 % (92.0 to 95.1)`"""
    return f"{percent(share.share)} % ({percent(share.low)} to {percent(share.high)})"
