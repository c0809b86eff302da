"""Two readings or variables against each other, a point a sample; those that fail differ in shape and colour."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.quantity import write

LEFT, FOOT, EDGE, NEAR = 66, 34, 10, 12


class Scatter(QWidget):
    """`chosen(sample)` on a click at a point."""

    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.x, self.y, self.fails = np.zeros(0), np.zeros(0), np.zeros(0, bool)
        self.names, self.units = ("", ""), ("", "")
        self.picked, self.pointed = -1, -1
        self._kept: QPixmap | None = None
        self.setMouseTracking(True)
        self.setMinimumSize(240, 220)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_points(self, x: np.ndarray, y: np.ndarray, fails: np.ndarray, names: tuple[str, str], units: tuple[str, str],
                    picked: int) -> None:  # fmt: skip
        """(samples,) each."""
        self.x, self.y, self.fails, self.names, self.units, self.picked = x, y, fails, names, units, picked
        self._kept = None
        self.update()

    def _frame(self) -> QRectF:
        return QRectF(LEFT, EDGE, self.width() - LEFT - EDGE, self.height() - FOOT - EDGE)

    def _places(self) -> tuple[np.ndarray, np.ndarray]:
        frame = self._frame()
        (x0, x1), (y0, y1) = span_of(self.x), span_of(self.y)
        return frame.left() + (self.x - x0) / (x1 - x0) * frame.width(), frame.bottom() - (self.y - y0) / (
            y1 - y0
        ) * frame.height()

    def _nearest(self, place: QPointF) -> int:
        if not len(self.x):
            return -1
        px, py = self._places()
        away = np.hypot(px - place.x(), py - place.y())
        away = np.where(np.isfinite(away), away, np.inf)
        best = int(np.argmin(away))
        return best if away[best] <= NEAR else -1

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Says what a point is."""
        found = self._nearest(event.position())
        if found != self.pointed:
            self.pointed = found
            self.setCursor(Qt.CursorShape.PointingHandCursor if found >= 0 else Qt.CursorShape.ArrowCursor)
            self.update()

    def leaveEvent(self, event) -> None:
        """Nothing is pointed at."""
        self.pointed = -1
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Chooses a sample, or none where it was chosen."""
        found = self._nearest(event.position())
        if found >= 0:
            self.chosen.emit(-1 if found == self.picked else found)

    def resizeEvent(self, event) -> None:
        """Painted anew."""
        self._kept = None

    def restyle(self) -> None:
        """Takes the colours of the theme."""
        self._kept = None
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """The cloud is kept; what is pointed at is painted on it."""
        ratio = self.devicePixelRatioF()
        if self._kept is None or self._kept.size() != self.size() * ratio:
            self._kept = QPixmap(self.size() * ratio)
            self._kept.setDevicePixelRatio(ratio)
            self._kept.fill(theme.color("paper"))
            cloud = QPainter(self._kept)
            cloud.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_axes(cloud)
            self._paint_cloud(cloud)
            cloud.end()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.drawPixmap(0, 0, self._kept)
        px, py = self._places()
        for k, role in ((self.picked, "teal"), (self.pointed, "ink")):
            if 0 <= k < len(px) and np.isfinite(px[k] + py[k]):
                painter.setPen(QPen(theme.color(role), 2))
                painter.drawEllipse(QPointF(px[k], py[k]), 7, 7)
        if 0 <= self.pointed < len(px):
            self._say(painter, self.pointed)

    def _paint_axes(self, painter: QPainter) -> None:
        frame = self._frame()
        painter.setPen(QPen(theme.color("line"), 1))
        painter.drawLine(frame.bottomLeft(), frame.bottomRight())
        painter.drawLine(frame.bottomLeft(), frame.topLeft())
        painter.setFont(figure_font(10))
        room = painter.fontMetrics()
        (x0, x1), (y0, y1) = span_of(self.x), span_of(self.y)
        for share in (0.05, 0.5, 0.95):
            x, y = frame.left() + share * frame.width(), frame.bottom() - share * frame.height()
            painter.setPen(QPen(theme.color("line"), 0.7, Qt.PenStyle.DotLine))
            painter.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()))
            painter.drawLine(QPointF(frame.left(), y), QPointF(frame.right(), y))
            painter.setPen(theme.color("quiet"))
            text = write(float(f"{x0 + share * (x1 - x0):.4g}"), self.units[0], 4)
            painter.drawText(QPointF(x - room.horizontalAdvance(text) / 2, frame.bottom() + 13), text)
            text = write(float(f"{y0 + share * (y1 - y0):.4g}"), self.units[1], 4)
            painter.drawText(QPointF(frame.left() - 6 - room.horizontalAdvance(text), y + 4), text)
        painter.setFont(text_font(11, bold=True))
        painter.setPen(theme.color("ink"))
        room = painter.fontMetrics()
        painter.drawText(
            QPointF(frame.right() - room.horizontalAdvance(self.names[0]), self.height() - 6), self.names[0]
        )
        painter.drawText(QPointF(frame.left() + 6, frame.top() + 12), self.names[1])

    def _paint_cloud(self, painter: QPainter) -> None:
        px, py = self._places()
        known = np.isfinite(px) & np.isfinite(py)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("teal", 120))
        for k in np.flatnonzero(known & ~self.fails).tolist():
            painter.drawEllipse(QPointF(px[k], py[k]), 2.0, 2.0)
        painter.setPen(QPen(theme.color("ember"), 1.6))
        for k in np.flatnonzero(known & self.fails).tolist():
            x, y = float(px[k]), float(py[k])
            painter.drawLine(QPointF(x - 3, y - 3), QPointF(x + 3, y + 3))
            painter.drawLine(QPointF(x - 3, y + 3), QPointF(x + 3, y - 3))

    def _say(self, painter: QPainter, k: int) -> None:
        words = f"sample {k + 1}: {write(self.x[k], self.units[0], 4)}, {write(self.y[k], self.units[1], 4)}"
        painter.setFont(figure_font(11))
        wide = painter.fontMetrics().horizontalAdvance(words) + 12
        box = QRectF(self._frame().right() - wide, self._frame().top(), wide, 20)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.color("panel"))
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(theme.color("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def span_of(values: np.ndarray) -> tuple[float, float]:
    """What is shown of values, with room at both ends."""
    known = values[np.isfinite(values)]
    if not len(known):
        return 0.0, 1.0
    begin, end = float(known.min()), float(known.max())
    room = 0.04 * (end - begin) or abs(end) * 1e-3 or 1.0
    return begin - room, end + room
