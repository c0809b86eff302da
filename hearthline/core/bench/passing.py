"""Which samples pass which specification, under the limits of the bench or under others."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass

import numpy as np

from hearthline.core.bench.bench import Bench, Specification
from hearthline.core.bench.verdict import limits
from hearthline.core.errors import HearthlineError
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.yields import Yield, within, yield_of

Limits = tuple[float, float]
ALL = "all"
"""What the yield of everything together is called."""


def limits_of(specification: Specification, samples: SampleSet) -> Limits:
    """Of a reading, infinite where there is none, or where the text is no number."""
    try:
        return limits(specification, samples.units.get(specification.reading, ""))
    except HearthlineError:
        return -np.inf, np.inf


def judged_limits(
    bench: Bench, samples: SampleSet, changed: Mapping[str, Limits] | None = None, without: Collection[str] = ()
) -> dict[str, Limits]:
    """Limits by reading, of each specification that has any; some changed, some left out."""
    changed = changed or {}
    found = {one.reading: limits_of(one, samples) for one in bench.specifications if one.reading in samples.values}
    found |= {name: both for name, both in changed.items() if name in samples.values}
    return {name: both for name, both in found.items() if name not in without and np.isfinite(both).any()}


def passing(
    bench: Bench, samples: SampleSet, changed: Mapping[str, Limits] | None = None, without: Collection[str] = ()
) -> dict[str, np.ndarray]:
    """By reading, whether each sample (samples,) is within its limits; one without a number is not."""
    both = judged_limits(bench, samples, changed, without)
    return {name: within(samples.values[name], low, high) for name, (low, high) in both.items()}


def all_pass(samples: SampleSet, verdicts: Mapping[str, np.ndarray]) -> np.ndarray:
    """Whether each sample (samples,) passes everything; one that did not converge somewhere does not."""
    found = np.ones(samples.count, bool)
    for one in verdicts.values():
        found &= one
    found[list(samples.failures)] = False
    return found


@dataclass(frozen=True)
class YieldRow:
    """The yield of one specification, or of `all` together."""

    reading: str
    low: float
    high: float
    share: Yield


def yield_rows(
    bench: Bench, samples: SampleSet, changed: Mapping[str, Limits] | None = None, without: Collection[str] = ()
) -> Iterator[YieldRow]:
    """A row a specification, last that of all; nothing where none has a limit."""
    both = judged_limits(bench, samples, changed, without)
    verdicts = passing(bench, samples, changed, without)
    for name, verdict in verdicts.items():
        yield YieldRow(name, *both[name], yield_of(verdict))
    if verdicts:
        yield YieldRow(ALL, -np.inf, np.inf, yield_of(all_pass(samples, verdicts)))
