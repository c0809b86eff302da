"""Moves, turns and flips what was picked; wires stay tied to it, and what was joined stays joined."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable
from dataclasses import replace

from hearthline.core.circuit.cell import Cell, Wire
from hearthline.core.circuit.edit.motion import Motion
from hearthline.core.circuit.edit.picked import Picked
from hearthline.core.circuit.edit.route import Field, Way, route, simple_ways
from hearthline.core.circuit.edit.tidy import tidy
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.nets import islands, terminal_points
from hearthline.core.circuit.symbols import GROUND_SYMBOL, Point


def anchors(cell: Cell, library: Library) -> dict[tuple[str, str, str], Point]:
    """Every place where a wire can be tied: (kind, name, terminal) of terminals, pins and labels."""
    found = {
        ("part", part.name, name): point
        for part in cell.parts
        for name, point in terminal_points(part, terminals_of(library, part)).items()
    }
    found |= {("pin", pin.name, ""): pin.at for pin in cell.pins}
    return found | {("label", f"{k}", ""): label.at for k, label in enumerate(cell.labels)}


def terminals_of(library: Library, part) -> tuple[tuple[str, Point], ...]:
    """Terminals of a part; none for one that is not known."""
    return library.terminals(part) if library.knows(part) else ()


def tidied(cell: Cell, library: Library) -> Cell:
    """The cell with its wires in clean form."""
    return replace(cell, wires=tidy(cell.wires, anchors(cell, library).values()))


def moved(cell: Cell, picked: Picked, library: Library, motion: Motion, final: bool = True) -> tuple[Cell, Picked]:
    """The cell after the motion, and what was picked as it is called now. Without `final` the wires may overlap, which is
    enough to show what will be."""
    return _Move(cell, picked, library, motion).done(final)


class _Move:
    """One motion."""

    def __init__(self, cell: Cell, picked: Picked, library: Library, motion: Motion):
        self.cell, self.picked, self.library, self.motion = cell, picked, library, motion
        terminals = {part.name: terminals_of(library, part) for part in cell.parts}
        self.joined = islands(cell, terminals)
        old = anchors(cell, library)
        goes = {key for key in old if self._goes(key)}
        self.moving = {old[key] for key in goes}
        self.fixed = {old[key] for key in old if key not in goes}
        self.anchor_nets = [(motion.point(at) if key in goes else at, self.joined.root(at)) for key, at in old.items()]

    def _goes(self, key: tuple[str, str, str]) -> bool:
        kind, name, _ = key
        if kind == "label":
            return self.cell.labels[int(name)] in self.picked.labels
        return name in (self.picked.parts if kind == "part" else self.picked.pins)

    def done(self, final: bool) -> tuple[Cell, Picked]:
        motion, cell, picked = self.motion, self.cell, self.picked
        marks = {item: motion.mark(item) for item in (*picked.labels, *picked.notes)}
        new = replace(
            cell,
            parts=tuple(motion.part(part) if part.name in picked.parts else part for part in cell.parts),
            pins=tuple(motion.pin(pin) if pin.name in picked.pins else pin for pin in cell.pins),
            labels=tuple(marks.get(label, label) for label in cell.labels),
            notes=tuple(marks.get(note, note) for note in cell.notes),
        )
        wires, carried = self._wires(new)
        new = replace(new, wires=wires)
        if final:
            new = tidied(new, self.library)
            carried = frozenset(new.wires) & carried
        labels, notes = (frozenset(marks[item] for item in kind) for kind in (picked.labels, picked.notes))
        return new, Picked(picked.parts, picked.pins, carried, labels, notes)

    # -- wires

    def _wires(self, new: Cell) -> tuple[tuple[Wire, ...], frozenset[Wire]]:
        """All wires after the motion, and those that were carried along as they are."""
        carried = [wire for wire in self.cell.wires if wire in self.picked.wires]
        others = [wire for wire in self.cell.wires if wire not in self.picked.wires]
        ends = Counter(wire.points[end] for wire in others for end in (0, -1))
        passed = {point for wire in others for point in wire.points[1:-1]}
        leaving = self.moving | {wire.points[end] for wire in carried for end in (0, -1)}
        leaving = {point for point in leaving if self.motion.point(point) != point}
        free = {p for p in leaving if p not in self.fixed and p not in passed and ends[p] == 1}
        tied = [p for p in leaving if p not in free and (p in self.fixed or p in passed or ends[p])]
        settled = [(self.motion.wire(wire), self.joined.root(wire.points[0])) for wire in carried]
        done = frozenset(wire for wire, _ in settled)
        stretched = []
        for wire in others:
            pulled = [end for end in (0, -1) if wire.points[end] in free]
            if pulled:
                stretched.append((wire, pulled))
            else:
                settled.append((wire, self.joined.root(wire.points[0])))
        self.bodies = [(part.name, body_box(part, self.library)) for part in new.parts]
        for wire, pulled in stretched:
            net = self.joined.root(wire.points[0])
            field = self._field(net, settled)
            way = self._stretched(wire, pulled[0], field) if len(pulled) == 1 else self._carried(wire, field)
            settled.append((Wire(way), net))
        for point in tied:
            net = self.joined.root(point)
            way = route(point, self.motion.point(point), self._field(net, settled))
            settled.append((Wire(way), net))
        return tuple(wire for wire, _ in settled if wire.points[0] != wire.points[-1] or len(wire.points) > 2), done

    def _field(self, net: Point, settled: Iterable[tuple[Wire, Point]]) -> Field:
        field = Field()
        field.block(at for at, other in self.anchor_nets if other != net)
        for wire, other in settled:
            if other != net:
                field.add_wire(wire.points)
        for _, box in self.bodies:
            field.add_body(box)
        return field

    def _carried(self, wire: Wire, field: Field) -> Way:
        """A wire both of whose ends move, the same in its new place unless something is in the way."""
        way = self.motion.wire(wire).points
        return way if field.cost(way) < math.inf else route(way[0], way[-1], field)

    def _stretched(self, wire: Wire, end: int, field: Field) -> Way:
        """The wire with one end pulled to its new place, as much like before as it can be."""
        points = wire.points if end == 0 else wire.points[::-1]
        to = self.motion.point(points[0])
        best = min(_pulled(points, to), key=field.cost)
        if field.cost(best) == math.inf:
            return route(points[-1], to, field)
        return best


def _pulled(points: Way, to: Point) -> list[Way]:
    """Ways from `to` to the last of `points` that keep what they can: the first piece slid, or a corner added."""
    ways = []
    if len(points) > 2:
        (x0, y0), (x1, y1) = points[:2]
        corner = (to[0], y1) if x0 == x1 else (x1, to[1]) if y0 == y1 else None
        if corner and _square(corner, points[2]):
            ways.append((to, corner, *points[2:]))
        ways += [(*way[:-1], *points[1:]) for way in simple_ways(to, points[1])]
    ways += simple_ways(to, points[-1])
    return [cleaned(way) for way in ways]


def _square(a: Point, b: Point) -> bool:
    return a[0] == b[0] or a[1] == b[1]


def cleaned(way: Iterable[Point]) -> Way:
    """A way without points that are twice there or in the middle of a straight piece; at least two points."""
    points: list[Point] = []
    for point in way:
        if points and points[-1] == point:
            continue
        while len(points) > 1 and _between(points[-2], points[-1], point):
            points.pop()
        points.append(point)
    return tuple(points) if len(points) > 1 else (points[0], points[0])


def _between(a: Point, b: Point, c: Point) -> bool:
    """Whether `b` adds nothing to the way from `a` to `c`: on one line, going on or back."""
    return (a[0] == b[0] == c[0]) or (a[1] == b[1] == c[1])


def body_box(part, library: Library) -> tuple[float, float, float, float]:
    """The inside of a part that wires go around: its terminals' box, a little smaller at the sides where they leave."""
    if part.device == GROUND_SYMBOL:
        return part.at[0] - 1, part.at[1] + 1, part.at[0] + 1, part.at[1] + 2
    points = list(terminal_points(part, terminals_of(library, part)).values()) or [part.at]
    left, top = min(p[0] for p in points), min(p[1] for p in points)
    right, bottom = max(p[0] for p in points), max(p[1] for p in points)
    return min(left, part.at[0] - 1), min(top, part.at[1] - 1), max(right, part.at[0] + 1), max(bottom, part.at[1] + 1)
