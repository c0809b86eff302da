"""The die as a plan with its temperature: the parts of the shown bench at its operating point."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QSignalBlocker, Qt
from PyQt6.QtWidgets import QPushButton, QSlider, QVBoxLayout, QWidget

from hearthline.app.heat.die_drawing import DieDrawing
from hearthline.app.heat.part_line import PartLine
from hearthline.app.heat.stops import Stop, stops_of
from hearthline.app.heat.trying import TryPanel
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import heading
from hearthline.app.state.desk import Desk
from hearthline.core.bench.heat import HeatSetup
from hearthline.core.bench.heat_placing import moved_to, placed, with_line
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.heat import power_label
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import write
from hearthline.core.thermal.die import Plan

NOTHING = (
    "This bench has no die. Put its devices on one, or write one into its text (bench, as text):\n\n"
    '[heat]\ndie = "400u, 300u, 100u"\nconductivity = "148"\n\n'
    '[[heat.sources]]\npart = "m1"\nat = "200u, 150u"\nsize = "2u, 20u"\nfingers = "3"\npitch = "10u"'
)


class DieView(QWidget):
    """Follows the live operating point; a click on a finger selects its part on the drawing."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.drawing, self.said, self.sums = DieDrawing(), Label(), Label()
        self.along = QSlider(Qt.Orientation.Horizontal)
        self.stops: list[Stop] = []
        self._scale: tuple[float, float] | None = None
        self.along.setAccessibleName("along the run")
        self.along.setPageStep(1)
        self.along.valueChanged.connect(lambda _: self.follow())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 8, 14, 8)
        layout.addWidget(heading("Die"))
        for label in (self.said, self.sums):
            label.setProperty("quiet", True)
            label.setWordWrap(True)
        layout.addWidget(self.said)
        self.put = QPushButton("Put the devices on a die")
        self.put.clicked.connect(lambda _=False: self._put())
        layout.addWidget(self.put, 0, Qt.AlignmentFlag.AlignLeft)
        self.line = PartLine()
        self.line.changed.connect(self._typed)
        self.line.asked.connect(self._turn)
        layout.addWidget(self.line)
        layout.addWidget(self.along)
        layout.addWidget(self.drawing, 1)
        layout.addWidget(self.sums)
        self.trying = TryPanel(desk)
        layout.addWidget(self.trying)
        self.said.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.drawing.picked.connect(self._pick)
        self.drawing.moved.connect(self._move)
        desk.point_solved.connect(self.follow)
        desk.bench_changed.connect(self.follow)
        desk.selection_changed.connect(self._show_selected)
        desk.die.changed.connect(self._take)
        for signal in (desk.results.run_changed, desk.results.analysis_changed, desk.results.lane_changed):
            signal.connect(self.follow)
        self.follow()

    def showEvent(self, event) -> None:
        """What was missed meanwhile."""
        super().showEvent(event)
        self.follow()

    def follow(self) -> None:
        """The operating point as it is."""
        bench, point = self.desk.bench, self.desk.point
        heat = bench.heat if bench is not None else None
        self.drawing.setVisible(heat is not None)
        self.sums.setVisible(heat is not None)
        if heat is None or bench is None:
            self.along.hide()
            self.line.hide()
            self.trying.hide()
            self.put.setVisible(self.desk.snapshot is not None)
            self.said.setText(NOTHING)
            return
        self.put.hide()
        if not self.isVisible() or point is None or point.snapshot.bench.key != bench.key:
            return
        if point.dataset is None:
            self.said.setText(str(point.error) if point.error else "")
            self.drawing.show_picture(None)
            return
        try:
            plan = heat.plan()
            powers = _powers(plan, point.dataset)
            celsius = point.snapshot.condition().celsius
        except HearthlineError as error:
            self.said.setText(str(error))
            return
        self._list_stops(plan)
        where, self._scale = "the operating point of the drawing", None
        if 0 < self.along.value() <= len(self.stops):
            stop = self.stops[self.along.value() - 1]
            where, powers, celsius = f"{self.desk.results.analysis}, {stop.words}", stop.powers, stop.celsius
            lowest = min(one.celsius + plan.die.resistance * float(one.powers.sum()) for one in self.stops)
            self._scale = lowest, max(one.peak for one in self.stops)
        more = (
            "" if not self.stops or self.along.value() else " Drag along the run to see the die at each of its points."
        )
        self.said.setText(f"At {where}. A click on a finger selects its part.{more}")
        each = ", ".join(f"{part} {write(float(p), 'W', 3)}" for part, p in zip(plan.parts, powers, strict=True))
        self.sums.setText(f"{write(float(powers.sum()), 'W', 3)} in all: {each}")
        self.desk.die.ask(plan, powers, celsius)

    def _list_stops(self, plan: Plan) -> None:
        """The points of the shown run that the die can be seen at; the first place is the drawing's own."""
        results = self.desk.results
        data = results.dataset if not results.stale else None
        lane = min(max(results.lane, 0), data.lanes - 1) if data is not None else 0
        self.stops = stops_of(data, plan, lane)
        with QSignalBlocker(self.along):
            self.along.setRange(0, len(self.stops))
        self.along.setVisible(bool(self.stops))

    def _take(self) -> None:
        self.drawing.show_picture(self.desk.die.found, self._scale)
        self._show_selected()

    def _pick(self, part: str) -> None:
        """On the drawing, where it is shown there."""
        instance, cell = self.desk.instance, self.desk.cell
        for one in cell.parts if cell is not None and instance is not None else ():
            if part == instance.part(one.name) or part.startswith(f"{instance.part(one.name)}."):
                self.desk.select("part", one.name)
                return

    def _show_selected(self) -> None:
        selected, instance = self.desk.selection, self.desk.instance
        flat = instance.part(selected.name) if selected.kind == "part" and instance is not None else ""
        self.drawing.select(flat)
        heat = self.desk.bench.heat if self.desk.bench is not None else None
        self.line.show_part(heat, flat)
        on_die = heat is not None and any(one.part.lower() == flat for one in heat.sources)
        self.trying.show_part(flat if on_die else "")

    # -- changing it

    def _put(self) -> None:
        """Every device with fingers, in rows by block."""
        snapshot = self.desk.snapshot
        if snapshot is not None:
            self._try(lambda: placed(snapshot, snapshot.bench.heat), "devices on a die")

    def _move(self, part: str, x: float, y: float) -> None:
        heat = self.desk.bench.heat if self.desk.bench is not None else None
        if heat is not None:
            self._try(lambda: moved_to(heat, part, x, y), f"{part} on the die")
            if self.desk.bench.heat == heat:
                self.drawing.take_back()

    def _typed(self, setup: HeatSetup, field: str) -> None:
        self._try(lambda: setup, f"{field} of {self.line.part} on the die")

    def _turn(self, setup: HeatSetup, part: str, turn: str) -> None:
        self._try(lambda: with_line(setup, part, turn=turn), f"{part} turned on the die")

    def _try(self, made: Callable[[], HeatSetup], text: str) -> None:
        """Changes the bench, or says why not."""
        try:
            self.desk.change_bench(replace(self.desk.bench, heat=made()), text)
        except HearthlineError as error:
            self.desk.tell(error)


def _powers(plan: Plan, data: Dataset) -> np.ndarray:
    return np.array([one.fingers * data.curves[power_label(one.part, 1)][0, 0] for one in plan.sources])
