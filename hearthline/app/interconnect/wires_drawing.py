"""Bond wires to scale: from above, and from the side over the plane of ground."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from hearthline.app.interconnect.drawing import Drawing
from hearthline.app.interconnect.scale import Scale
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme

MARGIN, HEAD, THINNEST = 18.0, 18.0, 1.6
SIDES = (("from above", 0, 1), ("from the side", 0, 2))
"""Words, and which axes lie to the right and up."""


class WiresDrawing(Drawing):
    """Shows some; nothing where there are none."""

    def __init__(self) -> None:
        super().__init__("wires", 170)

    def paintEvent(self, event) -> None:
        """Both sides beside each other, at one scale each."""
        if not self.thing:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width = 0.5 * self.width()
        for k, (words, right, up) in enumerate(SIDES):
            room = QRectF(k * width, 0, width, self.height())
            painter.setFont(text_font(11))
            painter.setPen(theme.color("quiet"))
            painter.drawText(room.adjusted(6, 2, 0, 0), Qt.AlignmentFlag.AlignLeft, words)
            self._side(painter, room.adjusted(MARGIN, HEAD, -MARGIN, -MARGIN), right, up)

    def _side(self, painter: QPainter, room: QRectF, right: int, up: int) -> None:
        points = np.concatenate([one.points for one in self.thing])
        low, high = points.min(axis=0), points.max(axis=0)
        if up == 2:
            low = np.minimum(low, 0.0)
        widest = max(one.radius for one in self.thing)
        scale = Scale(
            room, (low[right] - widest, low[up] - widest), (high[right] + widest, high[up] + widest), bottom=up == 2
        )
        if up == 2:
            painter.setPen(QPen(theme.color("ink"), 2.2))
            ground = scale.point(0.0, 0.0).y()
            painter.drawLine(QPointF(room.left(), ground), QPointF(room.right(), ground))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setFont(figure_font(11))
        for number, wire in enumerate(self.thing, 1):
            thick = max(THINNEST, 2.0 * wire.radius * scale.factor)
            pen = QPen(theme.color("teal"), thick)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
            painter.setPen(pen)
            painter.drawPolyline(QPolygonF([scale.point(p[right], p[up]) for p in wire.points]))
            if up != 2:
                begin = scale.point(wire.points[0][right], wire.points[0][up])
                painter.drawText(
                    QRectF(begin.x() - 16, begin.y() - 17 - 0.5 * thick, 32, 14),
                    Qt.AlignmentFlag.AlignCenter,
                    str(number),
                )
