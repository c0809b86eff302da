"""What the pointer does on the drawing: one tool at a time, each a small object that the drawing hands its events to."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent

from hearthline.core.elements.kind import Point

if TYPE_CHECKING:
    from hearthline.app.canvas.brush import Brush
    from hearthline.app.canvas.surface import Surface

REACH_PIXELS = 7


class Tool:
    """Does nothing yet. `hint` is what a person is told at the foot of the drawing."""

    hint = ""
    cursor = Qt.CursorShape.ArrowCursor

    def __init__(self, drawing: Surface) -> None:
        self.drawing = drawing
        self.editor = drawing.editor

    def place(self, position: QPointF) -> tuple[float, float]:
        """A place of the screen on the grid."""
        return self.drawing.view.to_grid(position)

    def snapped(self, position: QPointF) -> Point:
        """The nearest grid place."""
        x, y = self.place(position)
        return round(x), round(y)

    @property
    def reach(self) -> float:
        """How far something may be missed, in grid steps."""
        return REACH_PIXELS / self.drawing.view.scale

    def press(self, event: QMouseEvent) -> None:
        """A button went down; the middle one never comes here."""

    def move(self, event: QMouseEvent) -> None:
        """The pointer moved."""

    def release(self, event: QMouseEvent) -> None:
        """A button went up."""

    def double(self, event: QMouseEvent) -> None:
        """A double click."""

    def key(self, event: QKeyEvent) -> bool:
        """A key; whether it was taken."""
        return False

    def turn(self) -> bool:
        """T; whether the tool has something to turn."""
        return False

    def flip(self) -> bool:
        """Shift+T; whether the tool has something to flip."""
        return False

    def leave(self) -> None:
        """Another tool takes over."""

    def paint(self, brush: Brush) -> None:
        """What it shows on top of the drawing."""
