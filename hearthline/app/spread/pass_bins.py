"""The share of samples that passes in each range of a part's value, with its interval and its count."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from hearthline.app.theme.fonts import figure_font
from hearthline.app.theme.theme import theme
from hearthline.core.quantity import write
from hearthline.core.spread.ranking import Bin

FOOT, HEAD = 15, 6


class PassBins(QWidget):
    """One variable."""

    def __init__(self) -> None:
        super().__init__()
        self.bins: Sequence[Bin] = ()
        self.unit, self.mean, self.guilty = "", 1.0, False
        self.setMinimumSize(200, 64)

    def show_bins(self, bins: Sequence[Bin], unit: str, mean: float, guilty: bool) -> None:
        """Ranges in their order; `mean` is the share of all samples."""
        self.bins, self.unit, self.mean, self.guilty = bins, unit, mean, guilty
        lines = [f"{write(b.begin, unit, 4)} to {write(b.end, unit, 4)}: {b.passed} of {b.count} pass" for b in bins]
        self.setToolTip("\n".join(lines))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """A bar with its interval for each range; the line is the share of all."""
        if not self.bins:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(4, HEAD, self.width() - 8, self.height() - HEAD - FOOT)
        least = min(b.low for b in self.bins)
        bottom = max(0.0, min(0.9, least - 0.1)) if least > 0.5 else 0.0

        def y(share: float) -> float:
            return frame.bottom() - (share - bottom) / (1.0 - bottom) * frame.height()

        wide = frame.width() / len(self.bins)
        for k, one in enumerate(self.bins):
            left = frame.left() + k * wide
            fails = one.high < self.mean
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.color("ember" if fails and self.guilty else "teal" if self.guilty else "ash", 190))
            painter.drawRect(QRectF(left + 1, y(one.share), wide - 2, frame.bottom() - y(one.share)))
            painter.setPen(QPen(theme.color("ink"), 1.2))
            middle = left + wide / 2
            painter.drawLine(QPointF(middle, y(one.low)), QPointF(middle, y(one.high)))
        painter.setPen(QPen(theme.color("ink"), 1, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(frame.left(), y(self.mean)), QPointF(frame.right(), y(self.mean)))
        painter.setFont(figure_font(9))
        painter.setPen(theme.color("quiet"))
        begin, end = write(self.bins[0].begin, self.unit, 3), write(self.bins[-1].end, self.unit, 3)
        base, room = self.height() - 3, painter.fontMetrics()
        painter.drawText(QPointF(4, base), begin)
        painter.drawText(QPointF(self.width() - 4 - room.horizontalAdvance(end), base), end)
        scale = f"bars from {100 * bottom:.0f} %" if bottom else ""
        painter.drawText(QPointF((self.width() - room.horizontalAdvance(scale)) / 2, base), scale)
