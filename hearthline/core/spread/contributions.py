"""Which variable makes how much of a reading's spread: linear first, then squares and pairs, and what stays unexplained."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np

from hearthline.core.spread.least_squares import bending, elastic, fitted, plain_or_elastic
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.variables import Variable

REST = "rest"


@dataclass(frozen=True)
class Contribution:
    """A share of a reading's variance, and the variables whose product makes it: one, one twice, or two; none of what is not
    explained."""

    variables: tuple[str, ...]
    share: float

    @property
    def name(self) -> str:
        """In words."""
        if not self.variables:
            return REST
        first, *more = self.variables
        return f"{first}²" if more == [first] else " × ".join(self.variables)


def standard(variables: tuple[Variable, ...], normal: np.ndarray) -> np.ndarray:
    """What variables deviate by (samples, variables), each of mean 0 and variance 1 in these samples; 0 of one that does not
    vary in them."""
    found = np.column_stack([one.deviations(z) for one, z in zip(variables, normal.T, strict=True)])
    found = found - found.mean(axis=0)
    size = found.std(axis=0)
    return found / np.where(size > 0, size, 1.0)


def contributions(samples: SampleSet, values: np.ndarray, curved: bool = False) -> list[Contribution]:
    """Of a reading's values (samples,), largest first, last what is not explained. Shares are the covariance of each term with
    the reading over its variance, so that they add up where variables go together. Samples without a value are left out."""
    known = np.isfinite(values)
    y = values[known] - values[known].mean() if known.any() else values[known]
    size = float(y.std()) if len(y) else 0.0
    if size <= 0 or not samples.variables:
        return [Contribution((), 1.0 if size > 0 else 0.0)]
    x, y = standard(samples.variables, samples.normal[known]), y / size
    linear = plain_or_elastic(x, y)
    found = list(_shares(x, y, linear, [(name,) for name in samples.names]))
    if curved:
        rest = y - x @ linear
        which = bending(x, linear, rest)
        terms = _curved(x, which)
        found += _shares(terms, y, elastic(terms, rest), [(samples.names[a], samples.names[b]) for a, b in which])
    found = sorted((one for one in found if one.share != 0.0), key=lambda one: -one.share)
    return [*found, Contribution((), max(0.0, 1.0 - sum(one.share for one in found)))]


def _shares(
    terms: np.ndarray, y: np.ndarray, weights: np.ndarray, names: Iterable[tuple[str, ...]]
) -> Iterator[Contribution]:
    for k, name in enumerate(names):
        if weights[k]:
            yield Contribution(name, float(weights[k] * (terms[:, k] @ y) / len(y)))


def _curved(x: np.ndarray, which: list[tuple[int, int]]) -> np.ndarray:
    """Squares and pairs of variables, each of mean 0 and variance 1, without what is linear in them."""
    terms = np.column_stack([x[:, a] * x[:, b] for a, b in which])
    terms = terms - terms.mean(axis=0)
    own = x[:, sorted({k for pair in which for k in pair})]
    terms = terms - own @ fitted(own, terms)
    size = terms.std(axis=0)
    return terms / np.where(size > 0, size, 1.0)
