"""The foot of the sheet: one number at every condition, a reading or a curve where the cursor is."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from hearthline.app.charts.condition_table import NO_VERDICT, Cells, ConditionTable
from hearthline.app.charts.curves import trace_of
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import offer
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.bench import Reading, Watch
from hearthline.core.quantity import write

AT_CURSOR = ", at the cursor"


class ReadingsPanel(QWidget):
    """Shows `quantity`, which a click on its name or on a specification exchanges."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.quantity = ""
        self.button, self.note, self.table = QPushButton(), Label(), ConditionTable()
        self.button.setProperty("plain", True)
        self.button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.button.setToolTip("Which number the table shows")
        self.button.setFont(text_font(12, bold=True))
        self.button.clicked.connect(lambda _=False: self._offer())
        self.note.setProperty("quiet", True)
        self.note.setFont(text_font(11))
        self.fold_button = QPushButton("▾")
        self.fold_button.setProperty("plain", True)
        self.fold_button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.fold_button.setAccessibleName("table of conditions")
        self.fold_button.setToolTip("Puts the table of conditions away, or shows it; it is under conditions too")
        self.fold_button.clicked.connect(lambda _=False: self.fold(self.table.isVisible()))
        head = QHBoxLayout()
        head.setContentsMargins(4, 6, 12, 0)
        head.addWidget(self.fold_button)
        head.addWidget(self.button)
        head.addStretch()
        head.addWidget(self.note)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(self.table)
        self.table.chosen.connect(self._choose)
        for signal in (desk.results.run_changed, desk.results.analysis_changed):
            signal.connect(self.show_numbers)
        desk.results.verdicts_changed.connect(self.show_numbers)
        desk.results.cursor_changed.connect(self._follow_cursor)
        desk.results.lane_changed.connect(self._follow_lane)
        desk.show_reading.connect(self.show_quantity)
        theme.changed.connect(self.table.update)

    def fold(self, folded: bool) -> None:
        """Leaves the room to the curves, or not."""
        self.table.setVisible(not folded)
        self.fold_button.setText("▸" if folded else "▾")

    def show_quantity(self, name: str) -> None:
        """The table shows the reading of that name, or the watch of that name at the cursor."""
        self.quantity = name
        self.show_numbers()

    def show_numbers(self) -> None:
        """Takes everything from the desk anew."""
        results = self.desk.results
        names = list(self._readings()) + list(self._watches())
        self.setVisible(results.run is not None and bool(names))
        if results.run is None or not names:
            self.table.show_cells(None, None)
            return
        if self.quantity not in names:
            self.quantity = names[0]
        self.button.setText(f"{self.quantity} …")
        reading = self._readings().get(self.quantity)
        data = results.dataset_of(self.quantity) if reading else results.dataset
        cells = self._reading_cells(reading) if reading else self._cursor_cells(self._watches()[self.quantity])
        if data is None or len(cells.values) != data.lanes:
            data = None
        per = data.per_condition if data is not None else 1
        failures = {k * per + j: text for k, text in results.failures.items() for j in range(per)}
        self.table.show_cells(data, cells, failures)
        self.note.setToolTip(reading.formula if reading else "")

    def _choose(self, lane: int) -> None:
        """A click: the condition stands out, and the whole desk shows it; once more, and it is as before."""
        results, data = self.desk.results, self.table.dataset
        condition = lane // data.per_condition if lane >= 0 and data is not None else -1
        results.choose_condition(-1 if condition == results.condition else condition)
        if self.quantity in self._readings() and condition >= 0:
            results.mark(self.quantity)

    def _follow_lane(self) -> None:
        results, data = self.desk.results, self.table.dataset
        shown = results.dataset
        if data is shown or data is None or shown is None:
            self.table.choose(results.lane)
        else:
            self.table.choose(results.lane // shown.per_condition * data.per_condition if results.lane >= 0 else -1)

    def _readings(self) -> dict[str, Reading]:
        return {reading.name: reading for reading in self.desk.bench.readings} if self.desk.bench else {}

    def _watches(self) -> dict[str, Watch]:
        bench, analysis = self.desk.bench, self.desk.results.analysis
        watches = [one for one in bench.watches if bench.analysis_of(one) == analysis] if bench else []
        return {watch.shown + AT_CURSOR: watch for watch in watches}

    def _follow_cursor(self) -> None:
        if self.quantity.endswith(AT_CURSOR):
            self.show_numbers()

    def _cursor_cells(self, watch: Watch) -> Cells:
        results = self.desk.results
        if results.dataset is None:
            return Cells(np.zeros(0), "")
        trace = trace_of(self.desk.bench, results.run.results, watch)
        x = results.cursor if results.cursor is not None else results.dataset.span[0]
        self.note.setText(f"at {trace.axis} {write(x, trace.axis_unit, 4)} [{trace.unit}]")
        return Cells(trace.values(x), trace.unit)

    def _reading_cells(self, reading: Reading) -> Cells:
        numbers = self.desk.results.numbers.get(reading.name)
        if numbers is None:
            return Cells(np.zeros(0), reading.unit)
        self.note.setText(numbers.problem or reading.note + (f" [{numbers.unit}]" if numbers.unit else ""))
        verdict = self.desk.results.verdicts.get(reading.name)
        return Cells(numbers.values, numbers.unit, verdict or NO_VERDICT)

    def _offer(self) -> None:
        offer(
            self.button,
            [(name, lambda n=name: self.show_quantity(n)) for name in [*self._readings(), *self._watches()]],
        )
