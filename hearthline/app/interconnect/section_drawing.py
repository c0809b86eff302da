"""A cross-section to scale: layers over the plane, conductors with their numbers."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen

from hearthline.app.interconnect.drawing import Drawing
from hearthline.app.interconnect.scale import Scale
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.fields.lines.section import Conductor
from hearthline.core.quantity import write

MARGIN, FOOT = 14.0, 16.0
THINNEST = 3.0
"""Pixels that a conductor has at least."""
AIR = 0.5
"""Of the highest thing, that is shown above it; and beside the outermost."""


class SectionDrawing(Drawing):
    """Shows one; nothing where there is none."""

    def __init__(self) -> None:
        super().__init__("cross-section", 170)

    def _box(self, one: Conductor) -> tuple[float, float, float, float]:
        r = one.radius
        return (one.low[0] - r, one.low[1] - r, one.high[0] + r, one.high[1] + r)

    def paintEvent(self, event) -> None:
        """Layers first."""
        section = self.thing
        if section is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        boxes = [self._box(one) for one in section.conductors]
        tops = section.tops
        top = max([box[3] for box in boxes] + [float(t) for t in tops[:1]])
        left, right = min(box[0] for box in boxes), max(box[2] for box in boxes)
        aside = max(AIR * top, 0.15 * (right - left))
        left, right, high = left - aside, right + aside, top * (1.0 + AIR)
        room = QRectF(self.rect()).adjusted(MARGIN, MARGIN, -MARGIN, -FOOT)
        scale = Scale(room, (left, 0.0), (right, high), bottom=True)
        painter.setFont(text_font(11))
        below = 0.0
        for k, (layer, end) in enumerate(zip(section.layers, tops, strict=True)):
            box = QRectF(
                QPointF(room.left(), scale.point(0, min(float(end), high)).y()),
                QPointF(room.right(), scale.point(0, below).y()),
            )
            painter.fillRect(box, theme.color("raised" if k % 2 == 0 else "panel"))
            painter.setPen(theme.color("quiet"))
            if box.height() > 14:
                words = f"{write(layer.height, 'm', 3)}, er {layer.er:g}"
                painter.drawText(
                    box.adjusted(6, 0, -6, 0), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, words
                )
            below = float(end)
            if below >= high:
                break
        painter.setPen(QPen(theme.color("ink"), 2.2))
        painter.drawLine(QPointF(room.left(), room.bottom()), QPointF(room.right(), room.bottom()))
        painter.setFont(figure_font(11))
        number = 0
        for one, box in zip(section.conductors, boxes, strict=True):
            shape = scale.box(box[:2], box[2:])
            if shape.height() < THINNEST:
                shape.setTop(shape.bottom() - THINNEST)
            painter.setPen(QPen(theme.color("ink"), 1.4))
            painter.setBrush(
                Qt.BrushStyle.NoBrush if one.hollow else QBrush(theme.color("quiet" if one.ground else "teal"))
            )
            painter.drawEllipse(shape) if one.round else painter.drawRect(shape)
            if not one.ground:
                number += 1
                painter.setPen(theme.color("teal"))
                word = QRectF(shape.center().x() - 12, shape.top() - 16, 24, 14)
                painter.drawText(word, Qt.AlignmentFlag.AlignCenter, str(number))
