"""Conditions as rows: the yield at each, what fails there most, and a strip of the failing samples, marked where they fail."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPoint, QRect, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hearthline.app.state.judging import percent
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.by_condition import AtConditions

ROW, HEAD = 20, 18
LABEL, BAR, FIGURE, COST = 120, 58, 66, 110
WIDEST = 9
"""Pixels of a sample."""


class ConditionRows(QWidget):
    """`chosen(sample)` by a click on the strip."""

    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.found: AtConditions | None = None
        self.order: Sequence[int] = ()
        self.names: Sequence[str] = ()
        self.shown = -1
        self.setMouseTracking(True)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def show_conditions(self, found: AtConditions, names: Sequence[str], shown: int) -> None:
        """The worst first; `names` of all conditions in their own order, and the sample that is on the desk."""
        self.found, self.names, self.shown = found, names, shown
        self.order = sorted(range(found.count), key=lambda k: found.yields[k].share)
        self.setFixedHeight(HEAD + ROW * found.count + 4)
        self._image = self._strip()
        self.update()

    def _strip(self) -> QImage:
        """A pixel for each failing sample and condition."""
        fails = ~self.found.passing[self.found.failing][:, self.order].T
        colors = np.where(fails, theme.color("ember").rgba(), theme.color("raised").rgba()).astype(np.uint32)
        self._pixels = np.ascontiguousarray(colors)
        height, width = colors.shape
        return QImage(self._pixels.data, max(width, 1), height, 4 * max(width, 1), QImage.Format.Format_ARGB32)

    @property
    def strip(self) -> QRect:
        """Where the samples stand."""
        left = LABEL + BAR + FIGURE + COST
        count = len(self.found.failing) if self.found is not None else 0
        width = min(self.width() - left - 6, WIDEST * count)
        return QRect(left, HEAD, max(0, width), ROW * (self.found.count if self.found is not None else 0))

    def sample_at(self, place: QPoint) -> int:
        """The sample under a place, or -1."""
        strip = self.strip
        if self.found is None or not strip.contains(place) or not strip.width():
            return -1
        count = len(self.found.failing)
        return int(self.found.failing[min(count - 1, (place.x() - strip.left()) * count // strip.width())])

    def condition_at(self, place: QPoint) -> int:
        """The condition under a place, or -1."""
        row = (place.y() - HEAD) // ROW
        return self.order[row] if 0 <= row < len(self.order) else -1

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A sample on the whole desk."""
        sample = self.sample_at(event.position().toPoint())
        if sample >= 0:
            self.chosen.emit(sample)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Says which sample fails what there."""
        place = event.position().toPoint()
        sample, condition = self.sample_at(place), self.condition_at(place)
        if sample < 0 or condition < 0:
            self.setToolTip("")
            self.unsetCursor()
            return
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        failed = [name for name, table in self.found.by_reading.items() if not table[sample, condition]]
        words = f"fails {', '.join(failed)}" if failed else "passes"
        self.setToolTip(f"sample {sample + 1} at {self.names[condition]}: {words}")

    def paintEvent(self, event: QPaintEvent) -> None:
        """Rows, then the strip."""
        if self.found is None:
            return
        painter = QPainter(self)
        self._paint_head(painter)
        for row, condition in enumerate(self.order):
            self._paint_row(painter, HEAD + row * ROW, condition)
        strip = self.strip
        if strip.width():
            painter.drawImage(strip, self._image)
            painter.setPen(QPen(theme.color("paper"), 1))
            for row in range(1, len(self.order)):
                painter.drawLine(strip.left(), strip.top() + row * ROW, strip.right(), strip.top() + row * ROW)
            self._paint_shown(painter, strip)

    def _paint_head(self, painter: QPainter) -> None:
        painter.setFont(text_font(10))
        painter.setPen(theme.color("quiet"))
        count = len(self.found.failing)
        words = "no sample fails" if not count else f"the {count} failing samples, those that fail at most first"
        for left, text in ((0, "condition"), (LABEL, "yield"), (LABEL + BAR + FIGURE, "fails most"),
                           (self.strip.left(), words)):  # fmt: skip
            painter.drawText(QPoint(left, HEAD - 5), text)

    def _paint_row(self, painter: QPainter, top: int, condition: int) -> None:
        share = self.found.yields[condition]
        worst = condition == self.order[0] and share.share < 1.0
        painter.setFont(figure_font(11))
        painter.setPen(theme.color("ink"))
        _text(painter, QRect(0, top, LABEL - 6, ROW), self.names[condition])
        bar = QRectF(LABEL, top + 6, BAR - 6, ROW - 12)
        painter.fillRect(bar, theme.color("raised"))
        role = "ember" if worst else "teal"
        painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * share.share, bar.height()), theme.color(role))
        painter.setPen(theme.color("ember_ink" if worst else "ink"))
        _text(painter, QRect(LABEL + BAR, top, FIGURE, ROW), f"{percent(share.share)} %")
        cost = self.found.costs(condition)
        if cost is not None:
            painter.setPen(theme.color("quiet"))
            painter.setFont(text_font(11))
            _text(painter, QRect(LABEL + BAR + FIGURE, top, COST - 6, ROW), cost[0])

    def _paint_shown(self, painter: QPainter, strip: QRect) -> None:
        """A frame about the sample on the desk."""
        places = np.flatnonzero(self.found.failing == self.shown)
        if len(places):
            each = strip.width() / len(self.found.failing)
            painter.setPen(QPen(QColor(theme.color("ink")), 1.5))
            painter.drawRect(QRectF(strip.left() + places[0] * each, strip.top(), max(each, 2.0), strip.height()))


def _text(painter: QPainter, room: QRect, text: str) -> None:
    """In one line, cut with a sign where it is too long."""
    shown = painter.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, room.width())
    painter.drawText(room, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, shown)
