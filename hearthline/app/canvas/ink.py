"""The drawing as a few long lists of lines, so that painting thousands of parts is a handful of calls."""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache
from itertools import pairwise

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from hearthline.core.circuit.symbols import place_terminal
from hearthline.core.elements.outline import Outline

HEAVY = 1.7
Placed = tuple[Outline, tuple[int, int], int, bool]
"""An outline, where it stands, its quarter turns, and whether it is flipped."""


class Ink:
    """Lines, discs and fills in grid steps."""

    def __init__(self) -> None:
        self.thin: list[QLineF] = []
        self.heavy: list[QLineF] = []
        self.fills = QPainterPath()
        self.circles: list[QRectF] = []

    def add(self, outline: Outline, at: tuple[int, int], turn: int, flip: bool) -> None:
        """Adds one symbol."""
        thin, heavy, fills, circles = _turned(outline, turn % 4, flip)
        x, y = at
        self.thin += [QLineF(a + x, b + y, c + x, d + y) for a, b, c, d in thin]
        self.heavy += [QLineF(a + x, b + y, c + x, d + y) for a, b, c, d in heavy]
        for polygon in fills:
            self.fills.addPolygon(QPolygonF([QPointF(a + x, b + y) for a, b in polygon]))
        self.circles += [QRectF(a + x - r, b + y - r, 2 * r, 2 * r) for a, b, r in circles]

    def paint(self, painter: QPainter, color: QColor, width: float) -> None:
        """Draws everything; the painter counts in grid steps, `width` in pixels."""
        pen = QPen(color, width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.RoundJoin)
        pen.setCosmetic(True)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen)
        painter.drawLines(self.thin)
        for circle in self.circles:
            painter.drawEllipse(circle)
        pen.setWidthF(HEAVY * width)
        painter.setPen(pen)
        painter.drawLines(self.heavy)
        painter.fillPath(self.fills, color)


def ink_of(placed: Iterable[Placed]) -> Ink:
    """Symbols as ink."""
    ink = Ink()
    for outline, at, turn, flip in placed:
        ink.add(outline, at, turn, flip)
    return ink


@lru_cache(maxsize=512)
def _turned(outline: Outline, turn: int, flip: bool) -> tuple[list, list, list, list]:
    """Pieces of an outline after flip and turn."""

    def place(point: tuple[float, float]) -> tuple[float, float]:
        return place_terminal((0, 0), turn, flip, point)

    def pieces(lines) -> list[tuple[float, float, float, float]]:
        return [(*place(a), *place(b)) for line in lines for a, b in pairwise(line)]

    fills = [[place(point) for point in polygon] for polygon in outline.filled]
    circles = [(*place((x, y)), r) for x, y, r in outline.circles]
    return pieces(outline.thin), pieces(outline.heavy), fills, circles


def turned_words(outline: Outline, turn: int, flip: bool) -> list[tuple[float, float, str]]:
    """Where the words of a turned symbol stand."""
    return [(*place_terminal((0, 0), turn, flip, (x, y)), text) for x, y, text in outline.words]
