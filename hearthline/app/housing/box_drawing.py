"""A housing in plan and in elevation, to scale: what lies in it, its ports, and the field of a resonance in both planes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.fields.box import Housing, Thing
from hearthline.core.fields.slices import Slice
from hearthline.core.quantity import write

MARGIN, GAP, WORDS = 18.0, 30.0, 18.0
FAR, CLOSE = 4.0, 6.0
"""Pixels from which on something is dragged, and within which it goes to a line."""
FLATTEST = 46.0
"""Pixels that the height of a box has at least: it is stretched where it would have less."""
HANDLE = 9.0
"""Pixels from a picture to where the plane of the other is taken hold of."""
STROKES = 20
"""Cells of a picture in a row, at most, that have a stroke of their own."""
WEAK = 0.12
"""Of the largest field, below which there is no stroke."""
PLAN, ELEVATION = 2, 1
"""The axes that both pictures look along."""


@dataclass(frozen=True)
class _Held:
    """What is in hand: a thing by its number, or a plane (-1), in which picture, and where it was taken."""

    thing: int
    normal: int
    begin: QPointF
    by: tuple[float, float, float] = (0.0, 0.0, 0.0)
    moves: bool = False


class BoxDrawing(QWidget):
    """`picked` tells which thing was clicked (-1: none), `moved` by how much one was dragged [m], `cut` where a plane was put:
    the axis across it, and its place [m]."""

    picked = pyqtSignal(int)
    moved = pyqtSignal(int, float, float, float)
    cut = pyqtSignal(int, float)

    def __init__(self) -> None:
        super().__init__()
        self.housing: Housing | None = None
        self.planes = {PLAN: 0.0, ELEVATION: 0.0}
        self.slices: dict[int, Slice] = {}
        self.selected = -1
        self._images: dict[int, QImage] = {}
        self._held: _Held | None = None
        self.setMinimumSize(300, 330)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName("housing")
        theme.changed.connect(self._repaint)

    def show_housing(self, housing: Housing | None, planes: dict[int, float]) -> None:
        """Another housing, or other planes."""
        self.housing, self.planes = housing, planes
        self.update()

    def show_field(self, slices: dict[int, Slice]) -> None:
        """The field in both planes; none where it is empty."""
        self.slices = slices
        self._repaint()

    def select(self, thing: int) -> None:
        """The thing that is lit."""
        self.selected = thing
        self.update()

    def _repaint(self) -> None:
        self._images = {normal: _image(one) for normal, one in self.slices.items()}
        self.update()

    # -- places

    def frame(self, normal: int) -> QRectF:
        """Where a picture lies in the widget: the plan above, the elevation below it."""
        assert self.housing is not None
        length, width, height = self.housing.size
        across = self.width() - 2 * MARGIN
        room = self.height() - 2 * MARGIN - GAP - 2 * WORDS
        scale = min(across / length, room / (width + height))
        tall = max(scale * height, FLATTEST)
        if tall > scale * height:
            scale = min(scale, (room - tall) / width)
        left = 0.5 * (self.width() - scale * length)
        plan = QRectF(left, MARGIN + WORDS, scale * length, scale * width)
        return plan if normal == PLAN else QRectF(left, plan.bottom() + GAP + WORDS, scale * length, tall)

    def place(self, normal: int, point: tuple[float, float, float]) -> QPointF:
        """Of a point of the box [m] in a picture; its second axis goes up."""
        assert self.housing is not None
        frame, b = self.frame(normal), 1 if normal == PLAN else 2
        size = self.housing.size
        return QPointF(
            frame.left() + point[0] / size[0] * frame.width(), frame.bottom() - point[b] / size[b] * frame.height()
        )

    def box_of(self, normal: int, thing: Thing) -> QRectF:
        """A thing in a picture."""
        return QRectF(self.place(normal, thing.low), self.place(normal, thing.high)).normalized()

    def _plane_line(self, normal: int) -> tuple[QPointF, QPointF]:
        """Where the plane of a picture cuts the other one."""
        assert self.housing is not None
        other = ELEVATION if normal == PLAN else PLAN
        place = self.planes[normal]
        begin = (0.0, place, place)
        end = (self.housing.size[0], place, place)
        return self.place(other, begin), self.place(other, end)

    def handles(self, normal: int) -> tuple[QPointF, QPointF]:
        """Where that plane is taken hold of: beside the other picture, on both sides."""
        begin, end = self._plane_line(normal)
        return begin - QPointF(HANDLE, 0), end + QPointF(HANDLE, 0)

    # -- mouse

    def mousePressEvent(self, event) -> None:
        """Takes a plane or a thing in hand."""
        if self.housing is None or event.button() != Qt.MouseButton.LeftButton:
            return
        at = event.position()
        for normal in (PLAN, ELEVATION):
            if any((at - handle).manhattanLength() < 2 * CLOSE for handle in self.handles(normal)):
                self._held = _Held(-1, normal, at)
                return
        for normal in (PLAN, ELEVATION):
            for k in range(len(self.housing.things) - 1, -1, -1):
                if self.box_of(normal, self.housing.things[k]).adjusted(-3, -3, 3, 3).contains(at):
                    self._held = _Held(k, normal, at)
                    self.picked.emit(k)
                    return
        self.picked.emit(-1)

    def mouseMoveEvent(self, event) -> None:
        """Drags it."""
        held = self._held
        if held is None or self.housing is None:
            return
        way = event.position() - held.begin
        if held.thing < 0:
            self._put_plane(held.normal, event.position())
            return
        if not held.moves and abs(way.x()) + abs(way.y()) < FAR:
            return
        frame, b = self.frame(held.normal), 1 if held.normal == PLAN else 2
        by = [0.0, 0.0, 0.0]
        for axis, share in ((0, way.x() / frame.width()), (b, -way.y() / frame.height())):
            pixel = self.housing.size[axis] / (frame.width() if axis == 0 else frame.height())
            by[axis] = self._snapped(held.thing, axis, share * self.housing.size[axis], pixel)
        self._held = _Held(held.thing, held.normal, held.begin, (by[0], by[1], by[2]), True)
        self.update()

    def mouseReleaseEvent(self, event) -> None:
        """Puts it down."""
        held, self._held = self._held, None
        if held is not None and held.moves:
            self.moved.emit(held.thing, *held.by)
        self.update()

    def keyPressEvent(self, event) -> None:
        """Escape lets it go where it was."""
        if event.key() == Qt.Key.Key_Escape and self._held is not None:
            self._held = None
            self.update()
        else:
            super().keyPressEvent(event)

    def _put_plane(self, normal: int, at: QPointF) -> None:
        assert self.housing is not None
        other = ELEVATION if normal == PLAN else PLAN
        frame, size = self.frame(other), self.housing.size[normal]
        self.cut.emit(normal, float(np.clip((frame.bottom() - at.y()) / frame.height(), 0.0, 1.0)) * size)

    def _snapped(self, index: int, axis: int, by: float, pixel: float) -> float:
        """A way along an axis that puts one of the thing's faces on that of another or a wall, or both on a round number."""
        assert self.housing is not None
        thing = self.housing.things[index]
        lines = {0.0, self.housing.size[axis]}
        for k, one in enumerate(self.housing.things):
            if k != index:
                lines |= {one.low[axis], one.high[axis]}
        ways = [line - face for line in lines for face in (thing.low[axis], thing.high[axis])]
        near = min(ways, key=lambda way: abs(way - by))
        if abs(near - by) < CLOSE * pixel:
            return near
        step = 10.0 ** np.floor(np.log10(max(3.0 * pixel, 1e-9)))
        return float(step * round((thing.low[axis] + by) / step) - thing.low[axis])

    # -- painting

    def paintEvent(self, event) -> None:
        """Both pictures."""
        if self.housing is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for normal in (PLAN, ELEVATION):
            frame = self.frame(normal)
            painter.fillRect(frame, theme.color("paper"))
            if normal in self._images:
                painter.drawImage(frame, self._images[normal])
            for k, thing in enumerate(self.housing.things):
                self._paint_thing(painter, normal, k, thing)
            if normal in self.slices:
                self._paint_strokes(painter, normal, self.slices[normal])
            self._paint_ports(painter, normal)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.color("ink"), 2.2))
            painter.drawRect(frame)
            self._paint_words(painter, normal)
        for normal in (PLAN, ELEVATION):
            begin, end = self.handles(normal)
            painter.setPen(QPen(theme.color("teal"), 1.2, Qt.PenStyle.DashLine))
            painter.drawLine(begin, end)
            painter.setPen(QPen(theme.color("teal"), 1.2))
            painter.setBrush(theme.color("paper"))
            for handle in (begin, end):
                painter.drawEllipse(handle, 4.0, 4.0)
        self._paint_held(painter)

    def _paint_thing(self, painter: QPainter, normal: int, k: int, thing: Thing) -> None:
        box = self.box_of(normal, thing)
        lit = k == self.selected
        met = thing.low[normal] <= self.planes[normal] <= thing.high[normal]
        painter.setPen(QPen(theme.color("teal" if lit else "ink"), 2.2 if lit else 1.0))
        if not met:
            painter.setBrush(Qt.BrushStyle.NoBrush)
        elif thing.metal:
            painter.setBrush(theme.color("quiet"))
        elif max(thing.tan_delta, thing.mu_tan_delta) > 0.1:
            painter.setBrush(QBrush(theme.color("quiet"), Qt.BrushStyle.BDiagPattern))
        else:
            painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box)

    def _paint_strokes(self, painter: QPainter, normal: int, found: Slice) -> None:
        """The direction of the field in the plane, as long as it is strong."""
        frame = self.frame(normal)
        painter.setPen(QPen(theme.color("ink", 190), 1.1))
        xs, ys = (0.5 * (one[1:] + one[:-1]) for one in found.lines)
        long = 0.8 * frame.width() / STROKES
        last = [-1e9]
        for i in range(len(xs)):
            px = frame.left() + xs[i] / found.lines[0][-1] * frame.width()
            if px - last[0] < 0.9 * frame.width() / STROKES:
                continue
            last[0], below = px, 1e9
            for j in range(len(ys)):
                py = frame.bottom() - ys[j] / found.lines[1][-1] * frame.height()
                if below - py < min(0.9 * frame.width() / STROKES, 0.3 * frame.height()):
                    continue
                below = py
                u, v = float(found.along[0][i, j]), float(found.along[1][i, j])
                size = float(np.hypot(u, v))
                if size > WEAK:
                    half = 0.5 * min(long, long * size**0.5) / size
                    painter.drawLine(QPointF(px - half * u, py + half * v), QPointF(px + half * u, py - half * v))
                    painter.drawEllipse(QPointF(px + half * u, py - half * v), 1.2, 1.2)

    def _paint_ports(self, painter: QPainter, normal: int) -> None:
        assert self.housing is not None
        painter.setFont(figure_font(11))
        for port in self.housing.ports:
            begin, end = self.place(normal, port.begin), self.place(normal, port.end)
            painter.setPen(QPen(theme.color("ember"), 2.4))
            painter.drawLine(begin, end)
            middle = 0.5 * (begin + end)
            painter.setBrush(theme.color("ember"))
            painter.drawEllipse(middle, 2.6, 2.6)
            word = QRectF(middle.x() - 10, middle.y() - 22 if normal == PLAN else begin.y() - 22, 20, 14)
            ground = QColor(theme.color("paper"))
            ground.setAlpha(200)
            painter.fillRect(word.adjusted(4, 1, -4, -1), ground)
            painter.setPen(theme.color("ember_ink"))
            painter.drawText(word, Qt.AlignmentFlag.AlignCenter, str(port.number))

    def _paint_words(self, painter: QPainter, normal: int) -> None:
        assert self.housing is not None
        frame, size = self.frame(normal), self.housing.size
        painter.setFont(text_font(11))
        painter.setPen(theme.color("quiet"))
        b = 1 if normal == PLAN else 2
        name = "plan" if normal == PLAN else "elevation"
        where = f"{name} at {'z' if normal == PLAN else 'y'} = {write(self.planes[normal], 'm', 3)}"
        sizes = f"{write(size[0], 'm', 4)} × {write(size[b], 'm', 4)}"
        above = QRectF(frame.left(), frame.top() - WORDS, frame.width(), WORDS - 2)
        painter.drawText(above, Qt.AlignmentFlag.AlignLeft, where)
        if painter.fontMetrics().horizontalAdvance(where + sizes) + 12 < frame.width():
            painter.drawText(above, Qt.AlignmentFlag.AlignRight, sizes)

    def _paint_held(self, painter: QPainter) -> None:
        held = self._held
        if held is None or not held.moves or self.housing is None:
            return
        thing = self.housing.things[held.thing]
        low = (thing.low[0] + held.by[0], thing.low[1] + held.by[1], thing.low[2] + held.by[2])
        high = (thing.high[0] + held.by[0], thing.high[1] + held.by[1], thing.high[2] + held.by[2])
        painter.setPen(QPen(theme.color("teal"), 1.4, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for normal in (PLAN, ELEVATION):
            painter.drawRect(QRectF(self.place(normal, low), self.place(normal, high)).normalized())
        painter.setFont(figure_font(11))
        at = self.place(held.normal, low)
        b = 1 if held.normal == PLAN else 2
        painter.setPen(theme.color("teal"))
        painter.drawText(at + QPointF(4, 14), f"{write(low[0], 'm', 4)}, {write(low[b], 'm', 4)}")


def _image(found: Slice) -> QImage:
    """From paper to teal, even in lightness; cells of the mesh as they are, on a fine raster since they differ in size."""
    columns, rows = 240, 180
    xs = np.linspace(0.0, found.lines[0][-1], columns, endpoint=False) + 0.5 * found.lines[0][-1] / columns
    ys = np.linspace(0.0, found.lines[1][-1], rows, endpoint=False) + 0.5 * found.lines[1][-1] / rows
    i = np.clip(np.searchsorted(found.lines[0], xs) - 1, 0, found.size.shape[0] - 1)
    j = np.clip(np.searchsorted(found.lines[1], ys) - 1, 0, found.size.shape[1] - 1)
    share = np.clip(found.size[i][:, j], 0.0, 1.0) ** 0.7
    ends = [np.array(QColor(theme.color(name)).getRgb()[:3], float) for name in ("paper", "teal")]
    colours = ends[0] + 0.85 * share.T[::-1, :, None] * (ends[1] - ends[0])
    rgb = np.ascontiguousarray(colours.astype(np.uint8))
    return QImage(rgb.data, columns, rows, 3 * columns, QImage.Format.Format_RGB888).copy()
