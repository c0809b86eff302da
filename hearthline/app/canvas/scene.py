"""What is on the drawing and where, in grid steps: found once a change, asked by painting and by the pointer."""

from __future__ import annotations

from collections import Counter, defaultdict
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import pairwise

from PyQt6.QtCore import QLineF

from hearthline.app.canvas.ink import Ink, Placed, ink_of
from hearthline.core.circuit.cell import Cell, Label, Note, Part, Pin, Wire
from hearthline.core.circuit.edit.move import terminals_of
from hearthline.core.circuit.edit.picked import Picked
from hearthline.core.circuit.edit.route import bounds_of
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.nets import Connections, WireIndex, on_segment, terminal_points
from hearthline.core.circuit.outlines import outline_of, outline_of_pin
from hearthline.core.circuit.symbols import GROUND_SYMBOL, place_terminal
from hearthline.core.elements.kind import Point, Symbol
from hearthline.core.errors import CircuitError

Box = tuple[float, float, float, float]
TILE = 32
"""Grid steps of the squares in which parts and wires are looked up."""


@dataclass(frozen=True)
class Scene:
    """A cell with its library, ready to be painted and to be pointed at."""

    cell: Cell
    library: Library

    def after(self, before: Scene | None) -> Scene:
        """This scene, with what an earlier one has worked out where nothing but values differs."""
        if before is not None and _geometry(before) == _geometry(self):
            kept = {name: found for name, found in before.__dict__.items() if name not in ("cell", "library")}
            self.__dict__.update(kept)
        return self

    @cached_property
    def connections(self) -> Connections | None:
        """The nets; None where the drawing contradicts itself."""
        return self.library.nets(self.cell)

    def symbol(self, part: Part) -> Symbol | Cell | None:
        """The symbol or block of a part; None for ground or something unknown."""
        try:
            return self.library.symbol(part)
        except CircuitError:
            return None

    @cached_property
    def unknown(self) -> frozenset[str]:
        """Names of parts that neither kit nor project know."""
        return frozenset(p.name for p in self.cell.parts if not self.library.knows(p))

    # -- what is painted

    def placed(self, part: Part) -> Placed:
        """The outline of a part in its place."""
        return outline_of(part, self.library), part.at, part.turn, part.flip

    @cached_property
    def ink(self) -> Ink:
        """All symbols but those of unknown parts."""
        placed = [self.placed(part) for part in self.cell.parts if part.name not in self.unknown]
        placed += [(outline_of_pin(pin.kind, len(pin.name)), pin.at, pin.turn, False) for pin in self.cell.pins]
        placed += [(outline_of_pin("supply"), one.at, 0, False) for one in self.cell.labels if one.kind == "supply"]
        return ink_of(placed)

    @cached_property
    def wire_lines(self) -> list[QLineF]:
        """Every straight piece of wire."""
        return [QLineF(*a, *b) for a, b, _ in self.segments]

    @cached_property
    def segments(self) -> list[tuple[Point, Point, str]]:
        """Every straight piece of wire with its net."""
        return [(a, b, self.net_at(wire.points[0])) for wire in self.cell.wires for a, b in pairwise(wire.points)]

    @cached_property
    def junctions(self) -> tuple[Point, ...]:
        """Where three or more ends meet: drawn with a dot."""
        return _junctions(
            self.cell.wires, tuple(point for points in self.terminals.values() for point in points.values())
        )

    # -- where things are

    @cached_property
    def terminals(self) -> dict[str, dict[str, Point]]:
        """Where the terminals of each part lie; none for a part that is not known."""
        return {part.name: terminal_points(part, terminals_of(self.library, part)) for part in self.cell.parts}

    @cached_property
    def anchors(self) -> dict[Point, list[tuple[str, str]]]:
        """(part, terminal), or ("", pin or net) of every place where a wire can be tied."""
        found = defaultdict(list)
        for name, terminals in self.terminals.items():
            for terminal, place in terminals.items():
                found[place].append((name, terminal))
        for pin in self.cell.pins:
            found[pin.at].append(("", pin.name))
        for label in self.cell.labels:
            found[label.at].append(("", label.net))
        return found

    @cached_property
    def _boxes(self) -> dict[str, Box]:
        return {part.name: self._part_box(part) for part in self.cell.parts}

    def part_box(self, part: Part) -> Box:
        """Left, top, right, bottom of a part's body."""
        return self._boxes[part.name]

    def _part_box(self, part: Part) -> Box:
        if part.device == GROUND_SYMBOL:
            return part.at[0] - 1.2, part.at[1], part.at[0] + 1.2, part.at[1] + 2
        x, y = part.at
        points = list(self.terminals[part.name].values()) or [(x - 2, y - 2), (x + 2, y + 2)]
        xs, ys = [x - 1, x + 1, *(p[0] for p in points)], [y - 1, y + 1, *(p[1] for p in points)]
        return min(xs) - 0.5, min(ys) - 0.4, max(xs) + 0.5, max(ys) + 0.4

    def pin_box(self, pin: Pin) -> Box:
        """Left, top, right, bottom of a pin's flag."""
        outline = outline_of_pin(pin.kind, len(pin.name))
        lines = outline.thin + outline.heavy
        points = [place_terminal(pin.at, pin.turn, False, point) for line in lines for point in line]
        left, top, right, bottom = bounds_of(points)
        return left - 0.2, top - 0.2, right + 0.2, bottom + 0.2

    def label_box(self, label: Label) -> Box:
        """Of a name, as far as it is written."""
        x, y = label.at
        wide = 0.65 * len(label.net)
        if label.kind == "supply":
            return x - max(1.6, wide / 2), y - 2.2, x + max(1.6, wide / 2), y
        return x, y - 1.4, x + 0.4 + wide, y + 0.1

    def note_box(self, note: Note) -> Box:
        """Of a note, as far as it is written."""
        lines = note.text.split("\n")
        return (
            note.at[0],
            note.at[1] - 1.1,
            note.at[0] + 0.62 * max(map(len, lines)),
            note.at[1] + 1.35 * len(lines) - 1.0,
        )

    def boxes(self) -> list[Box]:
        """Of everything."""
        cell = self.cell
        found = [self.part_box(part) for part in cell.parts] + [self.pin_box(pin) for pin in cell.pins]
        found += [self.label_box(label) for label in cell.labels] + [self.note_box(note) for note in cell.notes]
        return found + [(x, y, x, y) for wire in cell.wires for x, y in wire.points]

    @cached_property
    def bounds(self) -> Box:
        """Of everything together."""
        boxes = self.boxes()
        if not boxes:
            return (-10, -10, 10, 10)
        left, top = min(box[0] for box in boxes), min(box[1] for box in boxes)
        return left, top, max(box[2] for box in boxes), max(box[3] for box in boxes)

    def net_at(self, point: Point) -> str:
        """The net at a point that is the end of something."""
        return self.connections.at.get(point, "") if self.connections else ""

    @cached_property
    def _longest(self) -> dict[str, tuple[Point, Point]]:
        """The longest level piece of each net, or its longest piece."""
        best: dict[str, tuple[tuple, tuple[Point, Point]]] = {}
        for a, b, net in self.segments:
            rank = (a[1] == b[1], abs(a[0] - b[0]) + abs(a[1] - b[1]))
            if net not in best or rank > best[net][0]:
                best[net] = rank, (a, b)
        return {net: piece for net, (_, piece) in best.items()}

    def net_anchor(self, net: str) -> tuple[float, float] | None:
        """Where the voltage of a net is written: the middle of its longest level piece of wire."""
        if net not in self._longest:
            return None
        a, b = self._longest[net]
        return (a[0] + b[0]) / 2, (a[1] + b[1]) / 2

    # -- the pointer

    @cached_property
    def _tiles(self) -> dict[tuple[int, int], list]:
        """Parts, pins, labels, notes and wire pieces by the squares they touch."""
        found = defaultdict(list)
        cell = self.cell
        items = [(part, self.part_box(part)) for part in cell.parts] + [(pin, self.pin_box(pin)) for pin in cell.pins]
        items += [(one, self.label_box(one)) for one in cell.labels] + [(one, self.note_box(one)) for one in cell.notes]
        for wire in cell.wires:
            for a, b in pairwise(wire.points):
                box = (min(a[0], b[0]), min(a[1], b[1]), max(a[0], b[0]), max(a[1], b[1]))
                items.append(((wire, a, b), box))
        for item, (left, top, right, bottom) in items:
            for x in range(int((left - 1) // TILE), int((right + 1) // TILE) + 1):
                for y in range(int((top - 1) // TILE), int((bottom + 1) // TILE) + 1):
                    found[x, y].append((item, (left, top, right, bottom)))
        return found

    def _near(self, x: float, y: float) -> list:
        return self._tiles.get((int(x // TILE), int(y // TILE)), [])

    def item_at(self, x: float, y: float, reach: float) -> Part | Pin | Label | Note | Wire | None:
        """What lies at a place: pins and marks before parts, parts before wires; small parts before large ones."""
        near = [(item, box) for item, box in self._near(x, y) if not isinstance(item, tuple) and _inside(box, x, y)]
        for kinds in ((Pin,), (Label, Note), (Part,)):
            found = [(_area(box), k, item) for k, (item, box) in enumerate(near) if isinstance(item, kinds)]
            if found:
                return min(found)[2]
        return self.wire_near(x, y, reach)

    def wire_near(self, x: float, y: float, reach: float) -> Wire | None:
        """The wire nearest to a place, within `reach`."""
        best, found = reach, None
        for item, _ in self._near(x, y):
            if isinstance(item, tuple):
                wire, a, b = item
                distance = _distance(x, y, a, b)
                if distance <= best:
                    best, found = distance, wire
        return found

    def net_near(self, x: float, y: float, reach: float) -> str:
        """The net of the wire nearest to a place, within `reach`."""
        wire = self.wire_near(x, y, reach)
        return self.net_at(wire.points[0]) if wire else ""

    def anchor_near(self, x: float, y: float, reach: float) -> Point | None:
        """The nearest place where a wire can be tied: a terminal, pin or mark, else a place on a wire."""
        best, found = reach, None
        for px in range(round(x - reach), round(x + reach) + 1):
            for py in range(round(y - reach), round(y + reach) + 1):
                distance = ((px - x) ** 2 + (py - y) ** 2) ** 0.5
                if (px, py) in self.anchors and distance <= best:
                    best, found = distance, (px, py)
        if found is None:
            wire, at = self.wire_near(x, y, reach), (round(x), round(y))
            if wire is not None and any(on_segment(at, piece) for piece in pairwise(wire.points)):
                return at
        return found

    def within(self, box: Box) -> Picked:
        """Everything that lies wholly in a box."""
        cell = self.cell
        return Picked(
            frozenset(p.name for p in cell.parts if _covers(box, self.part_box(p))),
            frozenset(p.name for p in cell.pins if _covers(box, self.pin_box(p))),
            frozenset(w for w in cell.wires if all(_inside(box, *point) for point in w.points)),
            frozenset(one for one in cell.labels if _inside(box, *one.at)),
            frozenset(one for one in cell.notes if _inside(box, *one.at)),
        )

    def touched(self, path: list[tuple[float, float]]) -> Picked:
        """Everything that a drawn path runs over."""
        found = Picked()
        for a, b in pairwise(path):
            steps = max(1, int(2 * max(abs(a[0] - b[0]), abs(a[1] - b[1]))))
            for k in range(steps + 1):
                x, y = a[0] + (b[0] - a[0]) * k / steps, a[1] + (b[1] - a[1]) * k / steps
                item = self.item_at(x, y, 0.5)
                if item is not None:
                    found = found | picked_of(item)
        return found


def _geometry(scene: Scene) -> tuple:
    """All that the places of things follow from."""
    cell, library = scene.cell, scene.library
    places = [(part.name, part.device, part.at, part.turn, part.flip) for part in cell.parts]
    others = {name: id(other) for name, other in library.cells.items() if name != cell.name}
    modules = {name: id(module) for name, module in library.modules.items()}
    return cell.pins, cell.wires, cell.labels, cell.notes, places, others, modules, library.devices


def picked_of(item: Part | Pin | Label | Note | Wire) -> Picked:
    """One thing as a selection."""
    if isinstance(item, Part):
        return Picked(parts=frozenset((item.name,)))
    if isinstance(item, Pin):
        return Picked(pins=frozenset((item.name,)))
    one = frozenset((item,))
    if isinstance(item, Label):
        return Picked(labels=one)
    return Picked(notes=one) if isinstance(item, Note) else Picked(wires=one)


@lru_cache(maxsize=16)
def _junctions(wires: tuple[Wire, ...], terminals: tuple[Point, ...]) -> tuple[Point, ...]:
    ends = Counter(point for wire in wires for piece in pairwise(wire.points) for point in piece)
    ends.update(terminals)
    index = WireIndex(wires)
    for point in ends:
        ends[point] += 2 * sum(point not in segment for segment in index.through(point))
    return tuple(point for point, count in ends.items() if count >= 3)


def _inside(box: Box, x: float, y: float) -> bool:
    return box[0] <= x <= box[2] and box[1] <= y <= box[3]


def _covers(outer: Box, inner: Box) -> bool:
    return _inside(outer, *inner[:2]) and _inside(outer, *inner[2:])


def _area(box: Box) -> float:
    return (box[2] - box[0]) * (box[3] - box[1])


def _distance(x: float, y: float, a: Point, b: Point) -> float:
    dx, dy = b[0] - a[0], b[1] - a[1]
    length = dx * dx + dy * dy
    share = 0.0 if length == 0 else max(0.0, min(1.0, ((x - a[0]) * dx + (y - a[1]) * dy) / length))
    return ((x - a[0] - share * dx) ** 2 + (y - a[1] - share * dy) ** 2) ** 0.5
