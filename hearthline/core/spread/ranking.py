"""Which part costs the yield: how passing goes with each part's values, how sure that is, and the share that passes in each
range of a value.

The statistic of a variable is a score test of passing against its rank, straight and bent: passing or failing y, share p,
against the first two polynomials s orthonormal over equal probability, T = n sum (mean of (y - p) s)^2 / (p (1 - p)), which
follows chi squared with two degrees of freedom where the variable plays no part (C. R. Rao, Proc. Cambridge Phil. Soc. 44,
1948; P. Armitage, Biometrics 11, 1955). A part's is the sum over its variables. Significance is corrected for the number of
parts looked at (S. Holm, Scand. J. Statist. 6, 1979).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.variables import PROCESS
from hearthline.core.spread.yields import CONFIDENCE

GUILTY = 0.05
"""Corrected significance under which a part is called guilty."""
BINS, FEWEST = 10, 25
"""Ranges of equal probability, and the samples that one needs to stand alone."""
ORDERS = 2


@dataclass(frozen=True)
class Guilt:
    """A part (or a parameter of the process) by how passing depends on it: its variables, the strongest first, the statistic,
    the share of all failing that goes with it, the corrected significance, and the verdict."""

    part: str
    variables: tuple[str, ...]
    statistic: float
    share: float
    significance: float
    guilty: bool


@dataclass(frozen=True)
class Bin:
    """A range of a value, the samples in it, those that pass, and the interval of their share."""

    begin: float
    end: float
    count: int
    passed: int
    low: float
    high: float

    @property
    def share(self) -> float:
        """That passes."""
        return self.passed / self.count if self.count else np.nan


def uniform(normal: np.ndarray) -> np.ndarray:
    """The probabilities of standard normal numbers."""
    from scipy.special import ndtr

    return ndtr(normal)


def statistics_of(ranks: np.ndarray, passing: np.ndarray) -> np.ndarray:
    """The statistic of each variable (variables,), of ranks (samples, variables) between 0 and 1."""
    count, share = len(passing), float(passing.mean()) if len(passing) else 0.0
    if not 0.0 < share < 1.0:
        return np.zeros(ranks.shape[1])
    off = passing - share
    middle = ranks - 0.5
    straight = np.sqrt(12.0) * (off @ middle)
    bent = np.sqrt(180.0) * (off @ np.square(middle))  # its mean drops out, since `off` adds up to nothing
    return (np.square(straight) + np.square(bent)) / (count * share * (1.0 - share))


def ranking(samples: SampleSet, passing: np.ndarray) -> list[Guilt]:
    """Every part by how strongly passing (samples,) depends on it, the guiltiest first."""
    from scipy.special import gammaincc

    each = statistics_of(uniform(samples.normal), passing.astype(float))
    owners: dict[str, list[int]] = {}
    for k, one in enumerate(samples.variables):
        owners.setdefault(one.name if one.kind == PROCESS else one.part, []).append(k)
    parts = list(owners)
    sums = np.array([each[owners[part]].sum() for part in parts])
    freedom = np.array([ORDERS * len(owners[part]) for part in parts])
    chance = gammaincc(freedom / 2.0, sums / 2.0)
    order = np.argsort(chance, kind="stable")
    corrected = np.empty(len(parts))
    corrected[order] = np.maximum.accumulate(np.minimum(1.0, chance[order] * (len(parts) - np.arange(len(parts)))))
    found = []
    for k in sorted(range(len(parts)), key=lambda k: (corrected[k], -sums[k] / freedom[k])):
        names = sorted(owners[parts[k]], key=lambda j: -each[j])
        variables = tuple(samples.variables[j].name for j in names)
        share = float(sums[k] / max(len(passing), 1))
        found.append(
            Guilt(parts[k], variables, float(sums[k]), share, float(corrected[k]), bool(corrected[k] < GUILTY))
        )
    return found


def bins_of(normal: np.ndarray, values: np.ndarray, passing: np.ndarray) -> list[Bin]:
    """The share that passes in ranges of equal probability of one variable: its standard normal numbers and its values,
    (samples,) both. Ranges with few samples are joined to their neighbours."""
    from scipy.special import betaincinv

    count = len(passing)
    number = int(np.clip(count // FEWEST, 1, BINS))
    place = np.minimum((uniform(normal) * number).astype(int), number - 1)
    groups = _joined(np.bincount(place, minlength=number))
    found = []
    for first, last in groups:
        inside = (place >= first) & (place <= last)
        total, passed = int(inside.sum()), int((passing & inside).sum())
        if not total:
            continue
        outside = (1.0 - CONFIDENCE) / 2.0
        low = 0.0 if passed == 0 else float(betaincinv(passed, total - passed + 1, outside))
        high = 1.0 if passed == total else float(betaincinv(passed + 1, total - passed, 1.0 - outside))
        own = values[inside]
        found.append(Bin(float(own.min()), float(own.max()), total, passed, low, high))
    return found


def _joined(counts: np.ndarray) -> list[tuple[int, int]]:
    """Ranges in a row, each with enough samples."""
    found: list[tuple[int, int]] = []
    first, total = 0, 0
    for k, count in enumerate(counts.tolist()):
        total += count
        if total >= FEWEST:
            found.append((first, k))
            first, total = k + 1, 0
    if first < len(counts):
        begin = found.pop()[0] if found else 0
        found.append((begin, len(counts) - 1))
    return found
