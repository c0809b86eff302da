"""The circuit as a picture a little larger than the window, so that panning and zooming are a matter of one copy."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QPainter, QPixmap

from hearthline.app.canvas.brush import View

MARGIN = 0.35
"""How far the picture reaches beyond each side of the window, as a share of it."""


class Backing:
    """Keeps one picture for a key; another key, scale or a place beyond the margin makes it anew."""

    def __init__(self) -> None:
        self._picture: QPixmap | None = None
        self._key: object = None
        self._view: View | None = None
        self._margin = (0, 0)

    def draw(
        self,
        painter: QPainter,
        view: View,
        key: object,
        render: Callable[[QPainter, View], None],
        paper: QColor,
        rough: bool,
    ) -> None:
        """Copies the picture to its place. With `rough` a picture of another scale is stretched instead of made anew."""
        device = painter.device()
        width, height, ratio = device.width(), device.height(), device.devicePixelRatioF()
        fits = self._picture is not None and self._key == (key, width, height, ratio)
        if fits and self._view.scale == view.scale and self._covers(view, width, height):
            x, y = view.x - self._view.x - self._margin[0], view.y - self._view.y - self._margin[1]
            painter.drawPixmap(QPointF(x, y), self._picture)
            return
        if fits and rough:
            painter.fillRect(0, 0, width, height, paper)
            painter.drawPixmap(self._stretched(view), self._picture, QRectF(self._picture.rect()))
            return
        self._render(view, (key, width, height, ratio), render, paper)
        painter.drawPixmap(QPointF(-self._margin[0], -self._margin[1]), self._picture)

    def _covers(self, view: View, width: int, height: int) -> bool:
        dx, dy = view.x - self._view.x, view.y - self._view.y
        whole = float(dx).is_integer() and float(dy).is_integer()
        return whole and abs(dx) <= self._margin[0] and abs(dy) <= self._margin[1]

    def _stretched(self, view: View) -> QRectF:
        """Where the old picture lies in a view of another scale."""
        corner = self._view.to_grid(QPointF(-self._margin[0], -self._margin[1]))
        place = view.to_screen(*corner)
        share = view.scale / self._view.scale / self._picture.devicePixelRatioF()
        return QRectF(place.x(), place.y(), self._picture.width() * share, self._picture.height() * share)

    def _render(self, view: View, key: tuple, render: Callable[[QPainter, View], None], paper: QColor) -> None:
        _, width, height, ratio = key
        self._margin = (round(width * MARGIN), round(height * MARGIN))
        wide, tall = width + 2 * self._margin[0], height + 2 * self._margin[1]
        self._picture = QPixmap(round(wide * ratio), round(tall * ratio))
        self._picture.setDevicePixelRatio(ratio)
        self._picture.fill(paper)
        painter = QPainter(self._picture)
        render(painter, View(view.scale, view.x + self._margin[0], view.y + self._margin[1]))
        painter.end()
        self._key, self._view = key, view
