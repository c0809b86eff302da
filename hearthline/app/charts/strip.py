"""One strip of the chart sheet: a quantity against the swept one, all conditions over each other."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from hearthline.app.charts.axis import PrefixAxis
from hearthline.app.charts.family import Family
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.palette import DASHES
from hearthline.app.theme.theme import theme

NEAR_PIXELS = 14
LABEL_TOP, LABEL_BOTTOM = 0.9, 0.35
"""Where along the height of the curves the labels of the groups are spread."""


class Strip(QWidget):
    """`pointed(x)` follows the pointer, `clicked(x, lane)` a click; lane is that of the nearest curve or -1."""

    pointed = pyqtSignal(float, int)
    clicked = pyqtSignal(float, int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.title, self.note = QLabel(), QLabel()
        self.title.setFont(text_font(12, bold=True))
        self.note.setProperty("quiet", True)
        self.note.setFont(text_font(11))
        self.axes = {"left": PrefixAxis("left"), "bottom": PrefixAxis("bottom")}
        self.plot = pg.PlotWidget(axisItems=self.axes)
        self.plot.setMenuEnabled(False)
        self.plot.hideButtons()
        self.plot.setMinimumHeight(110)
        self.plot.setFrameShape(self.plot.Shape.NoFrame)
        self.plot.scene().sigMouseMoved.connect(self._moved)
        self.plot.scene().sigMouseClicked.connect(self._clicked)
        self.x, self.y = np.zeros(0), np.zeros((0, 0))
        self.family: Family | None = None
        self.items: list[pg.PlotCurveItem] = []
        self.labels: list[pg.TextItem] = []
        self._chosen, self._against = -1, ""
        self.cursor = pg.InfiniteLine(angle=90, movable=False)
        self.readout = pg.TextItem(anchor=(0, 0))
        self.live = pg.ScatterPlotItem(size=9, pxMode=True)
        self._lay_out()
        self.restyle()

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.setContentsMargins(14, 0, 12, 0)
        head.addWidget(self.title)
        head.addStretch()
        head.addWidget(self.note)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 8, 0, 0)
        layout.setSpacing(2)
        layout.addLayout(head)
        layout.addWidget(self.plot)
        for item in (self.cursor, self.readout, self.live):
            item.setZValue(50)
            self.plot.addItem(item, ignoreBounds=True)
        self.cursor.hide()
        self.readout.hide()

    # -- what is shown

    def show_curves(
        self, title: str, unit: str, axis: tuple[str, str], x: np.ndarray, y: np.ndarray, family: Family
    ) -> None:
        """Curves y (lanes, points) over x (points,), grouped as `family` says. `axis` is the swept name and unit."""
        self.x, self.y, self.family, self._chosen = x, y, family, -1
        for item in (*self.items, *self.labels):
            self.plot.removeItem(item)
        self.items = [pg.PlotCurveItem(x, row, connect="finite", skipFiniteCheck=False) for row in y]
        for item in self.items:
            self.plot.addItem(item)
        finite = np.abs(y[np.isfinite(y)])
        self.axes["left"].set_quantity(unit, float(finite.max()) if len(finite) else 0.0)
        self.axes["bottom"].set_quantity(axis[1], float(np.abs(x).max()) if len(x) else 0.0)
        self.title.setText(f"{title} [{self.axes['left'].unit_text}]")
        self._against = f"against {axis[0]} [{self.axes['bottom'].unit_text}]"
        self.note.setText(self._against)
        self._label_groups()
        self.style_curves()
        self.plot.enableAutoRange()
        self.plot.getPlotItem().vb.setDefaultPadding(0.03)
        self.plot.autoRange()

    def choose(self, lane: int, name: str) -> None:
        """Lets one curve stand out and says its condition; -1 for none."""
        self._chosen = lane
        self.note.setText(name or self._against)
        self.style_curves()

    def style_curves(self) -> None:
        """Pens of all curves, from group and choice."""
        if self.family is None:
            return
        for lane, item in enumerate(self.items):
            group, main = int(self.family.group[lane]), bool(self.family.main[lane])
            faded = self._chosen >= 0 and lane != self._chosen
            alpha = 255 if lane == self._chosen else 70 if faded else 255 if main else 105
            width = 2.6 if lane == self._chosen else 1.8 if main and not faded else 1.0
            item.setPen(curve_pen(group, width, alpha))
            item.setZValue(30 if lane == self._chosen else 20 if main else 10)

    def _label_groups(self) -> None:
        """Writes each group's name on the curve that stands for it, at heights that do not meet."""
        self.labels = []
        mains = [lane for lane in range(len(self.items)) if self.family.main[lane]]
        count = len(mains)
        if not self.family.axis or not np.isfinite(self.y).any():
            return
        for k, lane in enumerate(mains):
            share = LABEL_TOP - (LABEL_TOP - LABEL_BOTTOM) * k / max(1, count - 1)
            place = _place_on(self.x, self.y[lane], share)
            if place is None:
                continue
            group = int(self.family.group[lane])
            label = pg.TextItem(self.family.labels[group], color=curve_color(group), anchor=(0, 0.5))
            label.setFont(text_font(11, bold=True))
            label.fill = pg.mkBrush(theme.color("paper", 215))
            label.setPos(*place)
            label.setZValue(40)
            self.plot.addItem(label, ignoreBounds=True)
            self.labels.append(label)

    def show_live(self, x: float | None, y: float | None) -> None:
        """A ring where the live operating point is."""
        pen, brush = pg.mkPen(theme.color("ink"), width=1.6), pg.mkBrush(theme.color("paper"))
        self.live.setData([] if x is None or y is None else [{"pos": (x, y), "pen": pen, "brush": brush}])

    def show_cursor(self, x: float | None, text: str = "") -> None:
        """The cursor line, and beside it what is read there."""
        self.cursor.setVisible(x is not None)
        self.readout.setVisible(x is not None and bool(text))
        if x is None:
            return
        self.cursor.setPos(x)
        (left, right), (bottom, top) = self.plot.viewRange()
        past_middle = x > (left + right) / 2
        self.readout.setAnchor((1.05 if past_middle else -0.05, 0))
        self.readout.setText(text)
        self.readout.setPos(x, top - 0.04 * (top - bottom))

    def restyle(self) -> None:
        """Takes the colours of the theme."""
        self.plot.setBackground(theme.color("paper"))
        for axis in self.axes.values():
            axis.restyle()
        self.plot.showGrid(x=True, y=True, alpha=0.22 if theme.palette.name == "day" else 0.3)
        dashed = pg.mkPen(theme.color("ember"), width=1, style=Qt.PenStyle.DashLine)
        self.cursor.setPen(dashed)
        self.cursor.setHoverPen(dashed)
        self.readout.setColor(theme.color("ink"))
        self.readout.setFont(figure_font(11))
        self.readout.fill = pg.mkBrush(theme.color("panel", 240))
        self.readout.border = pg.mkPen(theme.color("line"))
        self.style_curves()
        for label, lane in zip(self.labels, [k for k in range(len(self.items)) if self.family.main[k]], strict=False):
            label.setColor(curve_color(int(self.family.group[lane])))
            label.fill = pg.mkBrush(theme.color("paper", 215))

    # -- the pointer

    def nearest(self, position: QPointF) -> tuple[float, int]:
        """Swept value at a place of the scene, and the lane whose curve is within a few pixels, or -1."""
        box = self.plot.getPlotItem().vb
        place = box.mapSceneToView(position)
        if not len(self.x):
            return place.x(), -1
        pixel_x, pixel_y = box.viewPixelSize()
        window = np.abs(self.x - place.x()) <= NEAR_PIXELS * pixel_x
        if not window.any():
            return place.x(), -1
        dx = (self.x[window] - place.x()) / pixel_x
        dy = (self.y[:, window] - place.y()) / pixel_y
        distance = np.nanmin(np.hypot(dx[None, :], np.where(np.isfinite(dy), dy, 1e9)), axis=1)
        lane = int(np.argmin(distance))
        return place.x(), lane if distance[lane] <= NEAR_PIXELS else -1

    def _moved(self, position: QPointF) -> None:
        if len(self.x) and self.plot.getPlotItem().vb.sceneBoundingRect().contains(position):
            self.pointed.emit(*self.nearest(position))

    def _clicked(self, event) -> None:
        if event.button() == Qt.MouseButton.LeftButton and len(self.x):
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


def _place_on(x: np.ndarray, row: np.ndarray, share: float) -> tuple[float, float] | None:
    """Where the label of a curve stands: at its summit, or at a share of its height where it comes down."""
    if not np.isfinite(row).all():
        return None
    low, high = row.min(), row.max()
    top = int(np.argmax(row))
    if 0.05 * len(x) < top < 0.95 * len(x):
        return float(x[top]), float(high)
    level = low + share * (high - low)
    above = np.flatnonzero(row >= level)
    if high == low or not len(above):
        return float(x[int(share * (len(x) - 1))]), float(row[0])
    k = int(above[-1])
    return float(x[k]), float(row[k])
