"""A strip whose curves lie in a plane: reflections on a Smith chart or by size and angle, with circles and targets."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPen

from hearthline.app.charts.curves import Trace
from hearthline.app.charts.family import CurveFamily
from hearthline.app.charts.plane_circles import side_of
from hearthline.app.charts.plane_grid import PlaneGrid
from hearthline.app.charts.reading_row import Reading, ReadingRow
from hearthline.app.charts.still_curves import StillCurves
from hearthline.app.charts.strip import NEAR_PIXELS, Entries, Strip, curve_color
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.data.circles import Circle
from hearthline.core.data.plane import POLAR
from hearthline.core.quantity import write

TURN = np.exp(2j * np.pi * np.linspace(0.0, 1.0, 181))
FIT_EDGE = 1.08
FEW_CURVES = 12
CIRCLE_ROLES = {"stability": "ember", "gain": "moss", "noise": "amber", "target": "teal"}
WORD_WAYS = {"stability": 1j, "gain": -1 - 0.6j, "noise": 0.3 + 1j, "target": -1j}
"""Where on a circle its word stands, so that those of different kinds do not meet."""
KINDS = ("stability", "gain", "noise")


class PlaneStrip(Strip):
    """Its axis is the one of the analysis, along each curve. `circles_of(strip, x)` gives what stands about the curves,
    `kinds` which of that is shown, for all charts."""

    def __init__(self, circles_of: Callable[[PlaneStrip, float], Iterable[Circle]], kinds: set[str]) -> None:
        self.circles_of, self.kinds = circles_of, kinds
        self.side = 0
        self.shown_at: float | None = None
        self.grid = PlaneGrid()
        self.words: list[pg.TextItem] = []
        self.rows: list[ReadingRow] = []
        self.here = pg.ScatterPlotItem(size=9, pxMode=True)
        self.faint = StillCurves()
        self.rings: dict[str, pg.PlotCurveItem] = {}
        self.circle_words: list[pg.TextItem] = []
        self.circles: list[Circle] = []
        super().__init__()
        self.box.setAspectLocked(True)
        for axis in self.axes.values():
            axis.hide()
        self.plot.addItem(self.grid, ignoreBounds=True)
        self.fitted = True
        self.box.zooming.connect(self._zoomed)
        self.box.sigResized.connect(lambda *_: self.fit() if self.fitted else None)
        for item, z in ((self.here, 50), (self.faint, 10)):
            self._added(item, z)

    # -- what is shown

    def show_traces(
        self, traces: list[Trace], family: CurveFamily, log_x: bool | None = None, fit: bool = True
    ) -> None:
        """Watches of one plane."""
        self.plane = next((trace.plane for trace in traces if trace.plane), POLAR)
        sizes = [np.abs(trace.points[np.isfinite(trace.points)]) for trace in traces if trace.points is not None]
        reach = max((float(one.max()) for one in sizes if len(one)), default=1.0)
        self.grid.show_plane(self.plane, max(1.0, reach) if self.plane == POLAR else 1.0)
        sides = [side_of(trace) for trace in traces if side_of(trace)]
        self.side = self.side if self.side in sides else next(iter(sides), 0)
        super().show_traces(traces, family, log_x, fit)
        self._write_words()

    def fit(self) -> None:
        """The whole chart."""
        self.fitted = True
        reach = FIT_EDGE * max(1.0, self.grid.reach)
        self.box.disableAutoRange()
        self.box.setRange(xRange=(-reach, reach), yRange=(-reach, reach), padding=0.0)

    def _zoomed(self) -> None:
        self.fitted = False

    def _row(self, trace: Trace, lane: int) -> np.ndarray:
        return trace.points[lane] if trace.points is not None else np.zeros(0, complex)

    def _thin(self, *_: object) -> None:
        for item, (k, lane) in zip(self.items, self.owners, strict=True):
            points = self._row(self.traces[k], lane)
            if item.xData is None or len(item.xData) != len(points):
                item.setData(points.real.copy(), points.imag.copy())
        self._show_dots()

    def style_curves(self) -> None:
        """Curves that do not stand for their group are one picture, unless one of them was chosen."""
        super().style_curves()
        if self.family is None:
            return
        together = len(self.items) > FEW_CURVES and self._chosen < 0
        faint = []
        for item, (_, lane) in zip(self.items, self.owners, strict=True):
            still = together and not self.family.main[lane]
            item.setVisible(not still)
            if still:
                faint.append(item)
        self.faint.show_curves((item.getPath(), item.opts["pen"]) for item in faint)

    def _name_axes(self) -> None:
        super()._name_axes()
        several = len(self.traces) > 1
        self.head.show_titles([
            (trace.watch.shown, trace.problem or f"{trace.watch.formula}: click for more, drag to another strip",
             curve_color(k).name() if several else "")
            for k, trace in enumerate(self.traces)
        ])  # fmt: skip
        first = self.trace
        self.against = f"along {first.axis}" if first else ""
        self.head.set_note(next((trace.problem for trace in self.traces if trace.problem), "") or self.against)

    def _label_groups(self) -> None:
        self.labels, self._labelled = [], []

    def _write_words(self) -> None:
        for item in self.words:
            self.plot.removeItem(item)
        self.words = []
        for x, y, text in self.grid.words():
            item = pg.TextItem(text, color=theme.color("quiet"), anchor=(0.5 - 0.5 * np.sign(x) * (abs(x) > 0.3), 0.5))
            if y == 0.0:
                item.setAnchor((0.0, 0.0))
            item.setFont(figure_font(9))
            item.setPos(x, y)
            item.setZValue(-10)
            self.plot.addItem(item, ignoreBounds=True)
            self.words.append(item)

    def show_ghosts(self, traces: list[Trace], lanes: list[int], whole: bool = False) -> None:
        """Curves of another run behind these."""
        for item in self.ghosts:
            self.plot.removeItem(item)
        self.ghosts = []
        for trace in traces:
            for lane in (one for one in lanes if one < trace.lanes):
                points = self._row(trace, lane)
                pen = pg.mkPen(theme.color("quiet"), width=1.4, style=Qt.PenStyle.DotLine)
                item = pg.PlotCurveItem(points.real.copy(), points.imag.copy(), pen=pen, connect="finite")
                item.setZValue(5)
                self.plot.addItem(item, ignoreBounds=True)
                self.ghosts.append(item)

    def show_live(self, x: float | None, y: float | None) -> None:
        """The operating point has no place here."""

    # -- places

    def show_marks(self, places: list[tuple[Trace, int, float, str]]) -> None:
        """Where a reading was taken."""
        for item in self.marks:
            self.plot.removeItem(item)
        self.marks = [
            item
            for trace, lane, x, name in places
            for item in self._spot(trace.point(lane, x), name, "ember", "o", text_font(11, bold=True))
        ]

    def show_markers(self, markers: list[tuple[Trace, int, float, int]]) -> None:
        """Markers of a person."""
        for item in self.markers:
            self.plot.removeItem(item)
        self.markers = [
            item
            for trace, lane, x, number in markers
            for item in self._spot(trace.point(lane, x), str(number), "ink", "d", figure_font(11))
        ]

    def _spot(self, at: complex, name: str, role: str, symbol: str, font) -> Iterator[pg.GraphicsObject]:
        if not np.isfinite(at):
            return
        pen = pg.mkPen(theme.color(role), width=1.8)
        brush = pg.mkBrush(theme.color("paper")) if symbol == "d" else None
        yield self._added(pg.ScatterPlotItem([at.real], [at.imag], size=11, symbol=symbol, pen=pen, brush=brush), 46)
        text = pg.TextItem(name, color=theme.color("ember_ink" if role == "ember" else role), anchor=(-0.2, 1.1))
        text.setFont(font)
        text.setPos(at.real, at.imag)
        yield self._added(text, 47)

    def _added(self, item: pg.GraphicsObject, z: int) -> pg.GraphicsObject:
        item.setZValue(z)
        self.plot.addItem(item, ignoreBounds=True)
        return item

    def show_cursor(self, x: float | None, readings: tuple[Reading, ...] = ()) -> None:
        """A ring on each curve that stands for its group, the circles of that place, and what is read there."""
        if x is None:
            self._need_rows(0)
        spots = []
        if x is not None and self.family is not None:
            for k, trace in enumerate(self.traces):
                for lane, _ in self.family.mains or [(0, "")]:
                    at = trace.point(lane, x)
                    if np.isfinite(at):
                        spots.append(
                            {
                                "pos": (at.real, at.imag),
                                "pen": self.pen_of(k, lane),
                                "brush": pg.mkBrush(theme.color("paper")),
                            }
                        )
        self.here.setData(spots)
        self.show_circles(x)

    def show_circles(self, x: float | None) -> None:
        """Of stability, gain and noise at a place of the axis, and the targets."""
        self.shown_at = x
        found = self.circles_of(self, np.nan if x is None else x)
        self.circles = [one for one in found if one.kind not in KINDS or one.kind in self.kinds]
        for kind in CIRCLE_ROLES:
            own = [one for one in self.circles if one.kind == kind]
            self._ring(kind, own, self._pen(kind), 15)
        edge = [one for one in self.circles if one.kind == "stability"]  # a band on the side where it is not stable
        aside = [replace(one, radius=one.radius * (0.96 if one.inside else 1.04)) for one in edge]
        wash = QPen(theme.color("ember_wash"), 7.0)
        wash.setCosmetic(True)
        self._ring("unstable side", aside, wash, 3)
        self._label_circles()

    def _pen(self, kind: str) -> QPen:
        pen = QPen(theme.color(CIRCLE_ROLES[kind]), 2.0 if kind in ("target", "stability") else 1.3)
        pen.setCosmetic(True)
        if kind != "stability":
            pen.setStyle(Qt.PenStyle.DashLine)
        return pen

    def _ring(self, name: str, circles: list[Circle], pen: QPen, z: int) -> None:
        """All circles of a kind as one curve with gaps, which is quick to move."""
        item = self.rings.get(name)
        if item is None:
            item = self.rings[name] = self._added(pg.PlotCurveItem(connect="finite", skipFiniteCheck=False), z)
        gap = np.array([complex(np.nan, np.nan)])
        points = [part for one in circles for part in (one.center + one.radius * TURN, gap)]
        whole = np.concatenate(points) if points else np.zeros(0, complex)
        item.setData(whole.real.copy(), whole.imag.copy(), pen=pen)

    def _label_circles(self) -> None:
        wanted = []
        for one in self.circles:
            at = self._word_place(one.center + one.radius * TURN, WORD_WAYS[one.kind])
            if one.label and at is not None:
                wanted.append((at, one.label, "ember_ink" if one.kind == "stability" else "quiet"))
        while len(self.circle_words) < len(wanted):
            text = pg.TextItem(anchor=(0.5, 0.5))
            text.setFont(figure_font(9))
            self.circle_words.append(self._added(text, 17))
        for item in self.circle_words[len(wanted) :]:
            item.hide()
        for item, (at, label, role) in zip(self.circle_words, wanted, strict=False):
            item.setText(label, theme.color(role))
            item.setPos(at.real, at.imag)
            item.show()

    @staticmethod
    def _word_place(points: np.ndarray, way: complex) -> complex | None:
        """The point of a circle that is on the chart and furthest in a direction."""
        seen = points[np.abs(points) < 1.0]
        return complex(seen[np.argmax((seen * np.conj(way)).real)]) if len(seen) else None

    # -- the pointer

    def nearest(self, position: QPointF) -> tuple[float, int]:
        """The place of the axis of the curve's point that is nearest, and its lane where that is a few pixels away, else -1."""
        place = self.box.mapSceneToView(position)
        pixel = max(self.box.viewPixelSize()[0], 1e-12)
        best, x, found = np.inf, float("nan"), -1
        for k, lane in self.owners:
            points = self._row(self.traces[k], lane)
            away = np.abs(points - complex(place.x(), place.y()))
            if not len(away) or np.isnan(away).all():
                continue
            at = int(np.nanargmin(away))
            if away[at] < best:
                best = float(away[at])
                x = float(self.traces[k].row(lane)[0][at])
                found = lane if best < NEAR_PIXELS * pixel else -1
        return x, found

    def reach(self, x: float) -> float:
        """Markers stay where they are dropped."""
        return 0.0

    def nearest_trace(self, lane: int, x: float) -> Trace:
        """The curve whose point at x is closest to the pointer."""
        place = self.box.mapSceneToView(self.last_place)
        away = [abs(t.point(lane, x) - complex(place.x(), place.y())) for t in self.traces]
        away = [one if np.isfinite(one) else np.inf for one in away]
        return self.traces[int(np.argmin(away))]

    # -- what is read

    def readings_at(self, lane: int, name: str, x: float) -> Iterator[tuple[Reading, ...]]:
        """Of each curve at x, a row or two: the reflection, impedance and admittance, what a mismatch loses, the standing-wave
        ratio."""
        first = self.traces[0]
        yield Reading(first.axis, write(x, first.axis_unit, 4)), Reading(name, "")
        for k, trace in enumerate(self.traces):
            one = trace.reflection(lane, x)
            own = Reading(trace.watch.shown, angled(one.gamma), self.pen_of(k, lane), True)
            if self.plane == POLAR:
                yield own, Reading("", plain(one.gamma))
                continue
            yield own, Reading("Z", f"{plain(one.impedance)} Ω")
            yield (
                Reading("Y", f"{plain(1e3 * one.admittance)} mS"), Reading("SWR", f"{one.standing_wave_ratio:.3g}"),
                Reading("lost", write(one.mismatch_loss, "dB", 3)),
            )  # fmt: skip

    def show_rows(self, lane: int, name: str, x: float) -> None:
        """What is read at x: in the row above the chart, and in rows below it."""
        first, *rest = self.readings_at(lane, name, x)
        self.readout.show_readings(first)
        self._need_rows(len(rest))
        for row, readings in zip(self.rows, rest, strict=True):
            row.show_readings(readings)

    def _need_rows(self, count: int) -> None:
        while len(self.rows) > count:
            self.rows.pop().deleteLater()
        while len(self.rows) < count:
            row = ReadingRow()
            self.layout().addWidget(row)
            self.rows.append(row)

    def own_entries(self) -> Entries:
        """Circles that are shown or not, and the way to a match."""

        def turn(kind: str) -> Callable[[], None]:
            def act() -> None:
                self.kinds.symmetric_difference_update({kind})
                self.show_circles(self.shown_at)

            return act

        if self.plane == POLAR or not self.side:
            return []
        other = next((side_of(trace) for trace in self.traces if side_of(trace) not in (0, self.side)), 0)
        sides: Entries = [(f"circles in the plane of port {other}", lambda: self._turn_to(other))] if other else []
        return sides + [
            (f"no circles of {kind}" if kind in self.kinds else f"circles of {kind}", turn(kind)) for kind in KINDS
        ]

    def _turn_to(self, side: int) -> None:
        self.side = side
        self.show_circles(self.shown_at)

    def restyle(self) -> None:
        """Takes the colours of the theme."""
        super().restyle()
        self.plot.showGrid(x=False, y=False)
        self.cursor.hide()
        if self.words:
            self._write_words()
            self.show_circles(self.shown_at)


def angled(value: complex) -> str:
    """`0.312 ∠ -45.1°`"""
    return f"{abs(value):.3g} ∠ {np.degrees(np.angle(value)):.1f}°" if np.isfinite(value) else "none"


def plain(value: complex) -> str:
    """`40.2 + j12.1`"""
    if not np.isfinite(value):
        return "∞"
    return f"{value.real:.4g} {'+' if value.imag >= 0 else '-'} j{abs(value.imag):.4g}"
