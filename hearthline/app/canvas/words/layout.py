"""All words of a drawing in their places, for one scale; worked out again only where something about them has changed."""

from __future__ import annotations

from collections.abc import Hashable, Iterator
from dataclasses import dataclass, field, replace

import numpy as np
from PyQt6.QtCore import QRectF

from hearthline.app.canvas.brush import Brush, Look
from hearthline.app.canvas.ink import turned_words
from hearthline.app.canvas.scene import Scene
from hearthline.app.canvas.words.currents import placed_currents
from hearthline.app.canvas.words.nets import NetName, Tag
from hearthline.app.canvas.words.notes import NoteWords
from hearthline.app.canvas.words.parts import GAUGE, SMALL_GAUGE, BlockWords, PartWords
from hearthline.app.canvas.words.spots import along, around
from hearthline.app.canvas.words.texts import faces_left, rest_of
from hearthline.app.canvas.words.writing import NAME, Writing, line_height, width
from hearthline.core.circuit.body import body_of
from hearthline.core.circuit.cell import Cell, Label, Part, Pin
from hearthline.core.circuit.symbols import GROUND_SYMBOL, place_terminal
from hearthline.core.places import Box, Place, Spot, arranged

LONGEST = 6
"""Pieces of wire of a net that its voltage may stand at."""

WIRE, ARROW = 1.5, 11.0
"""Half of what a wire takes, and the arrow of a watched current [px]."""


@dataclass(frozen=True)
class Layout:
    """Writings with their places, in pixels with the origin of the grid at (0, 0)."""

    placed: tuple[tuple[Writing, Place], ...]
    spots: dict[Hashable, int] = field(default_factory=dict)
    bare: frozenset[str] = frozenset()
    bodies: np.ndarray = field(default_factory=lambda: np.zeros((0, 4)))
    wires: np.ndarray = field(default_factory=lambda: np.zeros((0, 4)))

    def paint(self, brush: Brush) -> None:
        """Writes everything that can be seen."""
        painter = brush.painter
        painter.save()
        painter.translate(brush.view.x, brush.view.y)
        room = QRectF(-brush.view.x, -brush.view.y, painter.device().width(), painter.device().height())
        for writing, place in self.placed:
            left, top, right, bottom = place.box
            if room.intersects(QRectF(left, top, right - left, bottom - top)):
                writing.paint(brush, place)
        painter.restore()

    @property
    def share(self) -> float:
        """How many of the devices that have a gauge show it."""
        with_gauge = [place.form > 0 for one, place in self.placed if isinstance(one, PartWords) and one.gauge]
        return sum(with_gauge) / len(with_gauge) if with_gauge else 1.0

    @property
    def bounds(self) -> Box | None:
        """Of all words; None where there are none."""
        boxes = np.array([place.box for _, place in self.placed])
        return (*boxes[:, :2].min(axis=0), *boxes[:, 2:].max(axis=0)) if len(boxes) else None


def layout_of(
    scene: Scene, scale: float, look: Look, before: dict[Hashable, int] | None = None, room: QRectF | None = None,
    paper: Box | None = None,
) -> Layout:  # fmt: skip
    """Places for all words of a scene at a scale [pixels a grid step], or for those in a room; on the `paper` as far as that is
    possible."""
    made = _Collector(scene, scale, look, room)
    writings = list(made.all())
    places = arranged([one.item for one in writings], _table(made.bodies), _table(made.wires), before, paper)
    placed = tuple((one, places[one.item.key]) for one in writings)
    spots = {key: place.spot for key, place in places.items()}
    return Layout(placed, spots, frozenset(made.bare), _table(made.bodies), _table(made.wires))


def with_currents(layout: Layout, scene: Scene, scale: float, look: Look, paper: Box | None) -> Layout:
    """The same words, with the currents of what is selected where there is room left."""
    taken = np.concatenate([layout.bodies, _table([place.box for _, place in layout.placed])])
    return replace(layout, placed=(*layout.placed, *placed_currents(scene, scale, look, taken, layout.wires, paper)))


def _table(boxes: list[Box]) -> np.ndarray:
    return np.array(boxes).reshape(-1, 4)


class _Collector:
    """Makes the writings of a scene, and what they must not cover."""

    def __init__(self, scene: Scene, scale: float, look: Look, room: QRectF | None):
        self.scene, self.scale, self.look, self.room = scene, scale, look, room
        self.bodies: list[Box] = []
        self.bare: set[str] = set()
        self.wires: list[Box] = []
        for a, b, _ in scene.segments:
            (x0, y0), (x1, y1) = sorted((a, b))
            x0, y0, x1, y1 = self._box((min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)))
            self.wires.append((x0 - WIRE, y0 - WIRE, x1 + WIRE, y1 + WIRE))

        for name, terminal in look.watched:  # an arrow stands there
            if terminal in scene.terminals.get(name, {}):
                x, y = (value * scale for value in scene.terminals[name][terminal])
                self.bodies.append((x - ARROW, y - ARROW, x + ARROW, y + ARROW))

    def _seen(self, at: tuple[float, float]) -> bool:
        return self.room is None or self.room.contains(at[0] * self.scale, at[1] * self.scale)

    def _box(self, box: Box) -> Box:
        return tuple(value * self.scale for value in box)

    def all(self) -> Iterator[Writing]:
        """Names first, since what comes first finds the better places."""
        cell = self.scene.cell
        parts = [part for part in cell.parts if part.device != GROUND_SYMBOL and self._seen(part.at)]
        for part in cell.parts:
            if part.device == GROUND_SYMBOL:
                self.bodies.append(self._box(self.scene.part_box(part)))
        written = [self._part(part) for part in parts]
        for k, pin in enumerate(cell.pins):
            if self._seen(pin.at):
                yield from self._pin(pin, k)
        yield from written
        for k, label in enumerate(cell.labels):
            if self._seen(label.at):
                yield from self._label(label, k)
        yield from self._tags()
        for k, note in enumerate(cell.notes):
            if self._seen(note.at):
                yield NoteWords(note, k, (note.at[0] * self.scale, note.at[1] * self.scale - NAME))

    # -- parts

    def _part(self, part: Part) -> Writing:
        symbol = self.scene.symbol(part)
        body = self._body(part)
        wrong = part.name in self.scene.unknown or part.name == self.look.trouble
        role = "ember_ink" if wrong else "ink"
        if isinstance(symbol, Cell):
            return self._block(part, symbol, body, role)
        self.bodies.append(body)
        shown = self.look.instance.part(part.name) if self.look.instance is not None else part.name
        values = self.look.point.part(shown) if self.look.point is not None else {}
        columns: tuple[str, ...] = ()
        if symbol is not None and values:
            columns = tuple(name for name in self.look.columns.get(symbol.kind, ()) if name in values)
        gauge = any(known <= values.keys() for known in ({"vdsat", "vth"}, {"vbe", "vce"}, {"vd", "gd"}))
        lies = part.turn % 2 == 1 and body[2] - body[0] > 3 * self.scale
        first = "above" if lies else "left" if faces_left(self.scene, part) else "right"
        rest = rest_of(part, part.name not in self.scene.unknown)
        self._inner_words(part, None)
        wide = GAUGE if self.scale >= 9 else SMALL_GAUGE
        return PartWords(part.name, rest, shown, body, first, gauge, columns, role, wide)

    def _body(self, part: Part) -> Box:
        """What the symbol covers, without the room around it."""
        left, top, right, bottom = self.scene.part_box(part)
        return self._box((left + 0.4, top + 0.3, right - 0.4, bottom - 0.3))

    def _block(self, part: Part, cell: Cell, body: Box, role: str) -> Writing:
        shape = body_of(cell)
        left, top, right, bottom = shape.box
        if shape.shape == "amplifier":  # its words stand where the triangle is wide
            left, right, top, bottom = (
                left,
                left + 0.7 * (right - left),
                top + 0.2 * (bottom - top),
                bottom - 0.2 * (bottom - top),
            )
        corners = [place_terminal(part.at, part.turn, part.flip, corner) for corner in ((left, top), (right, bottom))]
        (x0, y0), (x1, y1) = corners
        inner = self._box((min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1)))
        words = BlockWords(part.name, shape.label or cell.name, body, inner, role)
        self.bodies.append(body)
        middle = ((inner[0] + inner[2]) / 2, (inner[1] + inner[3]) / 2)
        self._inner_words(part, (words, middle))
        return words

    def _inner_words(self, part: Part, block: tuple[BlockWords, tuple[float, float]] | None) -> None:
        """Leaves the words in a symbol out where they would lie on each other or on its name."""
        outline, at, turn, flip = self.scene.placed(part)
        boxes = []
        if block is not None and block[0].inside:
            wide, (x, y) = width(block[0].name, NAME, True), block[1]
            boxes.append((x - wide / 2, y - 9, x + wide / 2, y + 9))
        for x, y, word in turned_words(outline, turn, flip):
            px, py = (at[0] + x) * self.scale, (at[1] + y) * self.scale
            wide = width(word, 10)
            boxes.append((px - wide / 2 - 1, py - 6, px + wide / 2 + 1, py + 6))
        table = np.array(boxes)
        for k in range(len(boxes)):
            others = table[k + 1 :]
            if len(others) and (
                (table[k, 0] < others[:, 2]) & (others[:, 0] < table[k, 2])
                & (table[k, 1] < others[:, 3]) & (others[:, 1] < table[k, 3])
            ).any():  # fmt: skip
                self.bare.add(part.name)
                return

    # -- nets

    def _pin(self, pin: Pin, rank: int) -> Iterator[Writing]:
        flag = self._box(self.scene.pin_box(pin))
        left, top, right, bottom = flag
        self.bodies.append(flag)
        if pin.kind in ("supply", "ground"):
            first = {0: "above", 1: "right", 2: "above", 3: "left"}[(pin.turn + (2 if pin.kind == "ground" else 0)) % 4]
            yield NetName("pin", pin.name, around(flag, first), rank=rank)
            return
        wide = width(pin.name, NAME)
        if pin.turn % 2 == 0 and wide + 0.9 * self.scale <= right - left and line_height(NAME) <= bottom - top + 6:
            middle = Spot((left + right) / 2, (top + bottom) / 2, 0.5, 0.5)
            yield NetName("pin", pin.name, (middle,), False, rank)
            return
        yield NetName("pin", pin.name, around(flag, "above"), False, rank)

    def _label(self, label: Label, rank: int) -> Iterator[Writing]:
        x, y = label.at[0] * self.scale, label.at[1] * self.scale
        if label.kind == "supply":
            bar = (x - 1.5 * self.scale, y - 1.0 * self.scale, x + 1.5 * self.scale, y)
            self.bodies.append(bar)
            yield NetName("label", label.net, around(bar, "above"), rank=rank)
            return
        here = [(4, -4, 0, 1), (-4, -4, 1, 1), (4, 4, 0, 0), (-4, 4, 1, 0)]
        spots = [
            Spot(x + dx * (1 + 3 * k), y + dy * (1 + 3 * k), across, down, 3.0 * rank + 40.0 * k)
            for k in range(3) for rank, (dx, dy, across, down) in enumerate(here)
        ]  # fmt: skip
        yield NetName("label", label.net, tuple(spots), rank=rank)

    def _tags(self) -> Iterator[Tag]:
        """Of named nets always, of the others where the pointer is."""
        look, cell = self.look, self.scene.cell
        if look.point is None or self.scene.connections is None or look.instance is None:
            return
        nets = dict.fromkeys([*(pin.name for pin in cell.pins), *(label.net for label in cell.labels)])
        if look.lit_net:
            nets[look.lit_net] = None
        for net in nets:
            shown = look.instance.net(net)
            if net != "0" and look.point.voltage(shown) is not None:
                spots = self._tag_spots(net)
                if spots and self._seen((spots[0].x / self.scale, spots[0].y / self.scale)):
                    yield Tag(net, shown, spots)

    def _tag_spots(self, net: str) -> tuple[Spot, ...]:
        spots: tuple[Spot, ...] = ()
        cell = self.scene.cell
        for bar in [
            *(self._box(self.scene.pin_box(pin)) for pin in cell.pins if pin.name == net and pin.kind == "supply"),
            *(self._box(self.scene.label_box(one)) for one in cell.labels if one.net == net and one.kind == "supply"),
        ]:
            spots += around(bar, "right")
        spots += along(self._pieces(net, 6.0 if spots else 0.0))
        for pin in cell.pins:
            if pin.name == net and pin.kind != "supply":
                spots += tuple(
                    Spot(s.x, s.y, s.across, s.down, s.cost + 30)
                    for s in around(self._box(self.scene.pin_box(pin)), "above")
                )
        for label in cell.labels:
            if label.net == net and not spots:
                x, y = label.at[0] * self.scale, label.at[1] * self.scale
                spots += around((x - 2, y - 2, x + 2, y + 2), "right")
        return spots

    def _pieces(self, net: str, cost: float) -> Iterator[tuple[Box, float]]:
        """The longest straight pieces of a net, level ones before upright ones."""
        own = [(a, b) for a, b, other in self.scene.segments if other == net]
        own.sort(key=lambda ab: (ab[0][1] != ab[1][1], -abs(ab[0][0] - ab[1][0]) - abs(ab[0][1] - ab[1][1])))
        for rank, (a, b) in enumerate(own[:LONGEST]):
            (x0, y0), (x1, y1) = sorted((a, b))
            yield self._box((x0, y0, x1, y1)), cost + 5.0 * rank
