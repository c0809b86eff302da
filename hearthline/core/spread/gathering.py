"""Samples that come in pieces, put into arrays that are made once for all of them: each set so far is a view."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from hearthline.core.data.dataset import Dataset, joined
from hearthline.core.spread.samples import SampleSet


class Gathering:
    """The samples of some numbers (samples, variables), with curves up to `room` bytes. What was handed out before stays as it
    is, since pieces are only ever put behind."""

    def __init__(self, normal: np.ndarray, room: float = 0.0, before: SampleSet | None = None) -> None:
        self.normal, self.size = normal, room
        self.found: SampleSet | None = None
        self._values: dict[str, np.ndarray] = {}
        self._curves: dict[str, _Growing] = {}
        if before is not None:
            self.add(before)

    @property
    def count(self) -> int:
        """Of samples so far."""
        return self.found.count if self.found is not None else 0

    @property
    def room(self) -> float:
        """Bytes that are left for curves; none once a sample had to do without."""
        if self.found is None:
            return self.size
        if self.found.curved < self.found.count:
            return 0.0
        return self.size - sum(bytes_of(data) for data in self.found.curves.values())

    def add(self, piece: SampleSet) -> SampleSet:
        """One more piece, and what there is then."""
        begin, end, old = self.count, self.count + piece.count, self.found
        for name, table in piece.values.items():
            if name not in self._values:
                self._values[name] = np.empty((len(self.normal), table.shape[1]))
            self._values[name][begin:end] = table
        self._add_curves(piece, begin)
        failures = {begin + k: text for k, text in piece.failures.items()}
        self.found = replace(
            piece,
            normal=self.normal[:end],
            values={name: table[:end] for name, table in self._values.items()},
            failures={**(old.failures if old is not None else {}), **failures},
            curves={name: one.dataset for name, one in self._curves.items()},
            seconds=piece.seconds + (old.seconds if old is not None else 0.0),
        )
        return self.found

    def _add_curves(self, piece: SampleSet, shift: int) -> None:
        if not shift and piece.curves:
            whole = sum(bytes_of(data) for data in piece.curves.values()) / max(piece.curved, 1)
            fitting = min(len(self.normal), max(piece.curved, int(self.size // max(whole, 1.0))))
            for name, data in piece.curves.items():
                self._curves[name] = _Growing(data, fitting * (data.lanes // piece.curved))
            return
        for name, data in piece.curves.items():
            if name in self._curves:
                self._curves[name].add(
                    replace(data, conditions={**data.conditions, "sample": data.conditions["sample"] + shift})
                )


class _Growing:
    """Curves of one analysis, with room for so many `lanes`."""

    def __init__(self, first: Dataset, lanes: int) -> None:
        self.dataset = first
        self._curves: Mapping[str, np.ndarray] = {}
        if not first.ragged and lanes > first.lanes:
            self._curves = {label: np.empty((lanes, first.width), v.dtype) for label, v in first.curves.items()}
            self._outcomes = np.empty((lanes, first.width), first.outcomes.dtype)
            self.dataset = self._put(first, 0)

    def add(self, more: Dataset) -> None:
        """Lanes behind those that are there."""
        there = self.dataset.lanes
        fits = bool(self._curves) and not more.ragged and there + more.lanes <= len(self._outcomes)
        if fits and set(more.curves) == set(self._curves):
            self.dataset = self._put(more, there)
        else:  # lanes of different lengths, as of a transient
            self.dataset, self._curves = joined([self.dataset, more]), {}

    def _put(self, more: Dataset, begin: int) -> Dataset:
        end = begin + more.lanes
        for label, values in more.curves.items():
            self._curves[label][begin:end] = values
        self._outcomes[begin:end] = more.outcomes
        before = self.dataset.conditions if begin else {}
        conditions = {
            name: np.concatenate([before[name], column]) if begin else column
            for name, column in more.conditions.items()
        }
        curves = {label: values[:end] for label, values in self._curves.items()}
        return replace(self.dataset, curves=curves, conditions=conditions, outcomes=self._outcomes[:end])


def bytes_of(data: Dataset) -> int:
    """Of the curves, and of how each point ended."""
    return data.outcomes.nbytes + sum(values.nbytes for values in data.curves.values())
