"""The die drawn: warmer is redder and darker, isotherms with their numbers, fingers as outlines, the hottest spot marked."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.quantity import write
from hearthline.core.thermal.picture import Picture

MARGIN = 26.0


class DieDrawing(QWidget):
    """Shows a picture to scale; `picked` tells the part of a finger that was clicked."""

    picked = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.picture: Picture | None = None
        self.scale: tuple[float, float] | None = None
        self._selected = ""
        self._image: QImage | None = None
        self._taken: list[QRectF] = []
        self.setMinimumSize(220, 180)
        self.setAccessibleName("die")
        theme.changed.connect(self._repaint)

    def show_picture(self, picture: Picture | None, scale: tuple[float, float] | None = None) -> None:
        """Another one, or none; between two temperatures [°C] that are paper and ember, or its own."""
        self.picture, self.scale = picture, scale
        self._repaint()

    def select(self, part: str) -> None:
        """The part, by its flat name, whose fingers are lit; a block lights what is in it."""
        if part != self._selected:
            self._selected = part
            self.update()

    def _repaint(self) -> None:
        self._image = _image(self.picture, self.scale) if self.picture is not None else None
        self.update()

    # -- places

    def frame(self) -> QRectF:
        """Where the die lies in the widget."""
        assert self.picture is not None
        die = self.picture.plan.die
        room = QRectF(self.rect()).adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)
        scale = min(room.width() / die.length, room.height() / die.width)
        width, height = scale * die.length, scale * die.width
        return QRectF(room.center().x() - 0.5 * width, room.center().y() - 0.5 * height, width, height)

    def place(self, x: float, y: float) -> QPointF:
        """Of a point of the die [m]; the second axis goes up."""
        assert self.picture is not None
        frame, die = self.frame(), self.picture.plan.die
        return QPointF(frame.left() + x / die.length * frame.width(), frame.bottom() - y / die.width * frame.height())

    def _box(self, box: np.ndarray) -> QRectF:
        x, y, w, h = (float(one) for one in box)
        return QRectF(self.place(x - 0.5 * w, y + 0.5 * h), self.place(x + 0.5 * w, y - 0.5 * h))

    def mousePressEvent(self, event) -> None:
        """Picks the part of a finger."""
        if self.picture is None:
            return
        plan = self.picture.plan
        for owner, box in zip(plan.owners, plan.boxes, strict=True):
            if self._box(box).adjusted(-2, -2, 2, 2).contains(event.position()):
                self.picked.emit(plan.parts[int(owner)])
                return

    # -- painting

    def paintEvent(self, event) -> None:
        """Everything."""
        if self.picture is None or self._image is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(self.frame(), self._image)
        painter.setPen(QPen(theme.color("ink"), 1.2))
        painter.drawRect(self.frame())
        self._taken = []
        self._paint_fingers(painter)
        self._paint_peak(painter)
        self._paint_isotherms(painter)
        self._paint_sizes(painter)

    def _paint_isotherms(self, painter: QPainter) -> None:
        picture = self.picture
        assert picture is not None
        painter.setFont(figure_font(10))
        for level in picture.levels:
            painter.setPen(QPen(theme.color("quiet"), 0.9))
            curves = pg.isocurve(picture.celsius, float(level), connected=True, extendToEdge=True)
            longest = max(curves, key=len, default=None)
            for curve in curves:
                painter.drawPolyline(QPolygonF([self._at(*point) for point in curve]))
            for part in (3, 6, 5, 4, 2) if longest is not None and len(longest) > 8 else ():
                if self._paint_word(painter, self._at(*longest[len(longest) * part // 7]), f"{level:g} °C"):
                    break

    def _at(self, i: float, j: float) -> QPointF:
        picture = self.picture
        assert picture is not None
        x = np.interp(i - 0.5, np.arange(len(picture.x)), picture.x)
        y = np.interp(j - 0.5, np.arange(len(picture.y)), picture.y)
        return self.place(float(x), float(y))

    def _paint_word(self, painter: QPainter, at: QPointF, word: str) -> bool:
        """Where no other word is, and whether that was so."""
        size = painter.fontMetrics().boundingRect(word)
        around = QRectF(
            at.x() - 0.5 * size.width() - 3, at.y() - 0.5 * size.height() - 1, size.width() + 6, size.height() + 2
        )
        if any(around.intersects(one) for one in self._taken):
            return False
        self._taken.append(around)
        ground = QColor(theme.color("paper"))
        ground.setAlpha(215)
        painter.fillRect(around, ground)
        painter.setPen(theme.color("ink"))
        painter.drawText(around, Qt.AlignmentFlag.AlignCenter, word)
        return True

    def _paint_fingers(self, painter: QPainter) -> None:
        picture = self.picture
        assert picture is not None
        plan = picture.plan
        for owner, box in zip(plan.owners, plan.boxes, strict=True):
            part = plan.parts[int(owner)]
            lit = bool(self._selected) and (part == self._selected or part.startswith(f"{self._selected}."))
            painter.setPen(QPen(theme.color("teal" if lit else "ink"), 2.2 if lit else 1.0))
            painter.drawRect(self._box(box))
        painter.setFont(text_font(11, bold=True))
        for k, part in enumerate(plan.parts):
            boxes = plan.boxes[plan.owners == k]
            top = float((boxes[:, 1] + 0.5 * boxes[:, 3]).max())
            at = self.place(float(boxes[:, 0].mean()), top)
            self._paint_word(painter, QPointF(at.x(), at.y() - 11), part)

    def _paint_peak(self, painter: QPainter) -> None:
        picture = self.picture
        assert picture is not None
        hottest = int(np.argmax(picture.peaks))
        x, y = picture.plan.boxes[hottest, :2]
        at = self.place(float(x), float(y))
        painter.setPen(QPen(theme.color("ink"), 1.6))
        painter.drawLine(QPointF(at.x() - 5, at.y()), QPointF(at.x() + 5, at.y()))
        painter.drawLine(QPointF(at.x(), at.y() - 5), QPointF(at.x(), at.y() + 5))
        bottom = self._box(picture.plan.boxes[hottest]).bottom()
        painter.setFont(figure_font(11))
        self._paint_word(painter, QPointF(at.x(), bottom + 12), f"peak {picture.peaks[hottest]:.1f} °C")

    def _paint_sizes(self, painter: QPainter) -> None:
        picture = self.picture
        assert picture is not None
        die, frame = picture.plan.die, self.frame()
        painter.setFont(text_font(10))
        painter.setPen(theme.color("quiet"))
        below = QRectF(frame.left(), frame.bottom() + 4, frame.width(), 18)
        painter.drawText(
            below, Qt.AlignmentFlag.AlignCenter, f"{write(die.length, 'm', 4)} × {write(die.width, 'm', 4)}"
        )


def _image(picture: Picture, scale: tuple[float, float] | None) -> QImage:
    """From paper to ember, even in lightness."""
    low, high = scale or (float(picture.celsius.min()), float(picture.celsius.max()))
    share = np.clip((picture.celsius - low) / max(high - low, 1e-9), 0.0, 1.0)
    ends = [np.array(QColor(theme.color(name)).getRgb()[:3], float) for name in ("paper", "ember")]
    colours = ends[0] + share.T[::-1, :, None] * (ends[1] - ends[0])
    rgb = np.ascontiguousarray(colours.astype(np.uint8))
    image = QImage(rgb.data, rgb.shape[1], rgb.shape[0], 3 * rgb.shape[1], QImage.Format.Format_RGB888)
    return image.copy()
