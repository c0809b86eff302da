"""Geometry to nets: which terminals, pins and labels of a drawing are joined, and what each net is called."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise

from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.circuit.netlist import GROUND
from hearthline.core.circuit.sets import DisjointSets
from hearthline.core.circuit.symbols import GROUND_SYMBOL, Point, place_terminal
from hearthline.core.errors import CircuitError

Segment = tuple[Point, Point]


@dataclass(frozen=True)
class Connections:
    """The nets of one cell: net of each (part, terminal), net at each point of interest, and the points of each net."""

    terminals: dict[tuple[str, str], str]
    at: dict[Point, str]

    def points(self, net: str) -> list[Point]:
        """Every point of interest on `net`."""
        return [point for point, name in self.at.items() if name == net]


def terminal_points(part: Part, terminals: Iterable[tuple[str, Point]]) -> dict[str, Point]:
    """Where each terminal of a placed part lies."""
    return {name: place_terminal(part.at, part.turn, part.flip, offset) for name, offset in terminals}


def connect(cell: Cell, terminals: dict[str, tuple[tuple[str, Point], ...]]) -> Connections:
    """Nets of `cell`; `terminals` gives those of each part by the part's name.

    A wire's end, a terminal, a pin or a label that lies anywhere on a wire joins it; wires that merely cross do not
    join. Raises CircuitError where one net carries two pin names.
    """
    placed = {
        (part.name, name): point
        for part in cell.parts
        for name, point in terminal_points(part, terminals[part.name]).items()
    }
    named = [(pin.at, pin.name) for pin in cell.pins] + [(label.at, label.net) for label in cell.labels]
    named += [(part.at, GROUND) for part in cell.parts if part.device == GROUND_SYMBOL]
    joined = _join(cell, [*placed.values(), *(at for at, _ in named)])
    names = _name_nets(joined, named, placed)
    points = {point: names[joined.root(point)] for point in joined.members()}
    return Connections({key: points[point] for key, point in placed.items()}, points)


def _join(cell: Cell, anchors: list[Point]) -> DisjointSets:
    joined = DisjointSets()
    segments = [segment for wire in cell.wires for segment in pairwise(wire.points)]
    ends = [wire.points[end] for wire in cell.wires for end in (0, -1)]
    for wire in cell.wires:
        for point in wire.points[1:]:
            joined.join(wire.points[0], point)
    for point in [*anchors, *ends]:
        joined.root(point)
        for segment in segments:
            if on_segment(point, segment):
                joined.join(segment[0], point)
    return joined


def on_segment(point: Point, segment: Segment) -> bool:
    """Whether `point` lies on the straight piece, its ends included."""
    (x, y), ((x1, y1), (x2, y2)) = point, segment
    if (x2 - x1) * (y - y1) != (y2 - y1) * (x - x1):
        return False
    return min(x1, x2) <= x <= max(x1, x2) and min(y1, y2) <= y <= max(y1, y2)


def _name_nets(joined: DisjointSets, named: list[tuple[Point, str]], placed: dict) -> dict[Point, str]:
    """One name a set: ground first, then pins and labels; sets of the same name are one net. Others are called after
    the first terminal on them, so that a name stays when something else is drawn."""
    names: dict[Point, str] = {}
    first: dict[str, Point] = {}
    for at, name in named:
        if name in first:
            joined.join(first[name], at)
        first.setdefault(name, at)
    for at, name in named:
        root = joined.root(at)
        other = names.setdefault(root, name)
        if other != name:
            raise CircuitError(
                f"one net is called '{other}' and '{name}'; remove one of the names or cut the wire", net=name
            )
    for (part, terminal), point in placed.items():
        names.setdefault(joined.root(point), f"{part.lower()}_{terminal}")
    for point in joined.members():
        names.setdefault(joined.root(point), f"wire_{joined.root(point)[0]}_{joined.root(point)[1]}")
    return names
