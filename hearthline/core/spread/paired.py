"""Old and new over the same random numbers: the difference of two yields and how sure it is."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from hearthline.core.spread.yields import CONFIDENCE, Yield, yield_of


@dataclass(frozen=True)
class Paired:
    """Two yields over the same samples: those `mended` failed and pass now, those `broken` passed and fail now; the difference
    with its interval, and the chance of such a difference where there is none (Q. McNemar, Psychometrika 12, 1947: exact)."""

    old: Yield
    new: Yield
    mended: int
    broken: int
    difference: float
    low: float
    high: float
    significance: float


def paired(old: np.ndarray, new: np.ndarray) -> Paired:
    """Of samples (samples,) that pass or do not, before and after. The interval is the adjusted one of Wald (D. G. Bonett and
    R. M. Price, J. Educ. Behav. Statist. 37, 2012)."""
    from scipy.special import bdtr, ndtri

    count = len(old)
    mended, broken = int((~old & new).sum()), int((old & ~new).sum())
    up, down = (mended + 1) / (count + 2), (broken + 1) / (count + 2)
    reach = float(ndtri(0.5 + CONFIDENCE / 2)) * math.sqrt(max(0.0, up + down - (up - down) ** 2) / (count + 2))
    turned = mended + broken
    chance = min(1.0, 2.0 * float(bdtr(min(mended, broken), turned, 0.5))) if turned else 1.0
    difference = (mended - broken) / count if count else 0.0
    return Paired(
        yield_of(old), yield_of(new), mended, broken, difference, max(-1.0, up - down - reach),
        min(1.0, up - down + reach), chance,
    )  # fmt: skip
