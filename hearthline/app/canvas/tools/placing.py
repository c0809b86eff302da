"""Places what was chosen: parts, pins, marks, notes, and pieces from the clipboard. A preview with its terminals follows the
pointer."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPen

from hearthline.app.canvas.brush import Brush, View
from hearthline.app.canvas.painter import paint_outline
from hearthline.app.canvas.scene import Scene
from hearthline.app.canvas.tools.tool import Tool
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.edit.motion import Motion
from hearthline.core.circuit.edit.move import moved
from hearthline.core.circuit.edit.picked import everything, places_of
from hearthline.core.elements.kind import Point


class Placing(Tool):
    """`put(piece, at)` is called with the turned piece and where its origin goes, at every click until Escape; with `once`
    at one."""

    cursor = Qt.CursorShape.CrossCursor

    def __init__(
        self,
        drawing,
        piece: Cell,
        put: Callable[[Cell, Point], None],
        what: str,
        at: QPointF | None,
        once: bool = False,
    ) -> None:
        super().__init__(drawing)
        self.piece, self._put, self._once = piece, put, once
        self.hint = f"{what}: click to place it, T turns, Shift+T flips, Escape stops"
        self.at: Point | None = self.snapped(at) if at else None

    def press(self, event: QMouseEvent) -> None:
        """Places it here."""
        if event.button() == Qt.MouseButton.RightButton:
            self.drawing.use(None)
        elif event.button() == Qt.MouseButton.LeftButton:
            self.at = self.snapped(event.position())
            self._place()

    def move(self, event: QMouseEvent) -> None:
        """The preview follows."""
        self.at = self.snapped(event.position())
        self.drawing.update()

    def key(self, event: QKeyEvent) -> bool:
        """Return places it, Escape stops."""
        if event.key() == Qt.Key.Key_Escape:
            self.drawing.use(None)
            return True
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.at is not None:
            self._place()
            return True
        return False

    def _place(self) -> None:
        self._put(self.piece, self.at)
        if self._once:
            self.drawing.use(None)
        self.drawing.update()

    def turn(self) -> bool:
        """A quarter turn about the origin."""
        return self._motion(Motion(quarters=1))

    def flip(self) -> bool:
        """Left to right about the origin."""
        return self._motion(Motion(flip=True))

    def _motion(self, motion: Motion) -> bool:
        self.piece, _ = moved(self.piece, everything(self.piece), self.drawing.desk.library, motion)
        self.drawing.update()
        return True

    def paint(self, brush: Brush) -> None:
        """The piece in teal, with a ring at each terminal."""
        if self.at is None:
            return
        x, y = self.at
        view = View(brush.view.scale, brush.view.x + x * brush.view.scale, brush.view.y + y * brush.view.scale)
        scene, painter = Scene(self.piece, self.drawing.desk.library), brush.painter
        paint_outline(brush, scene, view)
        painter.setPen(QPen(theme.color("teal"), 1.4))
        painter.setBrush(theme.color("paper"))
        for place in scene.anchors:
            painter.drawEllipse(view.to_screen(*place), 3, 3)
        for label in scene.cell.labels:
            brush.text(view.to_screen(label.at[0] + 0.4, label.at[1] - 0.4), label.net, "teal", bold=True)
        for note in scene.cell.notes:
            brush.text(view.to_screen(*note.at), note.text, "teal")


def centred(piece: Cell) -> Cell:
    """A piece moved so that its middle is at the origin."""
    places = places_of(piece) or [(0, 0)]
    xs, ys = [p[0] for p in places], [p[1] for p in places]
    shift = (-(min(xs) + max(xs)) // 2, -(min(ys) + max(ys)) // 2)
    motion = Motion(shift)
    return replace(
        piece, pins=tuple(map(motion.pin, piece.pins)), parts=tuple(map(motion.part, piece.parts)),
        wires=tuple(map(motion.wire, piece.wires)), labels=tuple(map(motion.mark, piece.labels)),
        notes=tuple(map(motion.mark, piece.notes)),
    )  # fmt: skip
