"""Makes places of a drawing one net with as few new wires as needed, and takes away wires that lead nowhere."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import replace

from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.edit.draw import wired
from hearthline.core.circuit.edit.move import anchors, terminals_of
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.nets import WireIndex, islands
from hearthline.core.circuit.sets import DisjointSets
from hearthline.core.elements.kind import Point


def joined_islands(cell: Cell, library: Library) -> DisjointSets:
    """What is joined to what on a drawing."""
    return islands(cell, {part.name: terminals_of(library, part) for part in cell.parts})


def joined_up(cell: Cell, places: Iterable[Point], library: Library) -> Cell:
    """The cell with wires between `places` that are not joined yet, the nearest first."""
    places = list(dict.fromkeys(places))
    while True:
        joined = joined_islands(cell, library)
        index = WireIndex(cell.wires)
        for place in places:  # one may lie in the middle of a wire
            for piece in index.through(place):
                joined.join(piece[0], place)
        groups: dict[Point, list[Point]] = {}
        for place in places:
            groups.setdefault(joined.root(place), []).append(place)
        if len(groups) < 2:
            return cell
        first, *others = groups.values()
        _, a, b = min((_distance(a, b), a, b) for a in first for group in others for b in group)
        cell = wired(cell, a, b, library)


def pruned(cell: Cell, library: Library) -> Cell:
    """The cell without wires that end in the open."""
    tied = set(anchors(cell, library).values())
    wires = list(cell.wires)
    while True:
        ends = Counter(point for wire in wires for point in (wire.points[0], wire.points[-1]))
        kept = [w for w in wires if all(p in tied or ends[p] > 1 for p in (w.points[0], w.points[-1]))]
        if len(kept) == len(wires):
            return replace(cell, wires=tuple(wires))
        wires = kept


def _distance(a: Point, b: Point) -> int:
    return abs(a[0] - b[0]) + abs(a[1] - b[1])
