"""The chart sheet: a strip for each watch, under one cursor, and a table of one number at every condition."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from hearthline.app.charts.curves import cursor_text, watch_curve
from hearthline.app.charts.family import axes_of, group_lanes
from hearthline.app.charts.readings_panel import ReadingsPanel
from hearthline.app.charts.strip import Strip
from hearthline.app.panels.rows import offer
from hearthline.app.panels.value_field import set_wrong
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.bench import Watch
from hearthline.core.bench.readings import describe_lane
from hearthline.core.data.formula import Formula
from hearthline.core.errors import HearthlineError


class Sheet(QWidget):
    """Watches the desk's run; sends the pointer and clicks back to it."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.setObjectName("sheet")
        self.setMinimumWidth(300)
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.strips: list[Strip] = []
        self.curves: list[np.ndarray] = []
        self.shown_watches: tuple[Watch, ...] = ()
        self.axis = ""
        self.held = False
        self.note = QLabel()
        self.axis_button = QPushButton()
        self.readings = ReadingsPanel(desk)
        self.empty = QLabel()
        self._lay_out()
        desk.run_changed.connect(self.show_run)
        desk.document_changed.connect(self._document_changed)
        desk.lane_changed.connect(self._show_lane)
        desk.cursor_changed.connect(self._show_cursor)
        desk.point_solved.connect(self._show_live)
        desk.pointed_net_changed.connect(self._light_net)
        theme.changed.connect(self._restyle)
        self.show_run()

    def _lay_out(self) -> None:
        self.axis_button.setProperty("plain", True)
        self.axis_button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.axis_button.setToolTip("By which condition the curves are told apart")
        self.axis_button.clicked.connect(lambda _=False: self._offer_axes())
        for label in (self.note, self.empty):
            label.setProperty("quiet", True)
            label.setFont(text_font(11))
        self.empty.setFont(text_font(14))
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        head = QHBoxLayout()
        head.setContentsMargins(14, 8, 8, 0)
        head.addWidget(self.note)
        head.addStretch()
        head.addWidget(self.axis_button)
        self.stack = QVBoxLayout()
        self.stack.setSpacing(0)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(1, 0, 0, 8)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(self.empty, 1)
        layout.addLayout(self.stack, 1)
        layout.addWidget(self.readings)

    # -- the run

    def show_run(self) -> None:
        """Everything anew from the desk's dataset."""
        dataset, bench = self.desk.dataset, self.desk.bench
        self.held = False
        has = dataset is not None and bench is not None
        self.shown_watches = bench.watches if bench else ()
        self._empty_text(bench)
        for widget in (self.note, self.axis_button):
            widget.setVisible(has)
        self.empty.setVisible(not has)
        self._need_strips(len(bench.watches) if has else 0)
        if not has:
            return
        axes = axes_of(dataset)
        if self.axis not in axes:
            self.axis = axes[-1] if axes else ""
        self._show_note()
        self.axis_button.setVisible(bool(axes))
        self.axis_button.setText(f"told apart by {self.axis} …")
        family = group_lanes(dataset, self.axis, self._preferred())
        self.curves = []
        for strip, watch in zip(self.strips, bench.watches, strict=True):
            curve = watch_curve(dataset, watch)
            self.curves.append(curve)
            title = watch.title or watch.formula
            strip.show_curves(title, watch.unit, (dataset.axis, dataset.axis_unit), dataset.points, curve, family)
        self._show_live()
        self._show_cursor()

    def _empty_text(self, bench) -> None:
        self.empty.setText(
            "No run yet.\nPress Run, or Ctrl+Return, to sweep over all conditions."
            if bench
            else "No bench is open.\nChoose one in the shelf at the left."
        )

    def _preferred(self) -> dict[str, object]:
        try:
            condition = self.desk.snapshot.condition()
        except (HearthlineError, AttributeError):
            return {}
        return {"corner": condition.corner, "temperature": condition.celsius, **condition.parameters}

    def _need_strips(self, count: int) -> None:
        while len(self.strips) > count:
            self.strips.pop().deleteLater()
        while len(self.strips) < count:
            strip = Strip()
            strip.pointed.connect(self._pointed)
            strip.clicked.connect(self._clicked)
            self.strips.append(strip)
            self.stack.addWidget(strip, 3 if len(self.strips) == 1 else 2)
            if len(self.strips) > 1:
                strip.plot.setXLink(self.strips[0].plot)

    def _show_note(self) -> None:
        """What run this is, and on asking how it went; says so when the curves are not those of the circuit on the drawing."""
        if self.desk.dataset is None:
            return
        stale = self.desk.stale
        self.note.setText("made before the last change: press Run again" if stale else self.desk.run_note)
        set_wrong(self.note, stale)
        dataset = self.desk.dataset
        failed = [f"{describe_lane(dataset, lane)}: {text}" for lane, text in self.desk.failures.items()]
        self.note.setToolTip("\n".join([*failed, *self.desk.run_log]))

    def _document_changed(self) -> None:
        self._show_note()
        if self.desk.bench and self.desk.bench.watches != self.shown_watches:
            self.show_run()

    # -- cursor and choice

    def _pointed(self, x: float, lane: int) -> None:
        if not self.held:
            self.desk.move_cursor(x)
            self.desk.choose_lane(lane)

    def _clicked(self, x: float, lane: int) -> None:
        self.held = not self.held
        self.desk.move_cursor(x)
        self.desk.choose_lane(lane)

    def step_cursor(self, steps: int) -> None:
        """Moves the cursor along the points of the sweep."""
        dataset = self.desk.dataset
        if dataset is None:
            return
        x = self.desk.cursor if self.desk.cursor is not None else dataset.points[0]
        k = int(np.argmin(np.abs(dataset.points - x))) + steps
        self.held = True
        self.desk.move_cursor(float(dataset.points[max(0, min(len(dataset.points) - 1, k))]))

    def hold_cursor(self) -> None:
        """Leaves the cursor where it is until it is freed, or frees it."""
        self.held = not self.held and self.desk.cursor is not None

    def clear_cursor(self) -> None:
        """Takes the cursor away."""
        self.held = False
        self.desk.move_cursor(None)
        self.desk.choose_lane(-1)

    def _lane_read(self) -> int:
        """The lane that the cursor reads: the chosen one, or the one nearest to the live point's condition."""
        if 0 <= self.desk.lane < self.desk.dataset.lanes:
            return self.desk.lane
        family = group_lanes(self.desk.dataset, self.axis, self._preferred())
        wanted = self._preferred().get(self.axis)
        mains = np.flatnonzero(family.main)
        same = [lane for lane in mains if self.axis and self.desk.dataset.conditions[self.axis][lane] == wanted]
        return int(same[0] if same else mains[len(mains) // 2])

    def _show_cursor(self) -> None:
        dataset, x = self.desk.dataset, self.desk.cursor
        if dataset is None:
            return
        for strip, watch, curve in zip(self.strips, self.shown_watches, self.curves, strict=False):
            if x is None:
                strip.show_cursor(None)
                continue
            strip.show_cursor(x, cursor_text(dataset, watch, curve, self._lane_read(), x))

    def _show_lane(self) -> None:
        name = describe_lane(self.desk.dataset, self.desk.lane) if self.desk.lane >= 0 and self.desk.dataset else ""
        for strip in self.strips:
            strip.choose(self.desk.lane, name)
        if self.desk.cursor is not None:
            self._show_cursor()

    def _light_net(self) -> None:
        """The title of the strip that shows the pointed net is underlined."""
        for strip, watch in zip(self.strips, self.shown_watches, strict=False):
            font = text_font(12, bold=True)
            net = self.desk.pointed_net.lower()
            font.setUnderline(bool(net) and f"V({net})" in Formula(watch.formula).quantities)
            strip.title.setFont(font)

    def _show_live(self) -> None:
        answer, dataset = self.desk.point, self.desk.dataset
        live = answer.dataset if answer else None
        for strip, watch in zip(self.strips, self.shown_watches, strict=False):
            x = y = None
            if live is not None and dataset is not None:
                name = self.desk.bench.sweep.stimulus.lower()
                pin = self.desk.bench.stimulus(self.desk.bench.sweep.stimulus).pin.lower()
                try:
                    x = float(live.curves[f"V({pin})"][0, 0]) if f"I({name})" in live.curves else None
                    y = float(Formula.parse(watch.formula).value(live)[0, 0])
                except (HearthlineError, KeyError):
                    x = y = None
            strip.show_live(x, y)

    def _offer_axes(self) -> None:
        def choose(axis: str) -> None:
            self.axis = axis
            self.show_run()

        offer(self.axis_button, [(axis, lambda a=axis: choose(a)) for axis in axes_of(self.desk.dataset)])

    def _restyle(self) -> None:
        for strip in self.strips:
            strip.restyle()
        self._show_live()
