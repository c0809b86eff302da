"""Limits turn numbers into a verdict: the worst condition of each specification, and how far it is from its limit."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

import numpy as np

from hearthline.core.bench.bench import Specification
from hearthline.core.errors import QuantityError
from hearthline.core.quantity import read

CLOSE = 0.1
"""Share of the limit (or of half the window between two limits) under which a margin counts as close."""


class State(Enum):
    """What a person reads beside the mark."""

    HOLDS = "holds"
    CLOSE = "close"
    FAILS = "fails"
    AIMED = "aimed at"
    UNKNOWN = "not run"


@dataclass(frozen=True)
class Verdict:
    """One specification over all conditions.

    `worst` is the value with the least margin and `lane` its index (-1: none); `margin` in the reading's unit,
    `relative` in units of the limit, and `relatives` (lanes,) those of all (None: no limits); `missing` counts conditions
    without a value, which fail. `away` is the greatest distance from the target.
    """

    state: State
    worst: float = np.nan
    lane: int = -1
    margin: float = np.nan
    relative: float = np.nan
    relatives: np.ndarray | None = None
    missing: int = 0
    away: float = np.nan

    def at(self, lane: int) -> State:
        """How one lane stands; UNKNOWN where there are no limits."""
        return State.UNKNOWN if self.relatives is None else _state(self.relatives[lane])


def _state(relative: float) -> State:
    return State.FAILS if not relative >= 0 else State.CLOSE if relative < CLOSE else State.HOLDS


def limits(specification: Specification, unit: str) -> tuple[float, float]:
    """Lower and upper limit, infinite where there is none. Raises QuantityError for a text that is no number, and for limits
    that nothing can meet."""
    low = read(specification.low, unit) if specification.low.strip() else -np.inf
    high = read(specification.high, unit) if specification.high.strip() else np.inf
    if low > high:
        raise QuantityError(f"the lower limit {specification.low} is above the upper limit {specification.high}")
    return low, high


def target_of(specification: Specification, unit: str) -> float:
    """The target, NaN where there is none. Raises QuantityError for a text that is no number, and for one beyond the limits."""
    if not specification.target.strip():
        return np.nan
    target, (low, high) = read(specification.target, unit), limits(specification, unit)
    if not low <= target <= high:
        raise QuantityError(f"the target {specification.target} is beyond the limits")
    return target


def share_of(specification: Specification) -> float:
    """The yield that is wanted, NaN where none is. Raises QuantityError for what is none."""
    text = specification.share.strip()
    if not text:
        return np.nan
    share = read(text.removesuffix("%"), "") / (100.0 if text.endswith("%") else 1.0)
    if not 0.0 < share <= 1.0:
        raise QuantityError(f"a yield lies above 0 % and is at most 100 %, and this is {text}")
    return share


def judge(specification: Specification, unit: str, values: np.ndarray | None) -> Verdict:
    """The verdict over `values` (lanes,); a condition whose reading does not exist (NaN) fails."""
    if values is None or len(values) == 0:
        return Verdict(State.UNKNOWN)
    (low, high), target = limits(specification, unit), target_of(specification, unit)
    missing = int(np.isnan(values).sum())
    if missing == len(values):
        return Verdict(State.FAILS, relatives=np.full(len(values), np.nan), missing=missing)
    away = float(np.nanmax(np.abs(values - target))) if np.isfinite(target) else np.nan
    if not np.isfinite(low) and not np.isfinite(high):
        lane = int(np.nanargmax(np.abs(values - (target if np.isfinite(target) else 0.0))))
        state = State.FAILS if missing else State.AIMED
        return Verdict(state, float(values[lane]), lane, missing=missing, away=away)
    margins = np.minimum(values - low, high - values)
    lane = int(np.nanargmin(margins))
    margin = float(margins[lane])
    relatives = margins / limit_scale(low, high)
    state = State.FAILS if missing else _state(relatives[lane])
    return Verdict(state, float(values[lane]), lane, margin, float(relatives[lane]), relatives, missing, away)


def limit_scale(low: float, high: float) -> float:
    """What a margin is measured in: half the window between two limits, or the size of the only one."""
    if np.isfinite(low) and np.isfinite(high):
        return (high - low) / 2 or 1.0
    only = low if np.isfinite(low) else high
    return abs(only) if np.isfinite(only) and only != 0 else 1.0
