"""Wires in one clean form: each runs from node to node, none lies on another, and no bend is straight.

Operations on a drawing may leave wires in any form; tidying keeps what they join.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from itertools import pairwise

from hearthline.core.circuit.cell import Wire
from hearthline.core.circuit.nets import WireIndex
from hearthline.core.elements.kind import Point

Piece = tuple[Point, Point]


def tidy(wires: Iterable[Wire], anchors: Iterable[Point] = ()) -> tuple[Wire, ...]:
    """The same connections in clean form. `anchors` are places of terminals, pins and labels, where wires are divided."""
    wires, anchors = tuple(wires), set(anchors)
    whole = _merged(wires)
    points = anchors.union(*(wire.points for wire in wires))
    cuts = _cuts(whole, points)
    pieces = [piece for straight in whole for piece in pairwise([straight[0], *sorted(cuts[straight]), straight[1]])]
    return _Chains(pieces, anchors).wires()


def _merged(wires: tuple[Wire, ...]) -> list[Piece]:
    """Straight pieces; those on one line that overlap are one."""
    lines: dict[tuple[str, int], list[tuple[int, int]]] = defaultdict(list)
    slanted: dict[Piece, None] = {}
    for wire in wires:
        for a, b in pairwise(wire.points):
            if a[1] == b[1] and a != b:
                lines["row", a[1]].append((min(a[0], b[0]), max(a[0], b[0])))
            elif a[0] == b[0] and a != b:
                lines["column", a[0]].append((min(a[1], b[1]), max(a[1], b[1])))
            elif a != b:
                slanted[min(a, b), max(a, b)] = None
    found = list(slanted)
    for (way, level), spans in lines.items():
        for low, high in _overlapping(spans):
            found.append(((low, level), (high, level)) if way == "row" else ((level, low), (level, high)))
    return found


def _overlapping(spans: list[tuple[int, int]]) -> list[tuple[int, int]]:
    """Spans of one line, those that share more than a point joined."""
    joined: list[tuple[int, int]] = []
    for low, high in sorted(spans):
        if joined and low < joined[-1][1]:
            joined[-1] = (joined[-1][0], max(joined[-1][1], high))
        else:
            joined.append((low, high))
    return joined


def _cuts(pieces: list[Piece], points: set[Point]) -> dict[Piece, list[Point]]:
    """The points that lie inside each piece."""
    index = WireIndex(Wire(piece) for piece in pieces)
    cuts: dict[Piece, list[Point]] = defaultdict(list)
    for point in points:
        for piece in index.through(point):
            if point not in piece:
                cuts[piece].append(point)
    return cuts


class _Chains:
    """Puts pieces together to runs between nodes. A point is no node where just two pieces meet, nothing is anchored and
    nothing else passes."""

    def __init__(self, pieces: list[Piece], anchors: set[Point]):
        self.anchors = anchors
        self.at: dict[Point, list[Piece]] = defaultdict(list)
        for piece in pieces:
            for point in piece:
                self.at[point].append(piece)
        self.used: set[Piece] = set()

    def wires(self) -> tuple[Wire, ...]:
        """Every run once; those of a ring have no node and begin anywhere."""
        starts = [point for point in self.at if self._is_node(point)]
        found = []
        for start in (*starts, *self.at):
            found += [self._run(start, piece) for piece in self.at[start] if piece not in self.used]
        return tuple(found)

    def _is_node(self, point: Point) -> bool:
        return len(self.at[point]) != 2 or point in self.anchors

    def _run(self, start: Point, piece: Piece) -> Wire:
        points, here = [start], start
        while True:
            self.used.add(piece)
            here = piece[1] if piece[0] == here else piece[0]
            if len(points) > 1 and _straight(points[-2], points[-1], here):
                points.pop()
            points.append(here)
            onward = [other for other in self.at[here] if other not in self.used]
            if self._is_node(here) or not onward:
                return Wire(tuple(points))
            piece = onward[0]


def _straight(a: Point, b: Point, c: Point) -> bool:
    return (b[0] - a[0]) * (c[1] - b[1]) == (b[1] - a[1]) * (c[0] - b[0])
