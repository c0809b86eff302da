"""Small multiples: the same curve in a small picture for each pair of conditions, the third laid over each other, all on one
scale; what fails is washed."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hearthline.app.charts.curves import Trace
from hearthline.app.charts.family import axes_of, group_text
from hearthline.app.charts.strip import curve_pen
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.thinning import thinned

SIDE, HEAD, ROW = 52, 18, 42
MOST_ROWS = 8
POINTS = 160


class Multiples(QWidget):
    """`chosen(lane)` on a click: the lane of the picture that is nearest to the middle of what is laid over."""

    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.dataset: Dataset | None = None
        self.trace: Trace | None = None
        self.bad: np.ndarray = np.zeros(0, bool)
        self.lane = -1
        self.setAccessibleName("small multiples")

    def show_trace(self, dataset: Dataset | None, trace: Trace | None, bad: np.ndarray) -> None:
        """The curves of a watch; `bad` (lanes,) says which conditions fail."""
        self.dataset, self.trace, self.bad = dataset, trace, bad
        self._lay_out()
        self.update()

    def choose(self, lane: int) -> None:
        """Frames the picture of a lane."""
        self.lane = lane
        self.update()

    def _lay_out(self) -> None:
        axes = axes_of(self.dataset) if self.dataset is not None else []
        self.down = next((a for a in ("corner", *axes) if a in axes), "")
        rest = [a for a in axes if a != self.down]
        self.across = next((a for a in ("temperature", *rest) if a in rest), "")
        self.over = next((a for a in rest if a != self.across), "")
        data = self.dataset
        self.rows = list(dict.fromkeys(data.conditions[self.down].tolist())) if self.down else [""]
        self.columns = list(dict.fromkeys(data.conditions[self.across].tolist())) if self.across else [""]
        self.setMinimumHeight(HEAD + ROW * min(len(self.rows), MOST_ROWS) + 4 if data is not None else 0)

    def _lanes(self, row: object, column: object) -> list[int]:
        data, keep = self.dataset, np.ones(self.dataset.lanes, bool)
        if self.down:
            keep &= data.conditions[self.down] == row
        if self.across:
            keep &= data.conditions[self.across] == column
        return np.flatnonzero(keep).tolist()

    def _box(self, r: int, c: int) -> QRectF:
        width = (self.width() - SIDE - 12) / max(1, len(self.columns))
        height = (self.height() - HEAD - 2) / max(1, len(self.rows))
        return QRectF(SIDE + c * width, HEAD + r * height, width - 4, height - 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Heads, then the pictures."""
        if self.dataset is None or self.trace is None or not np.isfinite(self.trace.y).any():
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(text_font(11))
        painter.setPen(theme.color("quiet"))
        units = self.dataset.units
        for r, row in enumerate(self.rows):
            box = self._box(r, 0)
            text = group_text(self.down, row, units.get(self.down, "")) if self.down else ""
            painter.drawText(QRectF(12, box.top(), SIDE - 16, box.height()), Qt.AlignmentFlag.AlignVCenter, text)
        for c, column in enumerate(self.columns):
            box = self._box(0, c)
            text = group_text(self.across, column, units.get(self.across, "")) if self.across else ""
            painter.drawText(QRectF(box.left(), 0, box.width(), HEAD), Qt.AlignmentFlag.AlignCenter, text)
        finite = self.trace.y[np.isfinite(self.trace.y)]
        low, high = float(finite.min()), float(finite.max())
        for r, row in enumerate(self.rows):
            for c, column in enumerate(self.columns):
                self._paint(painter, self._box(r, c), self._lanes(row, column), low, high)

    def _paint(self, painter: QPainter, box: QRectF, lanes: list[int], low: float, high: float) -> None:
        failing = any(self.bad[lane] for lane in lanes if lane < len(self.bad))
        chosen = self.lane in lanes
        painter.setPen(QPen(theme.color("teal" if chosen else "ember" if failing else "line"), 2 if chosen else 1))
        painter.setBrush(theme.color("ember_wash" if failing else "paper"))
        painter.drawRoundedRect(box, 3, 3)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        inner = box.adjusted(3, 3, -3, -3)
        for k, lane in enumerate(lanes):
            if lane < self.trace.lanes:
                painter.setPen(curve_pen(k, 1.6 if lane == self.lane else 1.1, 255))
                painter.drawPolyline(self._polygon(lane, inner, low, high))

    def _polygon(self, lane: int, box: QRectF, low: float, high: float) -> QPolygonF:
        x, y = self.trace.row(lane)
        keep = np.isfinite(x) & np.isfinite(y)
        x, y = x[keep], y[keep]
        if self.trace.rises and len(x) > POINTS:
            x, y = thinned(x, y, POINTS)
        if not len(x):
            return QPolygonF()
        if self.trace.axis == "frequency":
            x = np.log10(x)
        span_x, span_y = (x.max() - x.min()) or 1.0, (high - low) or 1.0
        across = box.left() + (x - x.min()) / span_x * box.width()
        up = box.bottom() - (y - low) / span_y * box.height()
        return QPolygonF([QPointF(a, b) for a, b in zip(across.tolist(), up.tolist(), strict=True)])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Chooses a condition."""
        if self.dataset is None:
            return
        for r, row in enumerate(self.rows):
            for c, column in enumerate(self.columns):
                lanes = self._lanes(row, column)
                if lanes and self._box(r, c).contains(event.position()):
                    self.chosen.emit(lanes[len(lanes) // 2])
                    return
