"""Draws wires: from place to place at right angles, around parts, tied to what it ends at."""

from __future__ import annotations

from itertools import pairwise

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPen

from hearthline.app.canvas.brush import Brush
from hearthline.app.canvas.tools.tool import Tool
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.edit.draw import field_around
from hearthline.core.circuit.edit.move import cleaned
from hearthline.core.circuit.edit.route import Way, route
from hearthline.core.elements.kind import Point


class Wiring(Tool):
    """The first click begins a wire; a click on the paper fixes a corner; one on a terminal, pin or wire ends it, as does a
    double click or Return anywhere."""

    hint = "wire: click from terminal to terminal; a click on the paper fixes a corner, Return ends there, Escape stops"
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, drawing, start: Point | None = None, dragged: bool = False) -> None:
        super().__init__(drawing)
        self._fixed: Way = (start,) if start else ()
        self._to: Point | None = start
        self._dragged = dragged
        self._way: Way = ()

    # -- mouse

    def press(self, event: QMouseEvent) -> None:
        """Begins, fixes a corner, or ends."""
        if event.button() == Qt.MouseButton.RightButton:
            self._stop()
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        place, tied = self._target(event.position())
        if not self._fixed:
            self._fixed, self._to = (place,), place
            return
        self._go_to(place)
        if tied and place != self._fixed[0]:
            self._finish()
        elif self._way:
            self._fixed = self._way
        self.drawing.update()

    def move(self, event: QMouseEvent) -> None:
        """Shows the way so far."""
        place, _ = self._target(event.position())
        self.drawing.desk.point_at(self.drawing.scene.net_near(*self.place(event.position()), self.reach))
        if self._fixed and place != self._to:
            self._go_to(place)
        self._to = place
        self.drawing.update()

    def release(self, event: QMouseEvent) -> None:
        """A wire that was dragged out of a terminal ends where it is let go."""
        if self._dragged:
            place, _ = self._target(event.position())
            self._go_to(place)
            self._finish()
            self.drawing.use(None)

    def double(self, event: QMouseEvent) -> None:
        """Ends here, in the open if need be."""
        self._finish()

    def key(self, event: QKeyEvent) -> bool:
        """Escape gives up the wire, then the tool; Return ends here; Backspace takes the last corner back."""
        if event.key() == Qt.Key.Key_Escape:
            self._stop()
            return True
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._way:
            self._finish()
            return True
        if event.key() == Qt.Key.Key_Backspace and len(self._fixed) > 1:
            self._fixed = self._fixed[:-1]
            self._go_to(self._to)
            self.drawing.update()
            return True
        return False

    def _stop(self) -> None:
        """The wire, or where none is begun the tool."""
        if self._fixed:
            self._fixed, self._way = (), ()
            self.drawing.update()
        else:
            self.drawing.use(None)

    # -- the way

    def _target(self, position: QPointF) -> tuple[Point, bool]:
        """Where the wire would go to, and whether there is something to tie it to."""
        x, y = self.place(position)
        found = self.drawing.scene.anchor_near(x, y, max(0.75, self.reach))
        return (found, True) if found else ((round(x), round(y)), False)

    def _go_to(self, place: Point) -> None:
        start = self._fixed[-1]
        desk = self.drawing.desk
        if start == place:
            self._way = self._fixed if len(self._fixed) > 1 else ()
            return
        way = route(start, place, field_around(desk.cell, desk.library, (self._fixed[0], place), (start, place)))
        self._way = cleaned((*self._fixed[:-1], *way))

    def _finish(self) -> None:
        way, self._fixed, self._way = self._way, (), ()
        if len(way) > 1:
            self.editor.add_wire(way)
        self.drawing.update()

    def paint(self, brush: Brush) -> None:
        """The way, and a ring around what it would be tied to."""
        painter, view = brush.painter, brush.view
        painter.setPen(QPen(theme.color("teal"), 2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        for a, b in pairwise(self._way):
            painter.drawLine(view.to_screen(*a), view.to_screen(*b))
        if self._to is not None and (self._to in self.drawing.scene.anchors):
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(view.to_screen(*self._to), 6, 6)
