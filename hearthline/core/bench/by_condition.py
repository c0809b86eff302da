"""Samples that were run at several conditions: the yield at each, at the worst, and of what passes at all of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.yields import Yield, within, yield_of


@dataclass(frozen=True)
class AtConditions:
    """`passing` (samples, conditions) of everything together; `by_reading` the same of each specification. `columns` say what
    each condition is."""

    passing: np.ndarray
    by_reading: Mapping[str, np.ndarray]
    columns: Mapping[str, np.ndarray]

    @property
    def count(self) -> int:
        """Of conditions."""
        return self.passing.shape[1]

    @cached_property
    def yields(self) -> Sequence[Yield]:
        """At each condition."""
        return [yield_of(column) for column in self.passing.T]

    @cached_property
    def total(self) -> Yield:
        """Of what passes at all conditions."""
        return yield_of(np.all(self.passing, axis=1))

    @property
    def worst(self) -> int:
        """The condition of the least yield."""
        return int(np.argmin([one.share for one in self.yields])) if self.count else 0

    def costs(self, condition: int) -> tuple[str, Yield] | None:
        """The specification that most samples fail at a condition; None where none is failed."""
        found = {name: yield_of(table[:, condition]) for name, table in self.by_reading.items()}
        name = min(found, key=lambda one: found[one].share, default="")
        return (name, found[name]) if name and found[name].share < 1.0 else None

    @cached_property
    def failing(self) -> np.ndarray:
        """Samples that fail anywhere, those that fail at most conditions first."""
        fails = (~self.passing).sum(axis=1)
        order = np.lexsort((np.arange(len(fails)), -fails))
        return order[: int((fails > 0).sum())]


def at_conditions(samples: SampleSet, limits: Mapping[str, tuple[float, float]]) -> AtConditions:
    """Each sample at each condition, under these limits; at all values of what is nested. One that did not converge somewhere
    fails where a reading of it is missing, and everywhere where none is."""
    conditions = max(1, samples.conditions)
    by_reading = {}
    for name, both in limits.items():
        table = samples.values[name].reshape(samples.count, conditions, -1)
        inner = table.shape[2]
        by_reading[name] = within(table.reshape(-1, inner), *both).reshape(samples.count, conditions)
    passing = np.ones((samples.count, conditions), bool)
    for verdict in by_reading.values():
        passing &= verdict
    for lost in samples.failures:
        if passing[lost].all():
            passing[lost] = False
    inner = max(1, len(next(iter(samples.rows.values()), np.zeros(1))) // conditions)
    return AtConditions(passing, by_reading, {name: column[::inner] for name, column in samples.rows.items()})
