"""A substrate: its contacts from above, to scale, and its layers from the side, each with its numbers."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from hearthline.app.interconnect.drawing import Drawing
from hearthline.app.interconnect.scale import Scale
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.fields.substrate.network import Bed, Substrate
from hearthline.core.quantity import write

MARGIN, HEAD = 14.0, 20.0
LEAST = 20.0
"""Pixels of a layer at least, for its words: thicknesses are not to scale among each other."""


class SubstrateDrawing(Drawing):
    """Shows one; nothing where there is none."""

    def __init__(self) -> None:
        super().__init__("substrate", 190)

    def paintEvent(self, event) -> None:
        """From above at the left, from the side at the right."""
        substrate = self.thing
        if substrate is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        half = 0.5 * self.width()
        for k, words in enumerate(("from above", "from the side, not to scale")):
            painter.setFont(text_font(11))
            painter.setPen(theme.color("quiet"))
            painter.drawText(QRectF(k * half + 6, 2, half, 16), Qt.AlignmentFlag.AlignLeft, words)
        self._above(
            painter, QRectF(0, HEAD, half, self.height() - HEAD).adjusted(MARGIN, 0, -MARGIN, -MARGIN), substrate
        )
        self._beside(
            painter, QRectF(half, HEAD, half, self.height() - HEAD).adjusted(MARGIN, 0, -MARGIN, -MARGIN), substrate
        )

    def _above(self, painter: QPainter, room: QRectF, substrate: Substrate) -> None:
        scale = Scale(room, (0.0, 0.0), (substrate.length, substrate.width))
        painter.setPen(QPen(theme.color("ink"), 1.4))
        painter.setBrush(theme.color("raised"))
        painter.drawRect(scale.box((0.0, 0.0), (substrate.length, substrate.width)))
        painter.setFont(figure_font(11))
        for number, (x, y, w, h) in enumerate(substrate.contacts, 1):
            box = scale.box((x - 0.5 * w, y - 0.5 * h), (x + 0.5 * w, y + 0.5 * h))
            painter.setPen(QPen(theme.color("ink"), 1.2))
            painter.setBrush(theme.color("teal"))
            painter.drawRect(box)
            painter.setPen(theme.color("ink"))
            painter.drawText(
                QRectF(box.center().x() - 16, box.top() - 16, 32, 14), Qt.AlignmentFlag.AlignCenter, str(number)
            )

    def _beside(self, painter: QPainter, room: QRectF, substrate: Substrate) -> None:
        beds = substrate.beds
        spare = max(room.height() - LEAST * len(beds), 0.0)
        whole, top = sum(one.thickness for one in beds), room.top()
        for k, bed in enumerate(beds):
            height = LEAST + spare * bed.thickness / whole
            box = QRectF(room.left(), top, room.width(), height)
            painter.fillRect(box, theme.color("raised" if k % 2 == 0 else "panel"))
            painter.setPen(theme.color("quiet"))
            painter.setFont(text_font(11))
            painter.drawText(box.adjusted(6, 0, -6, 0), Qt.AlignmentFlag.AlignVCenter, _words(bed))
            top += height
        painter.setPen(QPen(theme.color("ink"), 2.2 if substrate.tied else 0.8))
        painter.drawLine(QPointF(room.left(), top), QPointF(room.right(), top))


def _words(bed: Bed) -> str:
    return f"{write(bed.thickness, 'm', 3)}, {write(bed.conductivity, 'S/m', 3)}, er {bed.er:g}"
