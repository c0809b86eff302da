"""The chart sheet: the strips of one analysis under one cursor, and a table of one number at every condition."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from hearthline.app.charts.curves import Trace, groups, in_strips, range_at, read_at, trace_of
from hearthline.app.charts.family import CurveFamily, axes_of, group_lanes, telling_axis
from hearthline.app.charts.marking import Marking
from hearthline.app.charts.part_watches import net_watches, part_watches
from hearthline.app.charts.plane_circles import circles_at, targets
from hearthline.app.charts.plane_strip import PlaneStrip
from hearthline.app.charts.reading_row import Reading
from hearthline.app.charts.readings_panel import ReadingsPanel
from hearthline.app.charts.strip import Strip
from hearthline.app.charts.strip_menu import sheet_entries, strip_entries
from hearthline.app.charts.usual import usual_watches
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, clear, offer
from hearthline.app.panels.value_field import set_wrong
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.bench import Bench, Watch
from hearthline.core.bench.readings import describe_lane
from hearthline.core.data.circles import Circle
from hearthline.core.data.dataset import AROUND
from hearthline.core.data.formula import Formula
from hearthline.core.data.heat import tells_heat
from hearthline.core.data.plane import PLANES
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import write

STEPS_BACK = 30
"""Zooms that can be undone."""


class Sheet(QWidget):
    """Watches the desk's results; sends the pointer and clicks back to them."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.results = desk, desk.results
        self.setObjectName("sheet")
        self.setMinimumWidth(300)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.strips: list[Strip] = []
        self.shown_watches: tuple[Watch, ...] = ()
        self._of_part: tuple[Watch, ...] = ()
        self.family: CurveFamily | None = None
        self.axis = self._axis_for = ""
        self.held = False
        self.log_x: bool | None = None
        self.with_points = False
        self.circle_kinds = {"stability"}
        self.pointed_strip = -1
        self._ranges: list[list] = []
        self.chips: dict[str, QPushButton] = {}
        self.note, self.empty = Label(), Label()
        self.axis_button, self.more_button = self._button(), self._button()
        self.readings = ReadingsPanel(desk)
        self.marking = Marking(self)
        self._lay_out()
        results = self.results
        for signal in (results.run_changed, results.analysis_changed, results.ghost_changed):
            signal.connect(self.show_run)
        desk.document_changed.connect(self._document_changed)
        desk.selection_changed.connect(self._selected)
        results.stale_changed.connect(self._show_note)
        results.lane_changed.connect(self._show_lane)
        results.cursor_changed.connect(self._show_cursor)
        results.marked_changed.connect(self.marking.show_marks)
        results.verdicts_changed.connect(self.marking.show_marks)
        desk.bench_changed.connect(self.marking.clear)
        desk.point_solved.connect(self._show_live)
        desk.pointed_net_changed.connect(self._light_net)
        theme.changed.connect(self._restyle)
        self.show_run()

    def _button(self) -> QPushButton:
        button = QPushButton()
        button.setProperty("plain", True)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return button

    def _lay_out(self) -> None:
        self.axis_button.setToolTip("By which condition the curves are told apart")
        self.axis_button.clicked.connect(lambda _=False: self._offer_axes())
        self.more_button.setText("more …")
        self.more_button.setToolTip("Points, scale of the axis, pictures and numbers of the charts")
        self.more_button.clicked.connect(lambda _=False: offer(self.more_button, sheet_entries(self)))
        for label in (self.note, self.empty):
            label.setProperty("quiet", True)
            label.setFont(text_font(11))
        self.empty.setFont(text_font(14))
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.chip_row = QHBoxLayout()
        self.chip_row.setSpacing(4)
        self.chip_row.setContentsMargins(12, 6, 8, 0)
        head = QHBoxLayout()
        head.setContentsMargins(14, 8, 8, 0)
        head.addWidget(self.note)
        head.addStretch()
        head.addWidget(self.axis_button)
        head.addWidget(self.more_button)
        self.stack, self.planes = QVBoxLayout(), QVBoxLayout()
        beside = QHBoxLayout()
        for column in (self.planes, self.stack):
            column.setSpacing(0)
            beside.addLayout(column, 1)
        self.beside = beside
        layout = QVBoxLayout(self)
        layout.setContentsMargins(1, 0, 0, 8)
        layout.setSpacing(0)
        layout.addLayout(self.chip_row)
        layout.addLayout(head)
        layout.addWidget(self.empty, 1)
        layout.addLayout(beside, 1)
        layout.addWidget(self.marking.panel)
        layout.addWidget(self.readings)

    # -- the run

    @property
    def traces(self) -> list[Trace]:
        """Everything that is drawn."""
        return [trace for strip in self.strips for trace in strip.traces]

    def show_run(self) -> None:
        """Everything anew from the shown analysis."""
        dataset, bench = self.results.dataset, self.desk.bench
        self.held, self._ranges, self.pointed_strip = False, [], -1
        has = dataset is not None and bench is not None
        self._of_part = self._part_watches() if has else ()
        self.shown_watches = bench.watches if bench else ()
        self._show_chips()
        shown = self._groups(bench) if has else []
        self._empty_text(bench, has)
        for widget in (self.note, self.axis_button, self.more_button):
            widget.setVisible(has)
        self.empty.setVisible(not shown)
        self._need_strips([watches[0].scale in PLANES for watches in shown])
        for strip in self.strips:
            strip.show()
        if not has:
            return
        results = self.results.run.results
        drawn = [[trace_of(bench, results, watch) for watch in watches] for watches in shown]
        self._choose_axis(drawn)
        self._show_note()
        self.family = group_lanes(dataset, self.axis, self._preferred())
        for strip, traces in zip(self.strips, drawn, strict=True):
            strip.show_traces(traces, self.family, self.log_x)
            strip.show_points(self.with_points)
        for strip in self.strips:  # angles need less
            less = strip.trace is not None and strip.trace.unit == "°"
            self.stack.setStretchFactor(strip, 2 if less else 3)
        for k, plane in enumerate((True, False)):  # a column without strips takes no room
            self.beside.setStretch(k, int(any(isinstance(strip, PlaneStrip) == plane for strip in self.strips)))
        self._link(dataset.axis)
        self._show_ghosts(shown)
        self.marking.show_marks()
        self.marking.show_markers()
        self._show_live()
        self._show_lane()
        self._show_cursor()

    def _groups(self, bench: Bench) -> list[tuple[Watch, ...]]:
        """Of the selected device where the analysis says something of it, else of the bench."""
        own = self._part_watches()
        return in_strips(own) if own else groups(bench, self.results.analysis, self.results.dataset)

    def _part_watches(self) -> tuple[Watch, ...]:
        selected, instance = self.desk.selection, self.desk.instance
        results = self.results
        if selected.kind == "net" and instance is not None:
            return net_watches(results.analysis, results.dataset, instance.net(selected.name), self.lane_read())
        flat = instance.part(selected.name) if selected.kind == "part" and instance is not None else ""
        return part_watches(self.desk.bench, results.analysis, results.dataset, flat, self.lane_read())

    def _selected(self) -> None:
        """Another device: its curves where there are some, and those of the bench again where there are none."""
        watches = self._part_watches() if self.results.dataset is not None and self.desk.bench is not None else ()
        if watches != self._of_part:
            self.show_run()

    def _choose_axis(self, drawn: list[list[Trace]]) -> None:
        """The axis that a person chose for this bench, or the one that curves differ along most."""
        axes = axes_of(self.results.dataset)
        if self._axis_for != self.desk.bench_key or self.axis not in axes:
            rows = next((trace.y for traces in drawn for trace in traces if trace.y.size), np.zeros((0, 0)))
            self.axis = telling_axis(self.results.dataset, rows) if len(rows) else axes[-1] if axes else ""
        self.axis_button.setVisible(bool(axes))
        self.axis_button.setText(f"by {self.axis} …")

    def _show_chips(self) -> None:
        """A word for each analysis, where there are several."""
        names = self.desk.bench.analysis_names if self.desk.bench else ()
        if tuple(self.chips) != names:
            clear(self.chip_row)
            self.chips = {n: chip(n, lambda n=n: self.results.show_analysis(n), "", True) for n in names}
            for analysis, button in zip(self.desk.bench.analyses if names else (), self.chips.values(), strict=True):
                button.setToolTip(analysis.text)
                self.chip_row.addWidget(button)  # first: without a parent it would be a window of its own
                button.setVisible(len(names) > 1)
            self.chip_row.addStretch()
        for name, button in self.chips.items():
            button.setChecked(name == self.results.analysis)

    def _empty_text(self, bench, has: bool) -> None:
        if bench is None:
            self.empty.setText("No bench is open.\nChoose one on the shelf: S opens it.")
        elif has:
            self.empty.setText("Nothing is watched here.\nPoint at a net, a terminal or a device and press B.")
        elif not bench.name:
            self.empty.setText(f"{bench.cell} is shown without a bench.\nCtrl+E makes one for it.")
        elif not bench.analyses:
            self.empty.setText("This bench has no analysis yet.\nAdd one under bench, above.")
        elif self.results.run is not None:
            self.empty.setText(f"{self.results.analysis} has not run yet.\nPress Run, or Ctrl+Return.")
        else:
            self.empty.setText("No run yet.\nPress Run, or Ctrl+Return, to go through all conditions.")

    def _preferred(self) -> dict[str, object]:
        try:
            condition = self.results.chosen or self.desk.snapshot.condition()
        except (HearthlineError, AttributeError):
            return {}
        around = {AROUND: condition.around} if condition.around else {}
        return {"corner": condition.corner, "temperature": condition.celsius, **condition.parameters, **around}

    def _need_strips(self, planes: list[bool]) -> None:
        same = 0
        while same < min(len(planes), len(self.strips)) and isinstance(self.strips[same], PlaneStrip) == planes[same]:
            same += 1
        while len(self.strips) > same:
            gone = self.strips.pop()
            gone.hide()  # it is deleted when the window next has time
            gone.deleteLater()
        for plane in planes[same:]:
            strip = PlaneStrip(self._circles, self.circle_kinds) if plane else Strip()
            strip.pointed.connect(lambda x, lane, s=strip: self._pointed(s, x, lane))
            strip.clicked.connect(lambda x, lane, s=strip: self._clicked(s, x, lane))
            strip.box.zooming.connect(self._remember_ranges)
            strip.box.fit_wanted.connect(self.fit)
            strip.box.menu_wanted.connect(lambda place, s=strip: self._offer_strip(s, 0))
            strip.head.clicked.connect(lambda k, place, s=strip: self._offer_strip(s, k))
            strip.head.doubled.connect(lambda s=strip: self.enlarge(s))
            strip.head.dragged.connect(self._show_target)
            strip.head.dropped.connect(lambda k, place, s=strip: self._drop(s, k, place))
            self.strips.append(strip)
            (self.planes if plane else self.stack).addWidget(strip, 3)

    def enlarge(self, strip: Strip) -> None:
        """One strip alone, or all of them again."""
        alone = all(one.isHidden() for one in self.strips if one is not strip) and len(self.strips) > 1
        for one in self.strips:
            one.setVisible(alone or one is strip)

    def _link(self, axis: str) -> None:
        """Strips over the axis of the analysis move together; a spectrum or one curve against another by itself."""
        flat = [strip for strip in self.strips if not isinstance(strip, PlaneStrip)]
        first = next((strip for strip in flat if strip.trace and strip.trace.axis == axis), None)
        for strip in flat:
            together = first is not None and strip is not first and strip.trace is not None and strip.trace.axis == axis
            strip.plot.setXLink(first.plot if together else None)

    def _show_ghosts(self, shown) -> None:
        """The pinned run, or the circuit without its heat, behind: lanes of the same conditions, or the first."""
        behind, _ = self.results.behind
        data = behind.get(self.results.analysis)
        for strip, watches in zip(self.strips, shown, strict=True):
            if data is None:
                strip.show_ghosts([], [])
                continue
            lanes = group_lanes(data, self.axis, self._preferred()).mains or [(0, "")]
            cold = self.results.ghost is None  # temperatures are not worth a line there
            wanted = [one for one in watches if not (cold and tells_heat(one.formula))]
            traces = [trace_of(self.desk.bench, behind, watch) for watch in wanted]
            strip.show_ghosts([trace for trace in traces if not trace.problem], [lane for lane, _ in lanes], cold)

    def _show_note(self) -> None:
        """What run this is, and on asking how it went; says so when the curves are not those of the circuit on the drawing."""
        if self.results.run is None:
            return
        stale, run, dataset = self.results.stale, self.results.run, self.results.dataset
        note = "made before the last change: press Run again" if stale else self.results.note
        if self.results.missing and not stale:
            note = f"{self.results.missing} conditions are not computed yet: press Run"
        if behind := self.results.behind[1]:
            note += f" · behind it {behind}"
        self.note.setText(note)
        set_wrong(self.note, stale or bool(self.results.missing))
        failed = [
            f"{describe_lane(dataset, lane)}: {text}"
            for lane, text in run.failures.get(self.results.analysis, {}).items()
            if dataset is not None and lane < dataset.lanes
        ]
        self.note.setToolTip("\n".join([*failed, *run.log]))

    def _document_changed(self) -> None:
        self._show_note()
        bench = self.desk.bench
        if bench and (bench.watches != self.shown_watches or tuple(self.chips) != bench.analysis_names):
            self.show_run()

    # -- cursor and choice

    def _circles(self, strip: PlaneStrip, x: float) -> Iterator[Circle]:
        """About the curves of a plane: targets, and at the cursor, or at the last marker, what the two-port has there."""
        data, bench = self.results.dataset, self.desk.bench
        if data is None or bench is None:
            return
        yield from targets(bench, strip.traces, self.results.analysis)
        if np.isnan(x) and self.marking.markers:
            x = self.marking.markers[-1].x
        if data.kind == "scattering":
            yield from circles_at(data, strip.side, self.lane_read(), x)

    def _pointed(self, strip: Strip, x: float, lane: int) -> None:
        self.pointed_strip = self.strips.index(strip)
        if not self.held and not np.isnan(x):
            self.results.move_cursor(x)
            self.results.choose_lane(lane)

    def _clicked(self, strip: Strip, x: float, lane: int) -> None:
        self.pointed_strip = self.strips.index(strip)
        self.held = not self.held
        self.results.move_cursor(x)
        self.results.choose_lane(lane)

    def step_cursor(self, steps: int) -> None:
        """Moves the last marker along the points of its curve, or the cursor along those of the first."""
        if self.marking.step(steps):
            return
        strip = self.strip_read()
        if strip is None:
            return
        xs = np.sort(strip.trace.row(self.lane_read())[0])
        if not len(xs):
            return
        x = self.results.cursor if self.results.cursor is not None else xs[0]
        k = int(np.argmin(np.abs(xs - x))) + steps
        self.held = True
        self.results.move_cursor(float(xs[max(0, min(len(xs) - 1, k))]))

    def strip_read(self) -> Strip | None:
        """The strip that the pointer was over last, or the first with curves."""
        with_curves = [strip for strip in self.strips if strip.trace and strip.trace.y.size]
        pointed = self.strips[self.pointed_strip] if 0 <= self.pointed_strip < len(self.strips) else None
        if pointed in with_curves:
            return pointed
        axis = self.results.dataset.axis if self.results.dataset is not None else ""
        return next(iter([*(strip for strip in with_curves if strip.trace.axis == axis), *with_curves]), None)

    def clear_cursor(self) -> None:
        """Takes the cursor away, and all markers."""
        self.held = False
        self.marking.clear()
        self.results.move_cursor(None)
        self.results.choose_lane(-1)

    def lane_read(self) -> int:
        """The lane that the cursor reads: the chosen one, or the one nearest to the live point's condition."""
        dataset = self.results.dataset
        if 0 <= self.results.lane < dataset.lanes:
            return self.results.lane
        family = self.family
        if family is None or len(family.group) != dataset.lanes:  # of the analysis before
            family = group_lanes(dataset, self.axis, self._preferred())
        wanted = self._preferred().get(self.axis)
        mains = np.flatnonzero(family.main)
        same = [
            lane for lane in mains if self.axis in dataset.conditions and dataset.conditions[self.axis][lane] == wanted
        ]
        return int(same[0] if same else mains[len(mains) // 2])

    def _show_cursor(self) -> None:
        dataset, x = self.results.dataset, self.results.cursor
        if dataset is None or not self.strips:
            return
        lane = self.lane_read()
        reader = self.strip_read()
        for strip in self.strips:
            shared = strip.trace is not None and reader is not None and strip.trace.axis == reader.trace.axis
            if isinstance(strip, PlaneStrip) and x is not None and shared and strip.trace.y.size:
                strip.show_cursor(x)
                strip.show_rows(lane, describe_lane(dataset, lane), x)
                continue
            if x is None or not shared or not strip.trace.y.size:
                strip.show_cursor(None)
                strip.readout.show_readings(tuple(self._legend(strip)))
                continue
            strip.show_cursor(x, tuple(self._readings(strip, lane, x)))

    def _legend(self, strip: Strip) -> Iterator[Reading]:
        """Without a cursor the row says which line is which, where there are several."""
        if strip.trace is not None and len(strip.traces) == 1 and self.family is not None and self.family.axis:
            for lane, name in self.family.mains:
                yield Reading(name, "", strip.pen_of(0, lane))

    def _readings(self, strip: Strip, lane: int, x: float) -> Iterator[Reading]:
        """The place of the cursor; then the chosen curve with its slope, those that stand for their groups, and the range of
        all; or each of several watches."""
        trace, name = strip.trace, describe_lane(self.results.dataset, lane)
        yield Reading(trace.axis, write(x, trace.axis_unit, 4))
        if len(strip.traces) > 1:
            for k, one in enumerate(strip.traces):
                for at, _, value in read_at(one, [(lane, name)], x):
                    yield Reading(one.watch.shown, value, strip.pen_of(k, at))
            return
        if not trace.rises:
            return
        slope, unit = trace.slope_along(lane, x, strip.log_x)
        for at, words, value in read_at(trace, [(lane, name)], x):
            yield Reading(words, value, strip.pen_of(0, at), True)
        yield Reading("slope", write(slope, unit, 3))
        for at, words, value in read_at(trace, [one for one in self.family.mains if one[0] != lane], x):
            yield Reading(words, value, strip.pen_of(0, at))
        spread = range_at(trace, x)
        if spread:
            yield Reading("all", spread)

    def _show_lane(self) -> None:
        lane, dataset = self.results.lane, self.results.dataset
        name = describe_lane(dataset, lane) if lane >= 0 and dataset is not None and lane < dataset.lanes else ""
        for strip in self.strips:
            strip.choose(lane, name)
        self.marking.show_marks()
        if self.results.cursor is not None:
            self._show_cursor()

    def _light_net(self) -> None:
        """The title of the strip that shows the pointed net is underlined."""
        net = self.desk.pointed_net.lower()
        names = self.desk.bench.analysis_names if self.desk.bench else ()
        for strip in self.strips:
            for title, trace in zip(strip.head.titles, strip.traces, strict=False):
                font = text_font(12, bold=True)
                quantities = Formula.parse(trace.watch.formula, names).quantities
                font.setUnderline(bool(net) and f"V({net})" in quantities)
                title.setFont(font)

    def _show_live(self) -> None:
        """The live point on the curves, where what is swept has a value there."""
        answer, dataset = self.desk.point, self.results.dataset
        live = answer.dataset if answer else None
        for strip in self.strips:
            x = y = None
            trace = strip.trace
            if live is not None and dataset is not None and trace is not None and dataset.kind == "dc":
                x = answer.value_of(dataset.axis) if trace.axis == dataset.axis else None
                try:
                    y = float(Formula.parse(trace.watch.formula).value(live)[0, 0]) if x is not None else None
                except HearthlineError:
                    x = y = None
            strip.show_live(x, y)

    # -- zoom

    def _remember_ranges(self) -> None:
        self._ranges = [*self._ranges[-STEPS_BACK:], [strip.plot.viewRange() for strip in self.strips]]

    def zoom_back(self) -> None:
        """The ranges before the last zoom."""
        if not self._ranges:
            return
        for strip, (x, y) in zip(self.strips, self._ranges.pop(), strict=False):
            strip.box.setRange(xRange=x, yRange=y, padding=0)

    def fit(self) -> None:
        """Everything in view; a step that can be undone."""
        self._remember_ranges()
        for strip in self.strips:
            strip.fit()

    def show_points(self, shown: bool) -> None:
        """A dot at each computed point."""
        self.with_points = shown
        for strip in self.strips:
            strip.show_points(shown)

    def set_log_x(self, log: bool | None) -> None:
        """A logarithmic axis or not; None for what is usual."""
        self.log_x = log
        self.show_run()

    # -- watches

    def change_watch(self, watch: Watch, new: Watch | None, text: str) -> None:
        """Another watch in the place of one, or none."""
        bench = self.desk.bench
        usual = usual_watches(bench, self.results.analysis, self.results.dataset)
        own = (
            bench.watches if watch in bench.watches else (*bench.watches, *(self._of_part or usual))
        )  # a changed one is kept
        watches = [new if one == watch else one for one in own]
        self.desk.change_bench(replace(bench, watches=tuple(one for one in watches if one is not None)), text)

    def _offer_strip(self, strip: Strip, k: int) -> None:
        offer(strip.head.titles[k] if k < len(strip.head.titles) else strip, strip_entries(self, strip, k))

    def _strip_at(self, place: QPoint) -> Strip | None:
        return next((s for s in self.strips if s.rect().contains(s.mapFromGlobal(place))), None)

    def _show_target(self, place: QPoint) -> None:
        """The strip under a watch that is dragged."""
        target = self._strip_at(place)
        for strip in self.strips:
            strip.plot.setBackground(theme.color("teal_wash" if strip is target else "paper"))

    def _drop(self, strip: Strip, k: int, place: QPoint) -> None:
        target = self._strip_at(place)
        for one in self.strips:
            one.plot.setBackground(theme.color("paper"))
        if target is None or target is strip:
            if target is None and len(strip.traces) > 1:
                self.join(strip.traces[k].watch, None)
            return
        self.join(strip.traces[k].watch, target.traces[0].watch)

    def join(self, watch: Watch, other: Watch | None) -> None:
        """Puts a watch into the strip of another, or into one of its own."""
        bench = self.desk.bench
        taken = {one.strip for one in bench.watches}
        name = next(str(n) for n in range(1, 1000) if str(n) not in taken)
        if other is None:
            watches = [replace(one, strip="") if one is watch else one for one in bench.watches]
        else:
            name = other.strip or name
            watches = [replace(one, strip=name) if one in (watch, other) else one for one in bench.watches]
        self.desk.change_bench(replace(bench, watches=tuple(watches)), f"{watch.shown} to another strip")

    # -- the rest

    def _offer_axes(self) -> None:
        def choose(axis: str) -> None:
            self.axis, self._axis_for = axis, self.desk.bench_key
            self.show_run()

        offer(self.axis_button, [(axis, lambda a=axis: choose(a)) for axis in axes_of(self.results.dataset)])

    def _restyle(self) -> None:
        for strip in self.strips:
            strip.restyle()
        self._show_live()
        self.marking.show_marks()
        self.marking.show_markers()
