"""How the curves of a run are told apart: grouped along one axis of the conditions, each group with colour and dash."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.data.dataset import Dataset
from hearthline.core.quantity import write


def axes_of(dataset: Dataset) -> list[str]:
    """Axes of the conditions that take more than one value."""
    return [name for name, values in dataset.conditions.items() if len(np.unique(values)) > 1]


def telling_axis(dataset: Dataset, rows: np.ndarray) -> str:
    """The axis along which curves (lanes, points) differ most, as their means tell; nothing where there is one lane."""
    axes = axes_of(dataset)
    with np.errstate(all="ignore"):
        known = np.isfinite(rows)
        middle = np.where(known, rows, 0.0)
        marks = np.stack([middle.sum(axis=1), np.square(middle).sum(axis=1)]) / np.maximum(known.sum(axis=1), 1)

    def spread(name: str) -> float:
        column = dataset.conditions[name]
        means = np.array([[mark[column == level].mean() for level in np.unique(column)] for mark in marks])
        size = np.abs(marks).max(axis=1) + 1e-300
        return float(((means.max(axis=1) - means.min(axis=1)) / size).max())

    return max(axes, key=spread, default="")


def group_text(axis: str, value: object, unit: str = "V") -> str:
    """A value of an axis in words: `ff`, `−40 °C`, `1.08 V`."""
    if isinstance(value, str):
        return value
    return write(float(f"{float(value):.6g}"), "°C" if axis == "temperature" else unit)


@dataclass(frozen=True)
class CurveFamily:
    """Lanes in groups: `group` (lanes,) indices into `labels`; `main` (lanes,) true for the lane that stands for its
    group, with the other conditions as at the live point or nearest to the middle."""

    axis: str
    labels: tuple[str, ...]
    group: np.ndarray
    main: np.ndarray

    @property
    def mains(self) -> list[tuple[int, str]]:
        """The lanes that stand for their groups, each with the name of the group."""
        return [(int(lane), self.labels[self.group[lane]]) for lane in np.flatnonzero(self.main)]


def group_lanes(dataset: Dataset, axis: str, preferred: dict[str, object]) -> CurveFamily:
    """Groups all lanes along `axis`; `preferred` are the conditions of the live point."""
    if axis not in dataset.conditions:
        return CurveFamily("", ("",), np.zeros(dataset.lanes, int), np.arange(dataset.lanes) == 0)
    values = dataset.conditions[axis]
    order = list(dict.fromkeys(values.tolist()))
    group = np.array([order.index(value) for value in values.tolist()])
    main = np.ones(dataset.lanes, bool)
    for name in axes_of(dataset):
        if name != axis:
            known = dataset.conditions[name]
            wanted = preferred.get(name)
            middle = list(dict.fromkeys(known.tolist()))
            chosen = wanted if wanted in middle else middle[len(middle) // 2]
            main &= known == chosen
    for k in range(len(order)):  # conditions that were picked by hand need not cross
        if not np.any(main & (group == k)):
            main[np.flatnonzero(group == k)[0]] = True
    unit = dataset.units.get(axis, "")
    return CurveFamily(axis, tuple(group_text(axis, value, unit) for value in order), group, main)
