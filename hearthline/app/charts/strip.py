"""One strip of the chart sheet: one watch or several over an axis, all conditions over each other."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QPen
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from hearthline.app.charts.axis import PrefixAxis
from hearthline.app.charts.box import StripBox
from hearthline.app.charts.curve_labels import SIZE, label_places
from hearthline.app.charts.curves import LOG_AXES, Trace
from hearthline.app.charts.family import CurveFamily
from hearthline.app.charts.head import StripHead
from hearthline.app.charts.reading_row import Reading, ReadingRow
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.palette import DASHES
from hearthline.app.theme.theme import theme
from hearthline.core.data.thinning import thinned

Entries = list[tuple[str, Callable[[], None]]]
NEAR_PIXELS = 14
MANY_POINTS, POINTS_A_PIXEL = 2500, 2
"""A curve of more than the first is drawn as a least and a greatest on each pixel."""
POINTS_SHOWN = 400
"""Points of a curve up to which each is shown by a dot where that is wanted."""
LARGEST = 300.0
"""Decades that a number may have."""


class Strip(QWidget):
    """`pointed(x, lane)` follows the pointer, `clicked(x, lane)` a click; lane is that of the nearest curve or -1."""

    pointed = pyqtSignal(float, int)
    clicked = pyqtSignal(float, int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.head = StripHead()
        self.axes = {"left": PrefixAxis("left"), "bottom": PrefixAxis("bottom")}
        self.box = StripBox()
        self.plot = pg.PlotWidget(axisItems=self.axes, viewBox=self.box)
        self.plot.hideButtons()
        self.plot.setMinimumHeight(72)
        self.plot.setFrameShape(self.plot.Shape.NoFrame)
        self.plot.scene().sigMouseMoved.connect(self._moved)
        self.plot.scene().sigMouseClicked.connect(self._clicked)
        self.traces: list[Trace] = []
        self.family: CurveFamily | None = None
        self.log_x = False
        self.with_points = False
        self.items: list[pg.PlotCurveItem] = []
        self.owners: list[tuple[int, int]] = []
        self.dots: list[pg.ScatterPlotItem] = []
        self.ghosts: list[pg.PlotCurveItem] = []
        self.labels: list[pg.TextItem] = []
        self.marks: list[pg.GraphicsObject] = []
        self.markers: list[pg.GraphicsObject] = []
        self.against = ""
        self._chosen = -1
        self.last_place = QPointF()
        self.cursor = pg.InfiniteLine(angle=90, movable=False)
        self.readout = ReadingRow()
        self.live = pg.ScatterPlotItem(size=9, pxMode=True)
        self._labelled: list[tuple[int, str]] = []
        self._placing = QTimer(self, singleShot=True, interval=0)
        self._placing.timeout.connect(self._place_labels)
        self.box.sigXRangeChanged.connect(self._thin)
        self.box.sigRangeChanged.connect(lambda *_: self._placing.start())
        self.box.sigResized.connect(lambda *_: self._placing.start())
        self._lay_out()
        self.restyle()

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 8, 0, 0)
        layout.setSpacing(2)
        layout.addWidget(self.head)
        layout.addWidget(self.readout)
        layout.addWidget(self.plot, 1)
        for item in (self.cursor, self.live):
            item.setZValue(50)
            self.plot.addItem(item, ignoreBounds=True)
        self.cursor.hide()

    def own_entries(self) -> Entries:
        """What the menu offers for this kind of strip."""
        return []

    def nearest_trace(self, lane: int, x: float) -> Trace:
        """The curve that the pointer is closest to at x."""
        place = self.box.mapSceneToView(self.last_place)
        away = [abs(float(self.view_y(t, t.value(lane, x))) - place.y()) for t in self.traces]
        away = [one if np.isfinite(one) else np.inf for one in away]
        return self.traces[int(np.argmin(away))]

    @property
    def title(self):
        """The first of the titles."""
        return self.head.titles[0] if self.head.titles else self.head.note

    @property
    def trace(self) -> Trace | None:
        """The first of the watches."""
        return self.traces[0] if self.traces else None

    # -- what is shown

    def show_traces(
        self, traces: list[Trace], family: CurveFamily, log_x: bool | None = None, fit: bool = True
    ) -> None:
        """Watches over one axis, lanes grouped as `family` says."""
        self.traces, self.family, self._chosen = traces, family, -1
        axis = traces[0].axis if traces else ""
        self.log_x = (axis in LOG_AXES and not traces[0].lines) if log_x is None else log_x
        for item in (*self.items, *self.labels, *self.dots, *self.marks):
            self.plot.removeItem(item)
        self.marks, self.dots = [], []
        self.owners = [(k, lane) for k, trace in enumerate(traces) for lane in range(trace.lanes)]
        self.items = [pg.PlotCurveItem(connect="finite", skipFiniteCheck=False) for _ in self.owners]
        for item in self.items:
            self.plot.addItem(item)
        self._thin()
        self._name_axes()
        self._label_groups()
        self.style_curves()
        if fit:
            self.fit()

    def fit(self) -> None:
        """Everything in view."""
        self.plot.getPlotItem().vb.setDefaultPadding(0.03)
        self.plot.enableAutoRange()
        self.plot.autoRange()

    def _name_axes(self) -> None:
        values = [np.abs(trace.y[np.isfinite(trace.y)]) for trace in self.traces]
        largest = max((float(one.max()) for one in values if len(one)), default=0.0)
        first = self.trace
        unit, log_y = (first.unit, first.log) if first else ("", False)
        self.axes["left"].set_quantity(unit, largest, log_y)
        xs = [np.abs(trace.x[np.isfinite(trace.x)]) for trace in self.traces]
        maximum = max((float(one.max()) for one in xs if len(one)), default=0.0)
        self.axes["bottom"].set_quantity(first.axis_unit if first else "", maximum, self.log_x)
        several = len(self.traces) > 1
        titles = []
        for k, trace in enumerate(self.traces):
            own = self.axes["left"].unit_text if trace.unit == unit else trace.unit
            tip = trace.problem or f"{trace.watch.formula}: click for more, drag to another strip"
            color = curve_color(k).name() if several else theme.color("ember_ink").name() if trace.problem else ""
            titles.append((f"{trace.watch.shown} [{own}]" if own else trace.watch.shown, tip, color))
        self.head.show_titles(titles)
        self.against = f"against {first.axis} [{self.axes['bottom'].unit_text}]" if first else ""
        problem = next((trace.problem for trace in self.traces if trace.problem), "")
        self.head.set_note(problem or self.against)
        self.head.note.setToolTip(problem)

    def view_x(self, x):
        """A place of the axis in the coordinates of the view."""
        with np.errstate(all="ignore"):
            return np.log10(x) if self.log_x else x

    def view_y(self, trace: Trace, y):
        """A value in the coordinates of the view."""
        with np.errstate(all="ignore"):
            return np.log10(y) if trace.log else y

    def _thin(self, *_: object) -> None:
        """Gives each item as many points as can be seen."""
        if not self.items:
            return
        (begin, end), _ = self.plot.viewRange()
        if self.log_x:  # what was shown before may have had another axis
            begin, end = (10.0 ** min(max(one, -LARGEST), LARGEST) for one in (begin, end))
        auto, maximum = self.box.autoRangeEnabled()[0], self._most_points()
        for item, (k, lane) in zip(self.items, self.owners, strict=True):
            trace = self.traces[k]
            x, y = trace.stems(lane) if trace.lines else trace.row(lane)
            if len(x) > MANY_POINTS and trace.rises:
                x, y = thinned(x, y, maximum, *((-np.inf, np.inf) if auto else (begin, end)))
            elif item.xData is not None and len(item.xData) == len(x) and not auto:
                continue
            item.setData(self.view_x(x), self.view_y(trace, y))
        self._show_dots()

    def _most_points(self) -> int:
        return max(600, POINTS_A_PIXEL * self.plot.width())

    def show_points(self, shown: bool) -> None:
        """A dot at each point that was computed, where they are few enough to be told apart."""
        self.with_points = shown
        self._show_dots()

    def _show_dots(self) -> None:
        for item in self.dots:
            self.plot.removeItem(item)
        self.dots = []
        if not self.with_points or self.family is None:
            return
        for item, (k, lane) in zip(self.items, self.owners, strict=True):
            if self.family.main[lane] and item.xData is not None and len(item.xData) <= 10 * POINTS_SHOWN:
                group = k if len(self.traces) > 1 else int(self.family.group[lane])
                dots = pg.ScatterPlotItem(item.xData, item.yData, size=4, pen=None, brush=curve_color(group))
                self.dots.append(dots)
                self.plot.addItem(dots, ignoreBounds=True)

    def show_ghosts(self, traces: list[Trace], lanes: list[int], whole: bool = False) -> None:
        """Curves of another run behind these, of the lanes that stand for their groups; where they are to be seen `whole`, the
        strip makes room for them."""
        for item in self.ghosts:
            self.plot.removeItem(item)
        first = not self.ghosts
        self.ghosts, maximum = [], self._most_points()
        for trace in traces:
            for lane in lanes:
                if lane < trace.lanes:
                    x, y = trace.stems(lane) if trace.lines else trace.row(lane)
                    x, y = thinned(x, y, maximum) if len(x) > MANY_POINTS and trace.rises else (x, y)
                    pen = pg.mkPen(theme.color("quiet"), width=1.4, style=Qt.PenStyle.DotLine)
                    item = pg.PlotCurveItem(self.view_x(x), self.view_y(trace, y), pen=pen, connect="finite")
                    item.setZValue(5)
                    self.plot.addItem(item, ignoreBounds=not whole)
                    self.ghosts.append(item)
        if whole and first and self.ghosts:
            self.fit()

    def show_marks(self, places: list[tuple[Trace, int, float, str]]) -> None:
        """Where a reading was taken: (trace, lane, x, name) of each place."""
        for item in self.marks:
            self.plot.removeItem(item)
        self.marks = []
        for trace, lane, x, name in places:
            y = trace.value(lane, x)
            if not np.isfinite(x) or not np.isfinite(y):
                continue
            at = (float(self.view_x(x)), float(self.view_y(trace, y)))
            line = pg.InfiniteLine(
                at[0], angle=90, pen=pg.mkPen(theme.color("ember"), width=1, style=Qt.PenStyle.DotLine)
            )
            ring = pg.ScatterPlotItem(
                [at[0]], [at[1]], size=10, pen=pg.mkPen(theme.color("ember"), width=2), brush=None
            )
            (left, right), _ = self.plot.viewRange()
            side = 1.06 if at[0] > left + 0.7 * (right - left) else -0.06
            text = pg.TextItem(name, color=theme.color("ember_ink"), anchor=(side, 1.1))
            text.setFont(text_font(11, bold=True))
            text.setPos(*at)
            for item in (line, ring, text):
                item.setZValue(45)
                self.plot.addItem(item, ignoreBounds=True)
                self.marks.append(item)
        self._placing.start()

    def show_markers(self, markers: list[tuple[Trace, int, float, int]]) -> None:
        """Markers of a person: (trace, lane, x, number) of each."""
        for item in self.markers:
            self.plot.removeItem(item)
        self.markers = []
        for trace, lane, x, number in markers:
            y = trace.value(lane, x)
            if not np.isfinite(y):
                continue
            at = (float(self.view_x(x)), float(self.view_y(trace, y)))
            pen = pg.mkPen(theme.color("ink"), width=1.6)
            dot = pg.ScatterPlotItem(
                [at[0]], [at[1]], size=11, symbol="d", pen=pen, brush=pg.mkBrush(theme.color("paper"))
            )
            text = pg.TextItem(str(number), color=theme.color("ink"), anchor=(0.5, 1.35))
            text.setFont(figure_font(11))
            text.setPos(*at)
            for item in (dot, text):
                item.setZValue(48)
                self.plot.addItem(item, ignoreBounds=True)
                self.markers.append(item)

    def choose(self, lane: int, name: str) -> None:
        """Lets one curve stand out and says its condition; -1 for none."""
        self._chosen = lane
        problem = next((trace.problem for trace in self.traces if trace.problem), "")
        self.head.set_note(problem or name or self.against)
        self.style_curves()

    def style_curves(self) -> None:
        """Pens of all curves, from group and choice."""
        if self.family is None:
            return
        several = len(self.traces) > 1
        for item, (k, lane) in zip(self.items, self.owners, strict=True):
            main = bool(self.family.main[lane])
            group = k if several else int(self.family.group[lane])
            faded = self._chosen >= 0 and lane != self._chosen
            alpha = 255 if lane == self._chosen else 70 if faded else 255 if main else 105
            width = 2.6 if lane == self._chosen else 1.8 if main and not faded else 1.0
            if self.traces[k].y.shape[1] > 10 * MANY_POINTS:
                width = 1.0  # a band rather than a line, and quicker to draw
            item.setPen(curve_pen(group, width, alpha))
            item.setZValue(30 if lane == self._chosen else 20 if main else 10)

    def _label_groups(self) -> None:
        """A name for each group, to be placed on the curve that stands for it."""
        self.labels, self._labelled = [], []
        if not self.family.axis or len(self.traces) > 1 or not self.trace or not np.isfinite(self.trace.y).any():
            return
        for lane, name in self.family.mains:
            label = pg.TextItem(name, color=curve_color(int(self.family.group[lane])), anchor=(0, 0.5))
            label.setFont(text_font(SIZE, bold=True))
            label.setZValue(40)
            label.hide()
            self.plot.addItem(label, ignoreBounds=True)
            self.labels.append(label)
            self._labelled.append((lane, name))
        self._placing.start()

    def _place_labels(self) -> None:
        """Where each name has room, in the view as it is."""
        if not self.labels or self.trace is None:
            return
        (left, right), (bottom, top) = self.plot.viewRange()
        wide, high = self.box.width(), self.box.height()
        if right <= left or top <= bottom or wide < 40 or high < 30:
            return
        curves = []
        for lane, name in self._labelled:
            x, y = self.trace.row(lane)
            px = (self.view_x(x) - left) / (right - left) * wide
            py = (top - self.view_y(self.trace, y)) / (top - bottom) * high
            curves.append((name, px, py))
        taken = [self._box_of(item) for item in self.marks if isinstance(item, pg.TextItem)]
        places = label_places(curves, (2.0, 2.0, wide - 2.0, high - 2.0), taken)
        for label, place in zip(self.labels, places, strict=True):
            label.setVisible(place is not None)
            if place is not None:
                label.setPos(left + place[0] / wide * (right - left), top - place[1] / high * (top - bottom))

    def _box_of(self, item: pg.TextItem) -> tuple[float, float, float, float]:
        """What a text covers, in pixels of the frame."""
        area = self.box.mapRectFromScene(item.mapRectToScene(item.boundingRect()))
        return area.left(), area.top(), area.right(), area.bottom()

    def show_live(self, x: float | None, y: float | None) -> None:
        """A ring where the live operating point is."""
        pen, brush = pg.mkPen(theme.color("ink"), width=1.6), pg.mkBrush(theme.color("paper"))
        self.live.setData([] if x is None or y is None else [{"pos": (x, y), "pen": pen, "brush": brush}])

    def show_cursor(self, x: float | None, readings: tuple[Reading, ...] = ()) -> None:
        """The cursor line, and what is read there in the row above the curves."""
        self.cursor.setVisible(x is not None)
        self.readout.show_readings(readings if x is not None else ())
        if x is not None:
            self.cursor.setPos(float(self.view_x(x)))

    def pen_of(self, k: int, lane: int) -> QPen:
        """The line of a curve: of the watch `k`, or of the lane's group where there is one watch."""
        group = k if len(self.traces) > 1 or self.family is None else int(self.family.group[lane])
        return curve_pen(group, 2.0, 255)

    def restyle(self) -> None:
        """Takes the colours of the theme."""
        self.plot.setBackground(theme.color("paper"))
        for axis in self.axes.values():
            axis.restyle()
        self.plot.showGrid(x=True, y=True, alpha=0.22 if theme.palette.name == "day" else 0.3)
        dashed = pg.mkPen(theme.color("ember"), width=1, style=Qt.PenStyle.DashLine)
        self.cursor.setPen(dashed)
        self.cursor.setHoverPen(dashed)
        self.style_curves()
        if self.family is not None:
            for label in self.labels:
                self.plot.removeItem(label)
            self._name_axes()
            self._label_groups()

    # -- the pointer

    def nearest(self, position: QPointF) -> tuple[float, int]:
        """Value of the axis at a place of the scene, and the lane whose curve is within a few pixels, or -1."""
        place = self.box.mapSceneToView(position)
        x = 10.0 ** place.x() if self.log_x else place.x()
        pixel_x, pixel_y = self.box.viewPixelSize()
        best, found = float(NEAR_PIXELS), -1
        for item, (_, lane) in zip(self.items, self.owners, strict=True):
            if item.xData is None or not len(item.xData):
                continue
            dx = (item.xData - place.x()) / pixel_x
            window = np.abs(dx) <= NEAR_PIXELS
            if window.any():
                dy = (item.yData[window] - place.y()) / pixel_y
                away = np.hypot(dx[window], np.where(np.isfinite(dy), dy, 1e9)).min()
                if away <= best:
                    best, found = float(away), lane
        return x, found

    def reach(self, x: float) -> float:
        """How far on the axis a few pixels are, at x."""
        pixel = NEAR_PIXELS * self.box.viewPixelSize()[0]
        return x * (10.0**pixel - 1.0) if self.log_x else pixel

    def _moved(self, position: QPointF) -> None:
        self.last_place = position
        if self.items and self.box.sceneBoundingRect().contains(position):
            self.pointed.emit(*self.nearest(position))

    def _clicked(self, event) -> None:
        if event.button() == Qt.MouseButton.LeftButton and self.items and not event.double():
            self.clicked.emit(*self.nearest(event.scenePos()))


def curve_color(group: int, alpha: int = 255) -> QColor:
    """Colour of a group."""
    colors = theme.palette.curves
    color = QColor(colors[group % len(colors)])
    color.setAlpha(alpha)
    return color


def curve_pen(group: int, width: float, alpha: int):
    """Pen of a group: its colour, and its dash."""
    pen = pg.mkPen(curve_color(group, alpha), width=width)
    dash = DASHES[group % len(DASHES)]
    if dash:
        pen.setDashPattern(dash)
    return pen
