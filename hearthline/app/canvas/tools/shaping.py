"""Reshapes the symbol of a cell at one of its blocks: terminals are dragged around, sides and corners out and in."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPen

from hearthline.app.canvas.brush import Brush, View
from hearthline.app.canvas.scene import Scene
from hearthline.app.canvas.tools.tool import Tool
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.body import body_of
from hearthline.core.circuit.cell import Body, Cell, Part
from hearthline.core.circuit.symbols import place_terminal
from hearthline.core.elements.kind import Point

LEAST = 2
"""The least width and height of a box."""


class Shaping(Tool):
    """Works on the body of the cell that a block is of, so that all its blocks change."""

    hint = "symbol: drag a terminal, a corner or a side; Return or Escape ends"

    def __init__(self, drawing, block: str) -> None:
        super().__init__(drawing)
        self.block = block
        self._held: str | tuple[int, ...] | None = None
        self._body: Body | None = None

    @property
    def part(self) -> Part | None:
        """The block, as long as it is there."""
        cell = self.drawing.desk.cell
        return next((p for p in cell.parts if p.name == self.block), None) if cell else None

    @property
    def body(self) -> Body:
        """The body as it is now, while it is dragged."""
        return self._body or body_of(self.drawing.desk.project.cells[self.part.device])

    def _inner(self, place: Point) -> Point:
        """A grid place in the coordinates of the body."""
        part = self.part
        x, y = place[0] - part.at[0], place[1] - part.at[1]
        for _ in range(-part.turn % 4):
            x, y = -y, x
        return (-x if part.flip else x), y

    def _outer(self, place: Point) -> Point:
        part = self.part
        return place_terminal(part.at, part.turn, part.flip, place)

    # -- mouse and keys

    def press(self, event: QMouseEvent) -> None:
        """Takes the terminal, corner or side that is there; a click elsewhere ends."""
        if self.part is None or event.button() != Qt.MouseButton.LeftButton:
            self.drawing.use(None)
            return
        at = self._inner(self.snapped(event.position()))
        body = self.body
        self._held = next((name for name, place in body.places.items() if _near(place, at, 1)), None) or _edges(
            body, at
        )
        if self._held is None:
            self.drawing.use(None)
        else:
            self._body = body

    def move(self, event: QMouseEvent) -> None:
        """Drags it."""
        if self._held is None or self.part is None:
            return
        at = self._inner(self.snapped(event.position()))
        if isinstance(self._held, str):
            free = not any(place == at for name, place in self._body.places.items() if name != self._held)
            if free and not _inside(self._body.box, at):
                self._body = replace(self._body, places={**self._body.places, self._held: at})
        else:
            self._body = _pulled(self._body, self._held, at)
        self.drawing.update()

    def release(self, event: QMouseEvent) -> None:
        """Puts the new body in place."""
        if self._held is not None and self._body is not None and self.part is not None:
            self.editor.change_body(self.part.device, self._body)
        self._held = self._body = None
        self.drawing.update()

    def key(self, event: QKeyEvent) -> bool:
        """Return and Escape end."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape):
            self.drawing.use(None)
            return True
        return False

    def paint(self, brush: Brush) -> None:
        """The new outline with handles."""
        part = self.part
        if part is None:
            return
        body, painter, view = self.body, brush.painter, brush.view
        cell = replace(self.drawing.desk.project.cells[part.device], body=body)
        library = replace(self.drawing.desk.library, cells={**self.drawing.desk.library.cells, cell.name: cell})
        scene = Scene(Cell("", parts=(part,)), library)
        painter.save()
        painter.setTransform(View(view.scale, view.x, view.y).transform, True)
        scene.ink.paint(painter, theme.color("teal"), 1.8)
        painter.restore()
        painter.setPen(QPen(theme.color("teal"), 1.4))
        painter.setBrush(theme.color("paper"))
        left, top, right, bottom = body.box
        for place in ((left, top), (right, top), (left, bottom), (right, bottom)):
            middle = view.to_screen(*self._outer(place))
            painter.drawRect(int(middle.x()) - 4, int(middle.y()) - 4, 8, 8)
        for place in body.places.values():
            painter.drawEllipse(view.to_screen(*self._outer(place)), 5, 5)


def _near(a: Point, b: Point, reach: int) -> bool:
    return abs(a[0] - b[0]) + abs(a[1] - b[1]) <= reach


def _inside(box: tuple[int, int, int, int], at: Point) -> bool:
    return box[0] < at[0] < box[2] and box[1] < at[1] < box[3]


def _edges(body: Body, at: Point) -> tuple[int, ...] | None:
    """The sides of the box (0 left, 1 top, 2 right, 3 bottom) that lie under a place."""
    left, top, right, bottom = body.box
    along = left - 1 <= at[0] <= right + 1 and top - 1 <= at[1] <= bottom + 1
    close = (abs(at[0] - left) <= 1, abs(at[1] - top) <= 1, abs(at[0] - right) <= 1, abs(at[1] - bottom) <= 1)
    held = tuple(k for k in range(4) if close[k])
    return held if along and held else None


def _pulled(body: Body, sides: tuple[int, ...], at: Point) -> Body:
    """The body with some of its sides at another place; terminals on a side go with it."""
    box = list(body.box)
    for side in sides:
        box[side] = at[side % 2]
    box[0], box[1] = min(box[0], body.box[2] - LEAST), min(box[1], body.box[3] - LEAST)
    box[2], box[3] = max(box[2], box[0] + LEAST), max(box[3], box[1] + LEAST)
    places = {}
    for name, (x, y) in body.places.items():
        x += box[0] - body.box[0] if x <= body.box[0] else box[2] - body.box[2] if x >= body.box[2] else 0
        y += box[1] - body.box[1] if y <= body.box[1] else box[3] - body.box[3] if y >= body.box[3] else 0
        places[name] = (x, y)
    return replace(body, box=tuple(box), places=places)
