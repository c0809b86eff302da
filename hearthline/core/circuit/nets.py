"""Geometry to nets: which terminals, pins and labels of a drawing are joined, and what each net is called."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

from hearthline.core.circuit.cell import Cell, Part, Wire
from hearthline.core.circuit.netlist import GROUND
from hearthline.core.circuit.sets import DisjointSets
from hearthline.core.circuit.symbols import GROUND_SYMBOL, place_terminal
from hearthline.core.elements.kind import Point
from hearthline.core.errors import CircuitError

Segment = tuple[Point, Point]


@dataclass(frozen=True)
class Connections:
    """The nets of one cell: net of each (part, terminal), and net at each point where something ends."""

    terminals: dict[tuple[str, str], str]
    at: dict[Point, str]


def terminal_points(part: Part, terminals: Iterable[tuple[str, Point]]) -> dict[str, Point]:
    """Where each terminal of a placed part lies."""
    return {name: place_terminal(part.at, part.turn, part.flip, offset) for name, offset in terminals}


def connect(cell: Cell, terminals: dict[str, tuple[tuple[str, Point], ...]]) -> Connections:
    """Nets of `cell`; `terminals` gives those of each part by the part's name.

    A wire's end or bend, a terminal, a pin or a label that lies anywhere on a wire joins it; wires that merely cross do
    not join. A change of values keeps the nets, which are then not worked out again. Raises CircuitError where one net
    carries two names.
    """
    return _connect(_Geometry(cell, tuple(terminals.items())))


class _Geometry:
    """A cell as a key without its values: equal where everything that decides about nets is equal."""

    def __init__(self, cell: Cell, terminals: tuple):
        self.cell, self.terminals = cell, terminals
        places = tuple((part.name, part.device, part.at, part.turn, part.flip) for part in cell.parts)
        self._key = (cell.pins, cell.wires, cell.labels, places, terminals)
        self._hash = hash(self._key)

    def __hash__(self) -> int:
        return self._hash

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Geometry) and self._key == other._key


@lru_cache(maxsize=64)
def _connect(geometry: _Geometry) -> Connections:
    cell, terminals = geometry.cell, dict(geometry.terminals)
    placed, named = _placed(cell, terminals), _named(cell)
    joined = _join(cell, [*placed.values(), *(at for at, _ in named)])
    names = _name_nets(joined, named, placed)
    points = {point: names[joined.root(point)] for point in joined.members()}
    return Connections({key: points[point] for key, point in placed.items()}, points)


def _placed(cell: Cell, terminals: dict) -> dict[tuple[str, str], Point]:
    return {
        (part.name, name): point
        for part in cell.parts
        for name, point in terminal_points(part, terminals[part.name]).items()
    }


def _named(cell: Cell) -> list[tuple[Point, str]]:
    named = [(pin.at, pin.name) for pin in cell.pins] + [(label.at, label.net) for label in cell.labels]
    return named + [(part.at, GROUND) for part in cell.parts if part.device == GROUND_SYMBOL]


def islands(cell: Cell, terminals: dict[str, tuple[tuple[str, Point], ...]]) -> DisjointSets:
    """What is joined to what, as sets of places that may be joined further; never fails, whatever the names say."""
    return _islands(_Geometry(cell, tuple(terminals.items()))).copy()


@lru_cache(maxsize=16)
def _islands(geometry: _Geometry) -> DisjointSets:
    cell, terminals = geometry.cell, dict(geometry.terminals)
    placed, named = _placed(cell, terminals), _named(cell)
    joined = _join(cell, [*placed.values(), *(at for at, _ in named)])
    _join_names(joined, named)
    return joined


def _join_names(joined: DisjointSets, named: list[tuple[Point, str]]) -> None:
    first: dict[str, Point] = {}
    for at, name in named:
        joined.join(first.setdefault(name.lower(), at), at)


def _join(cell: Cell, anchors: list[Point]) -> DisjointSets:
    joined = DisjointSets()
    index = WireIndex(cell.wires)
    for wire in cell.wires:
        for point in wire.points[1:]:
            joined.join(wire.points[0], point)
    for point in dict.fromkeys([*anchors, *(point for wire in cell.wires for point in wire.points)]):
        joined.root(point)
        for segment in index.through(point):
            joined.join(segment[0], point)
    return joined


BUCKET, LONG = 32, 256
"""Grid steps of the stretches of a row or column in which pieces of wire are looked up, and the most stretches of one piece; a
longer one is looked at wherever in its row or column the point is."""
Stretches = dict[tuple[int, int | None], list[Segment]]


class WireIndex:
    """Finds the straight pieces of wires through a point without looking at all of them: by stretches of its row and of its
    column, slanted ones by stretches of all columns."""

    def __init__(self, wires: Iterable[Wire]):
        self._rows: Stretches = {}
        self._columns: Stretches = {}
        self._slanted: Stretches = {}
        for wire in wires:
            for a, b in pairwise(wire.points):
                if a[1] == b[1]:
                    self._add(self._rows, a[1], a[0], b[0], (a, b))
                elif a[0] == b[0]:
                    self._add(self._columns, a[0], a[1], b[1], (a, b))
                else:
                    self._add(self._slanted, 0, a[0], b[0], (a, b))

    @staticmethod
    def _add(table: Stretches, level: int, a: int, b: int, segment: Segment) -> None:
        stretches = range(min(a, b) // BUCKET, max(a, b) // BUCKET + 1)
        for stretch in stretches if len(stretches) <= LONG else (None,):
            table.setdefault((level, stretch), []).append(segment)

    def through(self, point: Point) -> list[Segment]:
        """Every piece on which `point` lies, its ends included."""
        x, y = point
        found = [s for s in _near(self._rows, y, x) if s[0][0] <= x <= s[1][0] or s[1][0] <= x <= s[0][0]]
        found += [s for s in _near(self._columns, x, y) if s[0][1] <= y <= s[1][1] or s[1][1] <= y <= s[0][1]]
        if self._slanted:
            found += [segment for segment in _near(self._slanted, 0, x) if on_segment(point, segment)]
        return found


def _near(table: Stretches, level: int, along: int) -> Iterator[Segment]:
    yield from table.get((level, along // BUCKET), ())
    yield from table.get((level, None), ())


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
    _join_names(joined, named)
    for at, name in named:
        root = joined.root(at)
        other = names.setdefault(root, name)
        if other.lower() != name.lower():
            raise CircuitError(
                f"one net is called '{other}' and '{name}'; remove one of the names or cut the wire", net=name
            )
    for (part, terminal), point in placed.items():
        names.setdefault(joined.root(point), f"{part.lower()}_{terminal}")
    for point in joined.members():
        names.setdefault(joined.root(point), f"wire_{joined.root(point)[0]}_{joined.root(point)[1]}")
    return names
