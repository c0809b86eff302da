"""Brings everything nearer where rows and columns are empty: what is joined stays joined, and what is left of something stays
left of it."""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Callable, Iterable
from dataclasses import replace
from itertools import pairwise

from hearthline.core.circuit.cell import Cell, Wire
from hearthline.core.circuit.edit.move import terminals_of
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.nets import terminal_points
from hearthline.core.elements.kind import Point

KEPT = 3
"""Grid steps that stay free between two things."""

Interval = tuple[int, int]


def compacted(cell: Cell, library: Library, across: int = KEPT, down: int = KEPT) -> Cell:
    """The cell with no empty columns wider than `across`, and no empty rows higher than `down` [grid steps]. Wires that cross
    them become shorter; nothing changes its order."""
    to_x = _shrunk(_occupied(cell, library, 0), across)
    to_y = _shrunk(_occupied(cell, library, 1), down)

    def moved(at: Point) -> Point:
        return to_x(at[0]), to_y(at[1])

    return replace(
        cell,
        pins=tuple(replace(one, at=moved(one.at)) for one in cell.pins),
        parts=tuple(replace(one, at=moved(one.at)) for one in cell.parts),
        wires=tuple(Wire(tuple(map(moved, one.points))) for one in cell.wires),
        labels=tuple(replace(one, at=moved(one.at)) for one in cell.labels),
        notes=tuple(replace(one, at=moved(one.at)) for one in cell.notes),
    )


def _occupied(cell: Cell, library: Library, axis: int) -> list[Interval]:
    """Stretches of an axis that something stands on, merged and in order."""
    found = [(point[axis], point[axis]) for wire in cell.wires for point in wire.points]
    for part in cell.parts:
        ends = [part.at, *terminal_points(part, terminals_of(library, part)).values()]
        values = [place[axis] for place in ends]
        found.append((min(values) - 1, max(values) + 1))
    places = [*(p.at for p in cell.pins), *(one.at for one in cell.labels), *(one.at for one in cell.notes)]
    found += [(at[axis], at[axis]) for at in places]
    return _merged(found)


def _merged(intervals: Iterable[Interval]) -> list[Interval]:
    found: list[Interval] = []
    for low, high in sorted(intervals):
        if found and low <= found[-1][1]:
            found[-1] = found[-1][0], max(found[-1][1], high)
        else:
            found.append((low, high))
    return found


def _shrunk(occupied: list[Interval], kept: int) -> Callable[[int], int]:
    """From where something stands to where it comes, when empty stretches between are at most `kept` wide."""
    begins, shifts = [occupied[0][0] if occupied else 0], [0]
    for before, after in pairwise(occupied):
        begins.append(after[0])
        shifts.append(shifts[-1] + max(0, after[0] - before[1] - kept))
    return lambda value: value - shifts[max(0, bisect_right(begins, value) - 1)]
