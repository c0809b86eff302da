"""Something of two dimensions to scale in a rectangle of the screen."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF


class Scale:
    """Fits a box (from `low` to `high`, [m]) into a room, upwards; `bottom` puts its lower side onto that of the room."""

    def __init__(self, room: QRectF, low: tuple[float, float], high: tuple[float, float], bottom: bool = False) -> None:
        width, height = (max(b - a, 1e-12) for a, b in zip(low, high, strict=True))
        self.factor = min(room.width() / width, room.height() / height)
        self._middle = [0.5 * (a + b) for a, b in zip(low, high, strict=True)]
        self._center = room.center()
        if bottom:
            self._center.setY(room.bottom() - 0.5 * height * self.factor)

    def point(self, x: float, y: float) -> QPointF:
        """Of the screen."""
        dx, dy = (x - self._middle[0]) * self.factor, (y - self._middle[1]) * self.factor
        return QPointF(self._center.x() + dx, self._center.y() - dy)

    def box(self, low: tuple[float, float], high: tuple[float, float]) -> QRectF:
        """Of the screen."""
        return QRectF(self.point(low[0], high[1]), self.point(high[0], low[1]))
