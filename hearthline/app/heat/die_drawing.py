"""The die drawn: warmer is redder and darker, isotherms with their numbers, fingers as outlines, the hottest spot marked."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.quantity import write
from hearthline.core.thermal.die import PlanError
from hearthline.core.thermal.picture import Picture

MARGIN = 26.0
FAR, CLOSE = 4, 6
"""Pixels from which on a finger is dragged, and within which it stays on the line of another row."""
CUT = 46.0
"""Pixels of the whole rise in a cut."""


@dataclass(frozen=True)
class _Held:
    """A row of fingers in hand: its number, where it was taken, and the middle that it is dragged to [m]."""

    source: int
    begin: QPointF
    to: tuple[float, float] | None = None


class DieDrawing(QWidget):
    """Shows a picture to scale; `picked` tells the part of a finger that was clicked, `moved` where the middle of a row was
    dragged to [m]."""

    picked = pyqtSignal(str)
    moved = pyqtSignal(str, float, float)

    def __init__(self) -> None:
        super().__init__()
        self.picture: Picture | None = None
        self.scale: tuple[float, float] | None = None
        self._selected = ""
        self._held: _Held | None = None
        self._rest: Picture | None = None
        self._cut: QPointF | None = None
        self._image: QImage | None = None
        self._taken: list[QRectF] = []
        self.setMinimumSize(220, 180)
        self.setAccessibleName("die")
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setMouseTracking(True)
        theme.changed.connect(self._repaint)

    def show_picture(self, picture: Picture | None, scale: tuple[float, float] | None = None) -> None:
        """Another one, or none; between two temperatures [°C] that are paper and ember, or its own."""
        self.picture, self.scale, self._rest = picture, scale, None
        self._repaint()

    def take_back(self) -> None:
        """The row that was dragged is where it was."""
        if self._rest is not None:
            self.show_picture(self._rest, self.scale)

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
        """Picks the part of a finger, and takes its row in hand."""
        if self.picture is None or event.button() != Qt.MouseButton.LeftButton:
            return
        plan = self.picture.plan
        for owner, box in zip(plan.owners, plan.boxes, strict=True):
            if self._box(box).adjusted(-2, -2, 2, 2).contains(event.position()):
                self._held = _Held(int(owner), event.position())
                self.picked.emit(plan.parts[int(owner)])
                return

    def mouseMoveEvent(self, event) -> None:
        """Drags the row; near the middle of another one it stays on its line. With nothing in hand the die is cut there."""
        held = self._held
        if self.picture is None:
            return
        if held is None:
            self._cut = event.position() if self.frame().contains(event.position()) else None
            self.update()
            return
        way = event.position() - held.begin
        if held.to is None and abs(way.x()) + abs(way.y()) < FAR:
            return
        scale = self.picture.plan.die.length / self.frame().width()
        self._rest = rest = self._rest or self.picture
        middle = rest.plan.sources[held.source].middle
        x = self._snapped(held.source, 0, middle[0] + way.x() * scale, scale)
        y = self._snapped(held.source, 1, middle[1] - way.y() * scale, scale)
        self._held = replace(held, to=(x, y))
        if not rest.plan.vias:  # which take longer than a frame
            try:
                self.picture = rest.moved(held.source, (x, y))
            except PlanError:
                self.picture = rest  # what is wrong is said when it is put down
        self._repaint()

    def leaveEvent(self, event) -> None:
        """Nothing is cut."""
        self._cut = None
        self.update()

    def mouseReleaseEvent(self, event) -> None:
        """Puts it down."""
        held, self._held = self._held, None
        if held is not None and held.to is not None and self.picture is not None:
            self.moved.emit(self.picture.plan.parts[held.source], *held.to)
        self.update()

    def keyPressEvent(self, event) -> None:
        """Escape lets it go where it was."""
        if event.key() == Qt.Key.Key_Escape and self._held is not None:
            self._held = None
            self.take_back()
            self.update()
        else:
            super().keyPressEvent(event)

    def _snapped(self, source: int, axis: int, place: float, scale: float) -> float:
        assert self.picture is not None
        sources = self.picture.plan.sources
        near = [one.middle[axis] for k, one in enumerate(sources) if k != source]
        line = min(near, key=lambda other: abs(other - place), default=None)
        if line is not None and abs(line - place) < CLOSE * scale:
            return line
        step = 10.0 ** np.floor(np.log10(max(3.0 * scale, 1e-9)))
        return float(f"{step * round(place / step):.6g}")

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
        self._paint_vias(painter)
        self._paint_fingers(painter)
        self._paint_peak(painter)
        self._paint_isotherms(painter)
        self._paint_sizes(painter)
        self._paint_held(painter)
        self._paint_cut(painter)

    def _paint_vias(self, painter: QPainter) -> None:
        """With a cross, which fingers have not."""
        assert self.picture is not None
        painter.setPen(QPen(theme.color("ink"), 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for box in self.picture.plan.columns:
            shape = self._box(box)
            painter.drawRect(shape)
            painter.drawLine(shape.topLeft(), shape.bottomRight())
            painter.drawLine(shape.topRight(), shape.bottomLeft())

    def _paint_cut(self, painter: QPainter) -> None:
        """The temperature along both axes through the pointer, and there."""
        picture, at = self.picture, self._cut
        if picture is None or at is None or self._held is not None:
            return
        frame, die = self.frame(), picture.plan.die
        x = (at.x() - frame.left()) / frame.width() * die.length
        y = (frame.bottom() - at.y()) / frame.height() * die.width
        low, high = float(picture.celsius.min()), float(picture.celsius.max())
        scale = CUT / max(high - low, 1e-9)
        here = picture.at(x, y)
        painter.setPen(QPen(theme.color("teal"), 0.8, Qt.PenStyle.DotLine))
        painter.drawLine(QPointF(frame.left(), at.y()), QPointF(frame.right(), at.y()))
        painter.drawLine(QPointF(at.x(), frame.top()), QPointF(at.x(), frame.bottom()))
        painter.setPen(QPen(theme.color("teal"), 1.6))
        along = [self.place(one, 0.0).x() for one in picture.x]
        rises = [picture.at(float(one), y) - low for one in picture.x]
        painter.drawPolyline(
            QPolygonF([QPointF(px, frame.bottom() - scale * t) for px, t in zip(along, rises, strict=True)])
        )
        beside = [self.place(0.0, float(one)).y() for one in picture.y]
        rises = [picture.at(x, float(one)) - low for one in picture.y]
        painter.drawPolyline(
            QPolygonF([QPointF(frame.left() + scale * t, py) for py, t in zip(beside, rises, strict=True)])
        )
        painter.setFont(figure_font(11))
        self._taken = []
        self._paint_word(painter, QPointF(at.x() + 44, at.y() - 12), f"{here:.1f} °C")

    def _paint_held(self, painter: QPainter) -> None:
        held, picture = self._held, self.picture
        if held is None or held.to is None or picture is None:
            return
        plan, (x, y) = picture.plan, held.to
        own = plan.sources[held.source]
        painter.setPen(QPen(theme.color("teal"), 1.4, Qt.PenStyle.DashLine))
        for box in replace(own, middle=held.to).boxes:
            painter.drawRect(self._box(box))
        painter.setPen(QPen(theme.color("teal"), 0.8, Qt.PenStyle.DotLine))
        frame, at = self.frame(), self.place(x, y)
        for k, other in enumerate(plan.sources):
            if k != held.source and other.middle[0] == x:
                painter.drawLine(QPointF(at.x(), frame.top()), QPointF(at.x(), frame.bottom()))
            if k != held.source and other.middle[1] == y:
                painter.drawLine(QPointF(frame.left(), at.y()), QPointF(frame.right(), at.y()))
        painter.setFont(figure_font(11))
        self._taken = []
        self._paint_word(painter, QPointF(at.x(), at.y() - 22), f"{write(x, 'm', 4)}, {write(y, 'm', 4)}")

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
