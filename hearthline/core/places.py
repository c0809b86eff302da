"""Where words stand on a drawing or chart so that nothing covers anything: each item has places that it may stand at, and forms
from the least to the fullest. All get the least, then those grow for which there is room.

Simple relaxation over candidate places, after Christensen, Marks and Shieber, ACM Transactions on Graphics 14 (1995) 203.
All numbers are pixels; boxes are (left, top, right, bottom).
"""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

Box = tuple[float, float, float, float]
Size = tuple[float, float]

ON_WORDS, ON_BODY, ON_WIRE, MOVED = 4000.0, 1000.0, 35.0, 15.0
"""What it costs to lie on other words, on a symbol, on a wire, and to leave the place where it stood before."""

STRAY = 40.0
"""How much worse a place may be that offers room for a fuller form."""

GAP = 3.0
"""Between words of two items."""
SWEEPS = 3


class Spot(NamedTuple):
    """A place: the point (x, y), which share of the words' width and height lies before it, and how much one would rather not
    stand there."""

    x: float
    y: float
    across: float
    down: float
    cost: float = 0.0


@dataclass(frozen=True)
class Item:
    """Something to be written. `forms` are sizes, the least first; `spots` in order of preference. `crosses` tells whether its
    second form may lie on one wire more than the first, rather than stay away."""

    key: Hashable
    forms: tuple[Size, ...]
    spots: tuple[Spot, ...]
    crosses: bool = False


@dataclass(frozen=True)
class Place:
    """Where an item stands, and in which of its forms."""

    form: int
    spot: int
    box: Box


def arranged(
    items: Sequence[Item],
    bodies: np.ndarray,
    wires: np.ndarray,
    before: Mapping[Hashable, int] | None = None,
    paper: Box | None = None,
) -> dict[Hashable, Place]:
    """A place for each item. `bodies` and `wires` (n, 4) are boxes; `before` holds the spots from the last time; to
    stand beyond the `paper` is as bad as on a body."""
    if not items:
        return {}
    bodies, wires = bodies.reshape(-1, 4), wires.reshape(-1, 4)
    if paper is not None:
        bodies = np.concatenate([bodies, _beyond(paper)])
    table = _Table(items, bodies, wires, before or {})
    table.settle()
    table.grow()
    return table.places()


class _Table:
    """The state of the relaxation: one box for each item. What is too far away to be touched is never looked at."""

    def __init__(self, items: Sequence[Item], bodies: np.ndarray, wires: np.ndarray, before: Mapping[Hashable, int]):
        self.items = items
        self.spots = [_spots(item) for item in items]
        self.costs = [spots[:, 4] for spots in self.spots]
        self.candidates = [_boxes(spots, item.forms[0]) for spots, item in zip(self.spots, items, strict=True)]
        reach = np.array([_reach(spots, item) for spots, item in zip(self.spots, items, strict=True)])
        self.near = [np.flatnonzero(row) for row in _overlaps(_wider(reach), reach)]
        self.bodies = [bodies[row] for row in _rows(reach, bodies)]
        self.wires = [wires[row] for row in _rows(reach, wires)]
        self.fixed = [self._fixed_cost(k, before.get(item.key)) for k, item in enumerate(items)]
        self.spot = np.zeros(len(items), int)
        self.form = np.zeros(len(items), int)
        self.boxes = np.full((len(items), 4), np.nan)

    def _fixed_cost(self, k: int, kept: int | None) -> np.ndarray:
        boxes = self.candidates[k]
        on_bodies, on_wires = _overlaps(boxes, self.bodies[k]), _overlaps(boxes, self.wires[k])
        cost = self.costs[k] + ON_BODY * on_bodies.sum(axis=1) + ON_WIRE * on_wires.sum(axis=1)
        if kept is not None and kept < len(cost):
            cost = cost + MOVED
            cost[kept] -= MOVED
        return cost

    def settle(self) -> None:
        """The least form of everything, where it costs least."""
        for sweep in range(SWEEPS):
            moved = False
            for k in range(len(self.items)):
                self.boxes[k] = np.nan
                others = self.boxes[self.near[k]]
                cost = self.fixed[k] + ON_WORDS * _overlaps(_wider(self.candidates[k]), others).sum(axis=1)
                best = int(np.argmin(cost))
                moved = moved or sweep == 0 or best != self.spot[k]
                self.spot[k], self.boxes[k] = best, self.candidates[k][best]
            if not moved:
                return

    def grow(self) -> None:
        """Fuller forms, in turn, where they cover nothing."""
        for form in range(1, max(len(item.forms) for item in self.items)):
            for k, item in enumerate(self.items):
                if self.form[k] == form - 1 and len(item.forms) > form:
                    self._try(k, form)

    def _try(self, k: int, form: int) -> None:
        boxes, held = _boxes(self.spots[k], self.items[k].forms[form]), self.boxes[k].copy()
        self.boxes[k] = np.nan
        words = _overlaps(_wider(boxes), self.boxes[self.near[k]]).any(axis=1)
        crossed = _overlaps(boxes, self.wires[k]).sum(axis=1)
        # a wire may be crossed no more than by the form before
        before = _overlaps(held[None], self.wires[k]).sum() + (self.items[k].crosses and form == 1)
        near = self.costs[k] <= self.costs[k][self.spot[k]] + STRAY  # what grows does not wander off
        free = near & ~words & ~_overlaps(boxes, self.bodies[k]).any(axis=1) & (crossed <= before)
        cost = np.where(free, self.costs[k] + ON_WIRE * crossed, np.inf)
        cost[self.spot[k]] -= MOVED
        best = int(np.argmin(cost))
        if np.isfinite(cost[best]):
            self.form[k], self.spot[k], self.boxes[k] = form, best, boxes[best]
        else:
            self.boxes[k] = held

    def places(self) -> dict[Hashable, Place]:
        """What came out."""
        found = {}
        for k, item in enumerate(self.items):
            left, top, right, bottom = map(float, self.boxes[k])
            found[item.key] = Place(int(self.form[k]), int(self.spot[k]), (left, top, right, bottom))
        return found


def _spots(item: Item) -> np.ndarray:
    """(spots, 5): x, y, across, down, cost."""
    return np.array(item.spots, float)


def _reach(spots: np.ndarray, item: Item) -> np.ndarray:
    """All that an item may ever cover; the largest form covers what the others do."""
    size = max(form[0] for form in item.forms), max(form[1] for form in item.forms)
    boxes = _boxes(spots, size)
    return np.concatenate([boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)])


def _rows(reach: np.ndarray, boxes: np.ndarray) -> np.ndarray:
    return _overlaps(reach, boxes) if len(boxes) else np.zeros((len(reach), 0), bool)


def _beyond(paper: Box) -> np.ndarray:
    """What surrounds a box, as four."""
    left, top, right, bottom = paper
    far = 1e7
    return np.array(
        [(-far, -far, left, far), (right, -far, far, far), (-far, -far, far, top), (-far, bottom, far, far)]
    )


def _boxes(spots: np.ndarray, size: Size) -> np.ndarray:
    """(spots, 4): where words of a size would stand."""
    corner = spots[:, :2] - spots[:, 2:4] * size
    return np.concatenate([corner, corner + size], axis=1)


def _wider(boxes: np.ndarray) -> np.ndarray:
    return boxes + np.array([-GAP, -GAP, GAP, GAP])


def _overlaps(boxes: np.ndarray, others: np.ndarray) -> np.ndarray:
    """(boxes, others): which lie on which; NaN lies on nothing."""
    if not len(others):
        return np.zeros((len(boxes), 0), bool)
    a, b = boxes[:, None, :], others[None, :, :]
    return (a[..., 0] < b[..., 2]) & (b[..., 0] < a[..., 2]) & (a[..., 1] < b[..., 3]) & (b[..., 1] < a[..., 3])
