"""Markers that a person drops on curves, and the marks of where a reading was taken."""

from __future__ import annotations

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import Qt

from hearthline.app.charts.curves import Trace
from hearthline.app.charts.markers import SAMPLE, Marker, lines_of, neighbour, snap
from hearthline.app.panels.label import Label
from hearthline.app.theme.fonts import figure_font
from hearthline.core.bench.readings import describe_lane
from hearthline.core.data.apply import Mark
from hearthline.core.data.formula import Formula
from hearthline.core.errors import HearthlineError

if TYPE_CHECKING:
    from hearthline.app.charts.charts import Charts


class Marking:
    """Of one sheet. `panel` lists the markers with their differences."""

    def __init__(self, sheet: Charts) -> None:
        self.sheet = sheet
        self._all: list[Marker] = []
        self.panel = Label()
        self.panel.setFont(figure_font(11))
        self.panel.setContentsMargins(14, 4, 12, 0)
        self.panel.setWordWrap(True)
        self.panel.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.panel.setAccessibleName("markers")
        self.panel.hide()

    # -- markers of a person

    @property
    def markers(self) -> list[Marker]:
        """Those of the shown analysis."""
        return [one for one in self._all if one.analysis == self.sheet.results.analysis]

    def drop(self) -> None:
        """A marker on the pointed curve where the cursor is: on a crossing or summit near by, else on a point."""
        sheet = self.sheet
        strip, x = sheet.strip_read(), sheet.results.cursor
        if strip is None or x is None:
            return
        lane, trace = sheet.lane_read(), strip.nearest_trace(sheet.lane_read(), x)
        if not trace.rises:
            return
        x, snapped = snap(trace, lane, x, strip.reach(x), strip.traces)
        self._all.append(Marker(sheet.results.analysis, trace.watch.formula, trace.watch.scale, lane, x, snapped))
        self.show_markers()

    def clear(self) -> None:
        """No markers."""
        self._all = []
        self.show_markers()

    def step(self, steps: int, kind: str = SAMPLE) -> bool:
        """Moves the last marker along its curve; False where there is none."""
        if not self.markers:
            return False
        marker = self.markers[-1]
        found = self._traces().get((marker.formula, marker.scale))
        if found is None:
            return False
        strip = next(strip for strip in self.sheet.strips if found in strip.traces)
        x = neighbour(found, marker.lane, marker.x, steps, kind, strip.traces)
        self._all[self._all.index(marker)] = replace(marker, x=x, snapped=kind)
        self.show_markers()
        return True

    def _traces(self) -> dict[tuple[str, str], Trace]:
        return {(trace.watch.formula, trace.watch.scale): trace for trace in self.sheet.traces}

    def show_markers(self) -> None:
        """On the strips, and as lines under them."""
        traces, data = self._traces(), self.sheet.results.dataset
        markers = self.markers
        numbered = list(enumerate(markers, 1))
        for strip in self.sheet.strips:
            own = [(traces.get((m.formula, m.scale)), m.lane, m.x, n) for n, m in numbered]
            strip.show_markers([one for one in own if one[0] in strip.traces and one[1] < one[0].lanes])
        lanes = {m.lane for m in markers}
        names = {lane: describe_lane(data, lane) for lane in lanes if data is not None and lane < data.lanes}
        self.panel.setText("\n".join(lines_of(markers, traces, names)))
        self.panel.setVisible(bool(markers))

    # -- where a reading was taken

    def show_marks(self) -> None:
        """The places of the marked reading on the curve that the cursor reads."""
        sheet = self.sheet
        dataset, marks = sheet.results.dataset, sheet.results.marks
        if dataset is None or sheet.family is None:
            return
        lane = sheet.lane_read()
        for strip in sheet.strips:
            strip.show_marks([place for mark in marks for place in self._places(mark, strip, lane)])

    def _places(self, mark: Mark, strip, lane: int):
        """What of a mark belongs on a strip."""
        results = self.sheet.results
        reading = results.reading(results.marked)
        if reading is None:
            return
        analysis = mark.analysis or results.bench.analysis_of(reading)
        trace = self._trace_of(mark, strip)
        if analysis != results.analysis or trace is None or lane >= len(mark.places):
            return
        names = [mark.function.replace("_", " "), *[""] * mark.places.shape[1]]
        for x, name in zip(mark.places[lane], names, strict=False):
            if np.isfinite(np.real(x)):
                yield trace, lane, float(np.real(x)), name

    def _trace_of(self, mark: Mark, strip) -> Trace | None:
        """The curve of a strip that a mark is about: the same formula, else one of the same quantities."""
        same = [t for t in strip.traces if t.axis == mark.axis and t.rises]
        exact = next((t for t in same if t.watch.formula.replace(" ", "") == mark.text.replace(" ", "")), None)
        if exact is not None or not same:
            return exact
        names = self.sheet.results.bench.analysis_names
        try:
            wanted = set(Formula.parse(mark.text, names).quantities)
        except HearthlineError:
            return None
        return next((t for t in same if wanted & set(Formula.parse(t.watch.formula, names).quantities)), None)
