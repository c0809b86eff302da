"""Yield: how many samples are within limits, and how sure that is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

CONFIDENCE = 0.95


@dataclass(frozen=True)
class Yield:
    """`passed` of `count` samples, with the interval that holds the true share in 95 % of all cases."""

    passed: int
    count: int
    low: float
    high: float

    @property
    def share(self) -> float:
        """Of samples that pass; NaN where there are none."""
        return self.passed / self.count if self.count else np.nan

    @property
    def width(self) -> float:
        """Of the interval."""
        return self.high - self.low


def clopper_pearson(passed: int, count: int, confidence: float = CONFIDENCE) -> tuple[float, float]:
    """The exact interval of a share (C. J. Clopper and E. S. Pearson, Biometrika 26, 1934)."""
    from scipy.special import betaincinv

    outside = (1.0 - confidence) / 2.0
    low = 0.0 if passed == 0 else float(betaincinv(passed, count - passed + 1, outside))
    high = 1.0 if passed == count else float(betaincinv(passed + 1, count - passed, 1.0 - outside))
    return low, high


def yield_of(passing: np.ndarray) -> Yield:
    """Of samples (samples,) that pass or do not."""
    passed, count = int(np.count_nonzero(passing)), len(passing)
    return Yield(passed, count, *(clopper_pearson(passed, count) if count else (0.0, 1.0)))


def within(values: np.ndarray, low: float, high: float) -> np.ndarray:
    """Whether each sample (samples,) is within limits at all rows of values (samples, rows); one without a number is not."""
    return np.all((values >= low) & (values <= high), axis=1)


@dataclass(frozen=True)
class Spread:
    """A reading over samples: mean, standard deviation, skew, the capability index of its limits, and the values that 99.7 %
    keep: on the side of the only limit, else between both."""

    mean: float
    sigma: float
    skew: float
    cpk: float
    low: float
    high: float
    missing: int


KEPT = 0.997


def spread_of(values: np.ndarray, low: float = -np.inf, high: float = np.inf) -> Spread:
    """Of values (samples,); NaN are counted and left out."""
    known = values[np.isfinite(values)]
    missing = len(values) - len(known)
    if len(known) < 2:
        only = float(known[0]) if len(known) else np.nan
        return Spread(only, np.nan, np.nan, np.nan, np.nan, np.nan, missing)
    mean, sigma = float(known.mean()), float(known.std(ddof=1))
    skew = float(((known - mean) ** 3).mean() / known.std() ** 3) if known.std() > 0 else np.nan
    room = min(mean - low, high - mean)
    cpk = room / (3.0 * sigma) if sigma > 0 and np.isfinite(room) else np.nan
    one_sided = np.isfinite(low) != np.isfinite(high)
    tail = 1.0 - KEPT if one_sided else (1.0 - KEPT) / 2.0
    ends = np.quantile(known, [tail, 1.0 - tail])
    return Spread(mean, sigma, skew, cpk, float(ends[0]), float(ends[1]), missing)
