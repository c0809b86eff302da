"""The lines behind complex curves: of constant resistance and reactance, conductance and susceptance, size and angle."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPen

from hearthline.app.theme.theme import theme
from hearthline.core.data.plane import ADMITTANCE, BOTH, POLAR, SMITH

FAINT, PLAIN = 0.5, 1.0
RESISTANCES = (0.2, 0.5, 1.0, 2.0, 5.0)
"""In units of the chart's reference."""
SIZES = (0.25, 0.5, 0.75, 1.0)
ANGLES = 12
EDGE = 1.0


class PlaneGrid(pg.GraphicsObject):
    """Drawn under everything; `reach` is how far a polar chart goes."""

    def __init__(self) -> None:
        super().__init__()
        self.plane, self.reach = SMITH, 1.0
        self.setZValue(-20)

    def show_plane(self, plane: str, reach: float = 1.0) -> None:
        """Another chart."""
        self.prepareGeometryChange()
        self.plane, self.reach = plane, reach
        self.update()

    def boundingRect(self) -> QRectF:
        """The whole chart."""
        size = 1.02 * max(self.reach, 1.0)
        return QRectF(-size, -size, 2 * size, 2 * size)

    def paint(self, painter: QPainter, *_: object) -> None:
        """Lines of a pixel, whatever the zoom."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strong, faint = self._pen("ash", 1.4), self._pen("line", 1.0)
        if self.plane == POLAR:
            self._polar(painter, strong, faint)
            return
        circle = QRectF(-EDGE, -EDGE, 2 * EDGE, 2 * EDGE)
        clip = QPainterPath()
        clip.addEllipse(circle)
        painter.save()
        painter.setClipPath(clip)
        if self.plane in (SMITH, BOTH):
            self._lines(painter, faint, 1.0)
        if self.plane in (ADMITTANCE, BOTH):
            dotted = self._pen("ash" if self.plane == BOTH else "line", 1.0)
            if self.plane == BOTH:
                dotted.setStyle(Qt.PenStyle.DotLine)
            self._lines(painter, dotted, -1.0)
        painter.restore()
        painter.setPen(strong)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(circle)
        painter.drawLine(QPointF(-EDGE, 0), QPointF(EDGE, 0))

    def _pen(self, role: str, width: float) -> QPen:
        pen = QPen(theme.color(role), width)
        pen.setCosmetic(True)
        return pen

    def _lines(self, painter: QPainter, pen: QPen, side: float) -> None:
        """Circles of a constant real part and of a constant imaginary part; `side` -1 mirrors them to admittances."""
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for r in RESISTANCES:
            radius = 1.0 / (1.0 + r)
            painter.drawEllipse(QPointF(side * r / (1.0 + r), 0.0), radius, radius)
            for sign in (1.0, -1.0):
                painter.drawEllipse(QPointF(side, sign / r), 1.0 / r, 1.0 / r)

    def _polar(self, painter: QPainter, strong: QPen, faint: QPen) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for share in SIZES:
            painter.setPen(faint)
            painter.drawEllipse(QPointF(0, 0), share * self.reach, share * self.reach)
        for k in range(ANGLES):
            turn = 2 * np.pi * k / ANGLES
            painter.drawLine(QPointF(0, 0), QPointF(self.reach * np.cos(turn), self.reach * np.sin(turn)))
        painter.setPen(strong)
        painter.drawEllipse(QPointF(0, 0), 1.0, 1.0)

    def words(self) -> Iterator[tuple[float, float, str]]:
        """What is written beside the lines: a place and a text."""
        if self.plane == POLAR:
            for share in SIZES:
                yield share * self.reach, 0.0, f"{share * self.reach:.3g}"
            return
        side = -1.0 if self.plane == ADMITTANCE else 1.0
        for r in RESISTANCES:
            yield side * (r - 1.0) / (r + 1.0), 0.0, f"{50 * r:.3g}" if side > 0 else f"{20 * r:.3g}m"
            turn = 2 * np.arctan2(1.0, r)
            for sign in (1.0, -1.0):
                value = (
                    f"{'+' if sign > 0 else '-'}j{50 * r:.3g}"
                    if side > 0
                    else f"{'-' if sign > 0 else '+'}j{20 * r:.3g}m"
                )
                yield side * np.cos(turn), sign * np.sin(turn), value
