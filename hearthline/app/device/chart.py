"""One characteristic chart: a family of curves with its values at their ends, straight or in decades."""

from __future__ import annotations

import math

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QPainter
from PyQt6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from hearthline.app.charts.axis import PrefixAxis
from hearthline.app.panels.label import Label
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.quantity import WRITTEN

LEAST = 1e-300
APART_X, APART_Y = 70, 13
"""Pixels between two labels."""


class DecadeAxis(PrefixAxis):
    """An axis whose values are powers of ten: ticks at decades, written with SI prefixes."""

    def __init__(self, orientation: str) -> None:
        super().__init__(orientation)
        self.decades = False

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        """Whole decades, at most eight of them."""
        if not self.decades:
            return super().tickValues(low, high, size)
        first, last = math.ceil(low), math.floor(high)
        step = max(1, math.ceil((last - first) / 8))
        return [(float(step), [float(k) for k in range(first, last + 1, step)])]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        """`1 n`, `100 µ`."""
        if not self.decades:
            return super().tickStrings(values, scale, spacing)
        texts = []
        for value in values:
            power = round(value)
            exponent = 3 * math.floor(power / 3)
            prefix = WRITTEN.get(exponent)
            texts.append(f"{10 ** (power - exponent)}{prefix}" if prefix is not None else f"1e{power}")
        return texts


class ChartNote(Label):
    """Text at the right that ends in dots where there is no room for it, so that two charts fit beside each other."""

    def __init__(self) -> None:
        super().__init__()
        self.setFont(text_font(11))
        self.setProperty("quiet", True)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)

    def paintEvent(self, event) -> None:
        """Draws what there is room for."""
        painter = QPainter(self)
        shown = painter.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.setPen(self.palette().windowText().color())
        painter.drawText(self.rect(), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, shown)


class DeviceChart(QWidget):
    """`clicked` when the chart is to be large, or small again."""

    clicked = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.title, self.note = Label(), ChartNote()
        self.title.setFont(text_font(12, bold=True))
        self.axes = {"left": DecadeAxis("left"), "bottom": DecadeAxis("bottom")}
        self.plot = pg.PlotWidget(axisItems=self.axes)
        self.plot.setMenuEnabled(False)
        self.plot.hideButtons()
        self.plot.setMinimumHeight(130)
        self.plot.setFrameShape(self.plot.Shape.NoFrame)
        self.plot.scene().sigMouseClicked.connect(self._clicked)
        self.log_x = self.log_y = False
        self.items: list = []
        self.labels: list = []
        self.plot.setMinimumWidth(120)
        head = QHBoxLayout()
        head.setContentsMargins(12, 6, 12, 0)
        head.addWidget(self.title)
        head.addWidget(self.note, 1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        layout.addLayout(head)
        layout.addWidget(self.plot)
        self.restyle()

    def _clicked(self, event) -> None:
        if event.button() == Qt.MouseButton.LeftButton and event.double():
            self.clicked.emit()

    # -- drawing

    def begin(self, title: str, x: tuple[str, str, float], y: tuple[str, str, float], log_x: bool, log_y: bool) -> None:
        """Empties the chart; x and y are name, unit and largest value."""
        for item in self.items:
            self.plot.removeItem(item)
        self.items, self.labels = [], []
        self.log_x, self.log_y = log_x, log_y
        for axis, (_, unit, largest), log in ((self.axes["bottom"], x, log_x), (self.axes["left"], y, log_y)):
            axis.decades = log
            axis.set_quantity(unit, largest if unit or largest >= 1e4 else 1.0)  # plain numbers need no prefix
        units = [f" [{a.unit if log else a.unit_text}]" if a.unit or a.exponent else "" for a, log in
                 ((self.axes["left"], log_y), (self.axes["bottom"], log_x))]  # fmt: skip
        self.title.setText(title)
        self.note.setText(f"{y[0]}{units[0]} against {x[0]}{units[1]}")

    def explain(self, text: str) -> None:
        """Says how a number was read off, before what is drawn against what."""
        self.note.setText(f"{text}   ·   {self.note.text()}")

    def place(self, x, y) -> tuple[np.ndarray, np.ndarray]:
        """Values where they stand on the axes."""
        x, y = np.asarray(x, float), np.asarray(y, float)
        return (_log(x) if self.log_x else x), (_log(y) if self.log_y else y)

    def curve(self, x, y, color: QColor, width: float, dash=None, points: bool = False) -> None:
        """One curve, with its computed points on request."""
        px, py = self.place(x, y)
        pen = pg.mkPen(color, width=width)
        if dash:
            pen.setDashPattern(dash)
        item = pg.PlotCurveItem(px, py, pen=pen, connect="finite", skipFiniteCheck=False)
        self._add(item)
        if points:
            self._add(pg.ScatterPlotItem(px, py, size=4, pen=None, brush=pg.mkBrush(color)))

    def label(self, x: float, y: float, text: str, color: QColor, anchor=(1.0, 0.5)) -> None:
        """A text at a place of the curve."""
        px, py = self.place([x], [y])
        if not (np.isfinite(px[0]) and np.isfinite(py[0])):
            return
        item = pg.TextItem(text, color=color, anchor=anchor)
        item.setFont(text_font(11, bold=True))
        item.fill = pg.mkBrush(theme.color("paper", 215))
        item.setPos(px[0], py[0])
        item.setZValue(40)
        self._add(item, bounds=False)
        self.labels.append(item)

    def marks(self, x, y, color: QColor, symbol: str, size: float = 9) -> None:
        """Points that stand out."""
        px, py = self.place(x, y)
        brush, pen = pg.mkBrush(theme.color("paper")), pg.mkPen(color, width=1.6)
        item = pg.ScatterPlotItem(px, py, size=size, symbol=symbol, pen=pen, brush=brush)
        item.setZValue(45)
        self._add(item)

    def line(self, a, b, color: QColor) -> None:
        """A construction line between two places."""
        x, y = self.place([a[0], b[0]], [a[1], b[1]])
        if self.log_x != self.log_y and self.log_y:  # a straight line of the linear axes bends in decades
            xs = np.linspace(a[0], b[0], 60)
            x, y = self.place(xs, np.interp(xs, sorted([a[0], b[0]]), [v for _, v in sorted([a, b])]))
        pen = pg.mkPen(color, width=1.4, style=Qt.PenStyle.DashLine)
        item = pg.PlotCurveItem(x, y, pen=pen, connect="finite", skipFiniteCheck=False)
        item.setZValue(44)
        self._add(item, bounds=False)

    def finish(self) -> None:
        """Shows everything."""
        self.plot.enableAutoRange()
        self.plot.getPlotItem().vb.setDefaultPadding(0.04)
        self.plot.autoRange()
        self._thin_out()

    def _thin_out(self) -> None:
        """Hides labels that would lie on others; those of the largest values stay."""
        box, kept = self.plot.getPlotItem().vb, []
        pixel_x, pixel_y = (max(abs(size), 1e-300) for size in box.viewPixelSize())
        for label in reversed(self.labels):
            place = label.pos()
            near = any(
                abs(place.x() - p.x()) < APART_X * pixel_x and abs(place.y() - p.y()) < APART_Y * pixel_y for p in kept
            )
            label.setVisible(not near)
            if not near:
                kept.append(place)

    def _add(self, item, bounds: bool = True) -> None:
        self.items.append(item)
        self.plot.addItem(item, ignoreBounds=not bounds)

    def restyle(self) -> None:
        """Takes the colours of the theme."""
        self.plot.setBackground(theme.color("paper"))
        for axis in self.axes.values():
            axis.restyle()
        self.plot.showGrid(x=True, y=True, alpha=0.22 if theme.palette.name == "day" else 0.3)


def graded(share: float, alpha: int = 255) -> QColor:
    """The hue of a family, from light to dark as its value goes up."""
    dark, light = theme.color("teal"), theme.color("line")
    mix = 0.25 + 0.75 * share
    color = QColor(
        *(round(mix * d + (1 - mix) * pale) for d, pale in zip(dark.getRgb()[:3], light.getRgb()[:3], strict=True))
    )
    color.setAlpha(alpha)
    return color


def _log(values: np.ndarray) -> np.ndarray:
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(np.abs(values) > LEAST, np.log10(np.abs(values)), np.nan)
