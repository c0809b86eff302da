"""Many faint curves as one still picture: it costs nothing while circles and rings move over it."""

from __future__ import annotations

from collections.abc import Iterable

import pyqtgraph as pg
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPainterPath, QPen
from PyQt6.QtWidgets import QGraphicsItem


class StillCurves(pg.GraphicsObject):
    """Paths in the view's coordinates, each with its pen; painted anew where the view or the curves change."""

    def __init__(self) -> None:
        super().__init__()
        self.curves: list[tuple[QPainterPath, QPen]] = []
        self._area = QRectF()
        self.setCacheMode(QGraphicsItem.CacheMode.DeviceCoordinateCache)

    def show_curves(self, curves: Iterable[tuple[QPainterPath, QPen]]) -> None:
        """Takes the place of what was shown."""
        self.prepareGeometryChange()
        self.curves = list(curves)
        self._area = QRectF()
        for path, _ in self.curves:
            self._area |= path.controlPointRect()
        self.update()

    def boundingRect(self) -> QRectF:
        """Of all curves, with room for the width of a line."""
        edge = 0.01 * max(self._area.width(), self._area.height())
        return self._area.adjusted(-edge, -edge, edge, edge)

    def paint(self, painter: QPainter, *_: object) -> None:
        """All of them."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for path, pen in self.curves:
            painter.setPen(pen)
            painter.drawPath(path)
