"""Moves, turns and flips what was picked; wires stay tied to it, and what was joined stays joined."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable
from dataclasses import replace
from itertools import pairwise

from hearthline.core.circuit.cell import Cell, Wire
from hearthline.core.circuit.edit.motion import Motion
from hearthline.core.circuit.edit.picked import Picked
from hearthline.core.circuit.edit.route import Field, Way, region_of, route, simple_ways, steps_between
from hearthline.core.circuit.edit.tidy import tidy
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.nets import islands, terminal_points
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.elements.kind import Point


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


def moved(cell: Cell, picked: Picked, library: Library, motion: Motion) -> tuple[Cell, Picked]:
    """The cell after the motion, with its wires in clean form, and what was picked as it is called now."""
    new, after = Mover(cell, picked, library).to(motion)
    new = tidied(new, library)
    carried = {step for wire in after.wires for step in _steps(wire)}
    places = {point for step in carried for point in step}
    kept = (wire for wire in new.wires if wire.points[0] in places and carried.issuperset(_steps(wire)))
    return new, replace(after, wires=frozenset(kept))


def _steps(wire: Wire) -> set[tuple[Point, Point]]:
    """What a wire covers, in steps of the grid, both ways; those of a slanted one from end to end."""
    found = (pair for piece in pairwise(wire.points) for pair in pairwise(steps_between(*piece)))
    return {way for a, b in found for way in ((a, b), (b, a))}


class Mover:
    """Moves the same things again and again, as under a dragging hand: what does not depend on where to is found once."""

    def __init__(self, cell: Cell, picked: Picked, library: Library):
        self.cell, self.picked, self.library = cell, picked, library
        self.joined = islands(cell, {part.name: terminals_of(library, part) for part in cell.parts})
        old = anchors(cell, library)
        self.moving = [(at, self.joined.root(at)) for key, at in old.items() if self._goes(key)]
        self.still = [(at, self.joined.root(at)) for key, at in old.items() if not self._goes(key)]
        self.bodies = [body_box(part, library) for part in cell.parts if part.name not in picked.parts]
        self.carried = [(w, self.joined.root(w.points[0])) for w in cell.wires if w in picked.wires]
        self.others = [(w, self.joined.root(w.points[0])) for w in cell.wires if w not in picked.wires]
        self._sort_places()

    def _sort_places(self) -> None:
        """Which places that move pull a wire behind them, and which must be tied to where they were."""
        fixed = {at for at, _ in self.still}
        ends = Counter(wire.points[end] for wire, _ in self.others for end in (0, -1))
        passed = {point for wire, _ in self.others for point in wire.points[1:-1]}
        leaving = dict.fromkeys([at for at, _ in self.moving])
        leaving |= dict.fromkeys(wire.points[end] for wire, _ in self.carried for end in (0, -1))
        self.free = {p for p in leaving if p not in fixed and p not in passed and ends[p] == 1}
        self.tied = [p for p in leaving if p not in self.free and (p in fixed or p in passed or ends[p])]

    def _goes(self, key: tuple[str, str, str]) -> bool:
        kind, name, _ = key
        if kind == "label":
            return self.cell.labels[int(name)] in self.picked.labels
        return name in (self.picked.parts if kind == "part" else self.picked.pins)

    def to(self, motion: Motion) -> tuple[Cell, Picked]:
        """The cell after the motion; its wires may overlap, which is enough to show what will be."""
        cell, picked = self.cell, self.picked
        marks = {item: motion.mark(item) for item in (*picked.labels, *picked.notes)}
        wires, carried = _Wires(self, motion).all()
        new = replace(
            cell,
            parts=tuple(motion.part(part) if part.name in picked.parts else part for part in cell.parts),
            pins=tuple(motion.pin(pin) if pin.name in picked.pins else pin for pin in cell.pins),
            wires=wires,
            labels=tuple(marks.get(label, label) for label in cell.labels),
            notes=tuple(marks.get(note, note) for note in cell.notes),
        )
        labels, notes = (frozenset(marks[item] for item in kind) for kind in (picked.labels, picked.notes))
        return new, Picked(picked.parts, picked.pins, carried, labels, notes)


class _Wires:
    """All wires after one motion."""

    def __init__(self, mover: Mover, motion: Motion):
        self.mover, self.motion = mover, motion
        picked, library = mover.picked, mover.library
        self.anchors = [*mover.still, *((motion.point(at), net) for at, net in mover.moving)]
        moving = (motion.part(part) for part in mover.cell.parts if part.name in picked.parts)
        self.bodies = [*mover.bodies, *(body_box(part, library) for part in moving)]
        self.settled = [(motion.wire(wire), net) for wire, net in mover.carried]

    def all(self) -> tuple[tuple[Wire, ...], frozenset[Wire]]:
        """The wires, and those that were carried along as they are."""
        carried = frozenset(wire for wire, _ in self.settled)
        free = {point for point in self.mover.free if self.motion.point(point) != point}
        stretched = []
        for wire, net in self.mover.others:
            pulled = [end for end in (0, -1) if wire.points[end] in free]
            if pulled:
                stretched.append((wire, net, pulled))
            else:
                self.settled.append((wire, net))
        self.anchors += [(wire.points[-1 - pulled[0]], net) for wire, net, pulled in stretched if len(pulled) == 1]
        for wire, net, pulled in stretched:
            field = self._field(net, (*wire.points, *map(self.motion.point, wire.points)))
            way = self._stretched(wire, pulled[0], field) if len(pulled) == 1 else self._carried(wire, field)
            self.settled.append((Wire(way), net))
        for point in self.mover.tied:
            net, to = self.mover.joined.root(point), self.motion.point(point)
            if to != point:
                self.settled.append((Wire(route(point, to, self._field(net, (point, to)))), net))
        wires = (wire for wire, _ in self.settled if wire.points[0] != wire.points[-1] or len(wire.points) > 2)
        return tuple(wires), carried

    def _field(self, net: Point, places: Way) -> Field:
        """What is in the way of a net's wire between places."""
        field = Field(region_of(places))
        field.block(at for at, other in self.anchors if other != net)
        for wire, other in self.settled:
            if other != net:
                field.add_wire(wire.points)
        for box in self.bodies:
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
