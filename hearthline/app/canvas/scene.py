"""What is on the drawing and where, in grid steps: found once a change, asked by painting and by the pointer."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from functools import cached_property, lru_cache
from itertools import pairwise

from hearthline.app.state.desk import Selection
from hearthline.core.circuit.cell import Cell, Part, Pin, Wire
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.nets import Connections, WireIndex, terminal_points
from hearthline.core.circuit.symbols import GROUND_SYMBOL, Point, Symbol
from hearthline.core.errors import CircuitError

Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class Scene:
    """A cell with its library, ready to be painted."""

    cell: Cell
    library: Library

    @cached_property
    def connections(self) -> Connections | None:
        """The nets; None where the drawing contradicts itself."""
        try:
            return self.library.connections(self.cell)
        except CircuitError:
            return None

    def symbol_name(self, part: Part) -> str:
        """Name of the outline to draw."""
        return GROUND_SYMBOL if part.device == GROUND_SYMBOL else self.library.devices.get(part.device, part.device)

    def symbol(self, part: Part) -> Symbol | Cell | None:
        """The symbol or block of a part; None for ground or something unknown."""
        try:
            return self.library.symbol(part)
        except CircuitError:
            return None

    def known(self, part: Part) -> bool:
        """Whether the kit or the project has the part's device."""
        return part.device == GROUND_SYMBOL or self.symbol(part) is not None

    def part_box(self, part: Part) -> Box:
        """Left, top, right, bottom of a part's body."""
        return self._boxes[part.name]

    @cached_property
    def _boxes(self) -> dict[str, Box]:
        return {part.name: self._part_box(part) for part in self.cell.parts}

    @cached_property
    def _terminals(self) -> dict[str, list[Point]]:
        """Where the terminals of each part lie; none for a part that is not known."""
        known = [part for part in self.cell.parts if self.known(part)]
        return {part.name: list(terminal_points(part, self.library.terminals(part)).values()) for part in known}

    def _part_box(self, part: Part) -> Box:
        if part.device == GROUND_SYMBOL:
            return part.at[0] - 1.2, part.at[1], part.at[0] + 1.2, part.at[1] + 2
        x, y = part.at
        points = self._terminals.get(part.name, [(x - 2, y - 2), (x + 2, y + 2)])
        xs, ys = [x - 1, x + 1, *(p[0] for p in points)], [y - 1, y + 1, *(p[1] for p in points)]
        return min(xs) - 0.5, min(ys) - 0.4, max(xs) + 0.5, max(ys) + 0.4

    def pin_box(self, pin: Pin) -> Box:
        """Left, top, right, bottom of a pin's flag."""
        x, y = pin.at
        if pin.kind == "supply":
            return x - 1.6, y - 1.6, x + 1.6, y + 0.3
        return (x - 0.2, y - 0.9, x + 3, y + 0.9) if pin.kind == "output" else (x - 3, y - 0.9, x + 0.2, y + 0.9)

    @cached_property
    def bounds(self) -> Box:
        """Of everything, with room for the values beside the parts."""
        boxes = [self.part_box(part) for part in self.cell.parts] + [self.pin_box(pin) for pin in self.cell.pins]
        boxes += [(x, y, x, y) for wire in self.cell.wires for x, y in wire.points]
        if not boxes:
            return (-10, -10, 10, 10)
        left, top = min(box[0] for box in boxes), min(box[1] for box in boxes)
        return left, top, max(box[2] for box in boxes), max(box[3] for box in boxes)

    def net_at(self, point: Point) -> str:
        """The net at a point that is the end of something."""
        return self.connections.at.get(point, "") if self.connections else ""

    @cached_property
    def segments(self) -> list[tuple[Point, Point, str]]:
        """Every straight piece of wire with its net."""
        return [(a, b, self.net_at(a)) for wire in self.cell.wires for a, b in pairwise(wire.points)]

    @cached_property
    def junctions(self) -> tuple[Point, ...]:
        """Where three or more ends meet, or an end meets the middle of a wire: drawn with a dot."""
        return _junctions(self.cell.wires, tuple(point for points in self._terminals.values() for point in points))

    def net_anchor(self, net: str) -> Point | None:
        """Where the voltage of a net is written: the middle of its longest level piece of wire."""
        pieces = [(a, b) for a, b, name in self.segments if name == net]
        if not pieces:
            return None
        level = [piece for piece in pieces if piece[0][1] == piece[1][1]] or pieces
        a, b = max(level, key=lambda piece: abs(piece[0][0] - piece[1][0]) + abs(piece[0][1] - piece[1][1]))
        return (a[0] + b[0]) / 2, (a[1] + b[1]) / 2

    def hit(self, x: float, y: float, reach: float) -> Selection:
        """What lies at a place, parts and pins before wires; `reach` is how far a wire can be missed."""
        for pin in self.cell.pins:
            if _inside(self.pin_box(pin), x, y):
                return Selection("pin", pin.name)
        for part in self.cell.parts:
            if part.device != GROUND_SYMBOL and _inside(self.part_box(part), x, y):
                return Selection("part", part.name)
        net = self.net_near(x, y, reach)
        return Selection("net", net) if net else Selection()

    def net_near(self, x: float, y: float, reach: float) -> str:
        """The net of the wire nearest to a place, within `reach`."""
        best, found = reach, ""
        for a, b, net in self.segments:
            distance = _distance(x, y, a, b)
            if distance <= best:
                best, found = distance, net
        return found


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


def _distance(x: float, y: float, a: Point, b: Point) -> float:
    dx, dy = b[0] - a[0], b[1] - a[1]
    length = dx * dx + dy * dy
    share = 0.0 if length == 0 else max(0.0, min(1.0, ((x - a[0]) * dx + (y - a[1]) * dy) / length))
    return ((x - a[0] - share * dx) ** 2 + (y - a[1] - share * dy) ** 2) ** 0.5
