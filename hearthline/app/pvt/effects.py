"""Which condition moves a reading: for each axis the mean at each of its levels, on one scale."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hearthline.app.charts.family import group_text
from hearthline.app.charts.strip import curve_color, curve_pen
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.effects import Effect
from hearthline.core.quantity import write

HEAD, FOOT, LEFT = 34, 18, 12


class EffectsPlot(QWidget):
    """Panels side by side, the strongest axis first."""

    def __init__(self) -> None:
        super().__init__()
        self.effects: list[Effect] = []
        self.unit = ""
        self.units: dict[str, str] = {}
        self.setMinimumHeight(120)
        self.setAccessibleName("main effects")

    def show_effects(self, effects: list[Effect], unit: str, units: dict[str, str]) -> None:
        """`unit` is that of the reading, `units` those of the axes."""
        self.effects, self.unit, self.units = effects, unit, units
        self.setToolTip("\n".join(self.words()))
        self.update()

    def words(self) -> list[str]:
        """Each axis in a sentence."""
        return [
            f"{one.axis} moves it by {write(one.spread, self.unit, 3)} ({100 * one.share:.3g} % of what all axes do)"
            for one in self.effects
        ]

    def paintEvent(self, event: QPaintEvent) -> None:
        """One panel for each axis, all with the same height of scale."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        means = [mean for one in self.effects for mean in one.means if np.isfinite(mean)]
        if not means:
            painter.setFont(text_font(12))
            painter.setPen(theme.color("quiet"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "no axis takes more than one value")
            return
        low, high = min(means), max(means)
        width = (self.width() - 2 * LEFT) / len(self.effects)
        for k, one in enumerate(self.effects):
            self._paint(painter, QRectF(LEFT + k * width, 0, width - 10, self.height()), one, k, low, high)

    def _paint(self, painter: QPainter, box: QRectF, one: Effect, k: int, low: float, high: float) -> None:
        painter.setFont(text_font(12, bold=True))
        painter.setPen(theme.color("ink"))
        painter.drawText(QRectF(box.left(), 2, box.width(), 16), 0, one.axis)
        painter.setFont(figure_font(11))
        painter.setPen(theme.color("quiet"))
        painter.drawText(
            QRectF(box.left(), 17, box.width(), 16), 0, f"{write(one.spread, self.unit, 3)}  {100 * one.share:.3g} %"
        )
        painter.setPen(QPen(theme.color("line"), 1))
        inner = QRectF(box.left() + 4, HEAD + 4, box.width() - 8, box.height() - HEAD - FOOT - 8)
        painter.drawRoundedRect(inner.adjusted(-4, -4, 4, 4), 4, 4)
        scale = (high - low) or 1.0
        step = inner.width() / max(1, len(one.levels))
        places = [
            QPointF(inner.left() + (j + 0.5) * step, inner.bottom() - (mean - low) / scale * inner.height())
            for j, mean in enumerate(one.means)
            if np.isfinite(mean)
        ]
        painter.setPen(curve_pen(k, 1.8, 255))
        if len(places) > 1:
            painter.drawPolyline(QPolygonF(places))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(curve_color(k))
        for place in places:
            painter.drawEllipse(place, 3.2, 3.2)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(theme.color("quiet"))
        painter.setFont(text_font(10))
        for j, level in enumerate(one.levels):
            text = group_text(one.axis, level, self.units.get(one.axis, ""))
            room = QRectF(inner.left() + j * step - 6, inner.bottom() + 5, step + 12, FOOT)
            painter.drawText(room, Qt.AlignmentFlag.AlignHCenter, text)
