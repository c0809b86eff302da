"""How one reading spreads over samples: a histogram or a normal probability plot, with limits that can be dragged."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hearthline.app.theme.fonts import figure_font
from hearthline.app.theme.theme import theme
from hearthline.core.quantity import write

BARS, NEAR, POINTS = 60, 7, 300
TAILS = (-3.0, -2.0, -1.0, 0.0, 1.0, 2.0, 3.0)
"""Of the normal law: the lines of the probability plot."""
FOOT = 16
EDGE = 6
AWAY = 0.35
"""How far from the values a limit may be and still widen what is shown, as a share of their range."""


class Distribution(QWidget):
    """`moved(low, high)` while a limit is dragged."""

    moved = pyqtSignal(float, float)

    def __init__(self) -> None:
        super().__init__()
        self.values, self.beside = np.zeros(0), np.zeros(0)
        self.low, self.high, self.unit = -math.inf, math.inf, ""
        self.quantiles = False
        self._span = (0.0, 1.0)
        self._dragged = ""
        self._bars: tuple[np.ndarray, np.ndarray] = (np.zeros(0), np.zeros(1))
        self._sorted = np.zeros(0)
        self.setMouseTracking(True)
        self.setMinimumSize(180, 76)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_values(
        self, values: np.ndarray, low: float, high: float, unit: str, beside: np.ndarray | None = None
    ) -> None:
        """Values (samples,) with their limits; `beside` are those of an older run."""
        if values is not self.values or beside is not None:
            self.values = values
            self._sorted = np.sort(values[np.isfinite(values)])
            self.beside = np.zeros(0) if beside is None else np.sort(beside[np.isfinite(beside)])
        self.low, self.high, self.unit = low, high, unit
        if not self._dragged:
            self._fit()
        self.update()

    def _fit(self) -> None:
        whole = np.concatenate([self._sorted[[0, -1]], self.beside[[0, -1]]] if len(self.beside) and len(self._sorted)
                               else [self._sorted[[0, -1]]] if len(self._sorted) else [np.zeros(1)])  # fmt: skip
        begin, end = float(whole.min()), float(whole.max())
        reach = (end - begin) or abs(end) * 1e-3 or 1.0
        for limit in (self.low, self.high):
            if math.isfinite(limit) and begin - AWAY * reach <= limit <= end + AWAY * reach:
                begin, end = min(begin, limit), max(end, limit)
        room = 0.06 * (end - begin) or 0.5 * reach
        self._span = (begin - room, end + room)
        self._bars = np.histogram(self._sorted, BARS, self._span)

    # -- places

    def _frame(self) -> QRectF:
        return QRectF(EDGE, 4, self.width() - 2 * EDGE, self.height() - FOOT - 4)

    def _x(self, value: float) -> float:
        frame, (begin, end) = self._frame(), self._span
        return frame.left() + (value - begin) / (end - begin) * frame.width()

    def _value(self, x: float) -> float:
        frame, (begin, end) = self._frame(), self._span
        return begin + (x - frame.left()) / frame.width() * (end - begin)

    def place_of(self, end: str) -> float:
        """Where a limit's line stands, in pixels; one that is not there, or far away, waits at the edge."""
        value, frame = (self.low if end == "low" else self.high), self._frame()
        if not math.isfinite(value):
            return frame.left() if end == "low" else frame.right()
        return min(max(self._x(value), frame.left()), frame.right())

    # -- dragging

    def _near(self, x: float) -> str:
        away = {end: abs(self.place_of(end) - x) for end in ("low", "high")}
        end = min(away, key=away.__getitem__)
        return end if away[end] <= NEAR else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Takes a limit in hand."""
        self._dragged = self._near(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Moves it; a limit does not pass the other."""
        x = event.position().x()
        if not self._dragged:
            near = self._near(x)
            self.setCursor(Qt.CursorShape.SizeHorCursor if near else Qt.CursorShape.ArrowCursor)
            self.setToolTip("drag the limit: the yields follow" if near else "")
            return
        value = self._value(x)
        value = float(f"{value:.4g}")
        if self._dragged == "low":
            self.low = min(value, self.high)
        else:
            self.high = max(value, self.low)
        self.update()
        self.moved.emit(self.low, self.high)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Lets it go."""
        if self._dragged:
            self._dragged = ""
            self._fit()
            self.update()

    # -- painting

    def paintEvent(self, event: QPaintEvent) -> None:
        """Bars or quantiles, limits above them, values below."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = self._frame()
        self._paint_outside(painter, frame)
        if len(self._sorted):
            if self.quantiles:
                self._paint_quantiles(painter, frame)
            else:
                self._paint_bars(painter, frame)
        painter.setPen(QPen(theme.color("line"), 1))
        painter.drawLine(frame.bottomLeft(), frame.bottomRight())
        self._paint_limits(painter, frame)
        self._paint_axis(painter, frame)

    def _paint_outside(self, painter: QPainter, frame: QRectF) -> None:
        """What fails lies on a wash."""
        left, right = self.place_of("low"), self.place_of("high")
        wash = theme.color("ember_wash", 120)
        if math.isfinite(self.low):
            painter.fillRect(QRectF(frame.left(), frame.top(), left - frame.left(), frame.height()), wash)
        if math.isfinite(self.high):
            painter.fillRect(QRectF(right, frame.top(), frame.right() - right, frame.height()), wash)

    def _paint_bars(self, painter: QPainter, frame: QRectF) -> None:
        counts, edges = self._bars
        most = max(1, counts.max())
        if len(self.beside):
            old, _ = np.histogram(self.beside, BARS, self._span)
            most = max(most, old.max())
        painter.setPen(Qt.PenStyle.NoPen)
        wide = frame.width() / BARS
        for k, count in enumerate(counts.tolist()):
            middle = 0.5 * (edges[k] + edges[k + 1])
            fails = not self.low <= middle <= self.high
            high = frame.height() * 0.94 * count / most
            box = QRectF(frame.left() + k * wide, frame.bottom() - high, wide - 0.8, high)
            painter.setBrush(theme.color("ember" if fails else "teal", 255 if fails else 170))
            painter.drawRect(box)
        if len(self.beside):
            self._paint_steps(painter, frame, old / most)

    def _paint_steps(self, painter: QPainter, frame: QRectF, heights: np.ndarray) -> None:
        """The older run as an outline."""
        wide = frame.width() / BARS
        points = []
        for k, share in enumerate(heights.tolist()):
            y = frame.bottom() - 0.94 * frame.height() * share
            points += [QPointF(frame.left() + k * wide, y), QPointF(frame.left() + (k + 1) * wide, y)]
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.color("ink"), 1.2, Qt.PenStyle.DotLine))
        painter.drawPolyline(QPolygonF(points))

    def _paint_quantiles(self, painter: QPainter, frame: QRectF) -> None:
        """Each value against the normal law's: a normal reading is a straight line."""
        from scipy.special import ndtri

        count = len(self._sorted)
        reach = float(max(3.2, -ndtri(0.5 / count)))

        def y(sigma: float) -> float:
            return frame.center().y() - sigma / reach * frame.height() / 2

        painter.setFont(figure_font(9))
        for sigma in TAILS:
            painter.setPen(QPen(theme.color("line"), 0.7))
            painter.drawLine(QPointF(frame.left(), y(sigma)), QPointF(frame.right(), y(sigma)))
        painter.setPen(theme.color("quiet"))
        for sigma in (-2.0, 0.0, 2.0):
            painter.drawText(
                QPointF(frame.left() + 8, y(sigma) - 1), f"{sigma:+g} σ".replace("-", "−").replace("+0", "0")
            )
        which = np.unique(np.concatenate([np.linspace(0, count - 1, POINTS).astype(int), np.arange(min(20, count)),
                                          count - 1 - np.arange(min(20, count))]))  # fmt: skip
        sigmas = ndtri((which + 0.5) / count)
        painter.setPen(Qt.PenStyle.NoPen)
        for k, sigma in zip(which.tolist(), sigmas.tolist(), strict=True):
            value = self._sorted[k]
            fails = not self.low <= value <= self.high
            painter.setBrush(theme.color("ember" if fails else "teal"))
            place, size = QPointF(self._x(value), y(sigma)), 2.0
            if fails:
                painter.drawPolygon(
                    QPolygonF([place + QPointF(0, -2.6), place + QPointF(2.6, 2.2), place + QPointF(-2.6, 2.2)])
                )
            else:
                painter.drawEllipse(place, size, size)

    def _paint_limits(self, painter: QPainter, frame: QRectF) -> None:
        for end in ("low", "high"):
            there = math.isfinite(self.low if end == "low" else self.high)
            x = self.place_of(end)
            pen = QPen(theme.color("ember_ink" if there else "ash"), 2.0 if there else 1.0)
            if not there:
                pen.setStyle(Qt.PenStyle.DotLine)
            painter.setPen(pen)
            painter.drawLine(QPointF(x, frame.top()), QPointF(x, frame.bottom()))
            painter.setBrush(theme.color("ember" if there else "ash"))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawRoundedRect(QRectF(x - 3, frame.center().y() - 8, 6, 16), 2, 2)

    def _paint_axis(self, painter: QPainter, frame: QRectF) -> None:
        """The ends of what is shown, and the limits where there is room."""
        painter.setFont(figure_font(10))
        room, base = painter.fontMetrics(), self.height() - 4
        taken: list[tuple[float, float]] = []

        def word(text: str, x: float, role: str) -> None:
            wide = room.horizontalAdvance(text)
            left = min(max(x - wide / 2, 1.0), self.width() - wide - 1.0)
            if any(left < end + 6 and left + wide > begin - 6 for begin, end in taken):
                return
            taken.append((left, left + wide))
            painter.setPen(theme.color(role))
            painter.drawText(QPointF(left, base), text)

        for end, value in (("low", self.low), ("high", self.high)):
            if math.isfinite(value):
                outside = not self._span[0] <= value <= self._span[1]
                text = write(value, self.unit, 4)
                word(f"◂ {text}" if outside and end == "low" else f"{text} ▸" if outside else text,
                     self.place_of(end), "ember_ink")  # fmt: skip
        for value in self._span:
            word(write(float(f"{value:.3g}"), self.unit, 3), self._x(value), "quiet")
