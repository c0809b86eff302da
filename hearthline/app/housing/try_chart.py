"""What a change of a housing does: frequency and quality of its lowest resonances against the values that were tried."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hearthline.app.housing.mode_chart import figure
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.fields.study import Tried
from hearthline.core.quantity import write

LEFT, RIGHT, HEAD, FOOT = 62.0, 26.0, 20.0, 18.0
STROKES = (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine)
"""Of the resonances, from the lowest on."""
MOST_Q = 1e5
APART = 11.0
"""Pixels between the numbers of two resonances."""


class TryChart(QWidget):
    """Nothing where nothing was tried."""

    def __init__(self) -> None:
        super().__init__()
        self.tried: Tried | None = None
        self.setFixedHeight(132)
        self.setAccessibleName("resonances against what was tried")
        theme.changed.connect(self.update)
        self.hide()

    def show_tried(self, tried: Tried | None) -> None:
        """Others."""
        self.tried = tried
        self.setVisible(tried is not None and len(tried.values) > 1)
        self.update()

    def paintEvent(self, event) -> None:
        """Both beside each other."""
        if self.tried is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        half = 0.5 * self.width()
        modes = [one.modes for one in self.tried.found]
        self._half(painter, QRectF(0, 0, half, self.height()), "frequency", [one.frequencies for one in modes], _hertz)
        quality = [np.log10(np.clip(one.quality, 1.0, MOST_Q)) for one in modes]
        self._half(painter, QRectF(half, 0, half, self.height()), "Q", quality, _quality)

    def _half(
        self, painter: QPainter, whole: QRectF, name: str, values: list[np.ndarray], said: Callable[[float], str]
    ) -> None:
        """`values` of each that was tried, of each resonance."""
        assert self.tried is not None
        room = whole.adjusted(LEFT, HEAD, -RIGHT, -FOOT)
        count = min(len(STROKES), *(len(one) for one in values))
        if count == 0:
            return
        table = np.array([one[:count] for one in values])
        low, high = float(table.min()), float(table.max())
        spare = 0.08 * (high - low) or 0.02 * abs(high) or 1.0
        low, high = low - spare, high + spare
        across = self.tried.numbers
        first, last = min(across), max(across)

        def place(x: float, y: float) -> QPointF:
            right = (x - first) / (last - first) if last > first else 0.5
            return QPointF(room.left() + right * room.width(), room.bottom() - (y - low) / (high - low) * room.height())

        self._axes(painter, whole, room, name, [(place(x, low).x(), self._word(k)) for k, x in enumerate(across)])
        painter.setFont(figure_font(10))
        painter.setPen(theme.color("quiet"))
        for value in (low + spare, high - spare):
            at = place(first, value).y()
            painter.drawText(
                QRectF(whole.left(), at - 8, LEFT - 6, 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                said(value),
            )
        order = np.argsort(across)
        ends: list[tuple[QPointF, str]] = []
        for k in range(count):
            points = [place(across[i], float(table[i, k])) for i in order]
            painter.setPen(QPen(theme.color("teal"), 1.8, STROKES[k]))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolyline(QPolygonF(points))
            painter.setBrush(theme.color("teal"))
            painter.setPen(Qt.PenStyle.NoPen)
            for point in points:
                painter.drawEllipse(point, 2.6, 2.6)
            ends.append((points[-1], str(k + 1)))
        painter.setPen(theme.color("teal"))
        for at, words in _together(ends):
            painter.drawText(QRectF(at.x() + 6, at.y() - 8, RIGHT, 16), Qt.AlignmentFlag.AlignVCenter, words)

    def _axes(self, painter: QPainter, whole: QRectF, room: QRectF, name: str, marks: list[tuple[float, str]]) -> None:
        painter.setFont(text_font(11))
        painter.setPen(theme.color("quiet"))
        painter.drawText(QRectF(room.left(), whole.top(), room.width(), HEAD - 4), Qt.AlignmentFlag.AlignLeft, name)
        painter.setPen(QPen(theme.color("line"), 1.0))
        painter.drawLine(room.bottomLeft(), room.bottomRight())
        painter.setFont(figure_font(10))
        taken = -1e9
        for x, word in sorted(marks):
            painter.setPen(QPen(theme.color("line"), 1.0))
            painter.drawLine(QPointF(x, room.bottom()), QPointF(x, room.bottom() + 3))
            if x - taken > 52:
                painter.setPen(theme.color("quiet"))
                painter.drawText(QRectF(x - 40, room.bottom() + 3, 80, FOOT - 3), Qt.AlignmentFlag.AlignCenter, word)
                taken = x

    def _word(self, k: int) -> str:
        """Below the axis: what was typed; places are too long for that, and counted."""
        assert self.tried is not None
        text = self.tried.values[k]
        return "as it is" if not text else text if len(text) < 9 else str(k)


def _together(ends: list[tuple[QPointF, str]]) -> list[tuple[QPointF, str]]:
    """Words that would lie over each other, as one."""
    found: list[tuple[QPointF, str]] = []
    for at, words in sorted(ends, key=lambda one: one[0].y()):
        if found and at.y() - found[-1][0].y() < APART:
            found[-1] = (found[-1][0], f"{found[-1][1]} {words}")
        else:
            found.append((at, words))
    return found


def _hertz(value: float) -> str:
    return write(value, "Hz", 3)


def _quality(value: float) -> str:
    return figure(10.0**value)
