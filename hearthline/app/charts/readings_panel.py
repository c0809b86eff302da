"""The foot of the sheet: one number at every condition, a reading or a curve where the cursor is."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from hearthline.app.charts.condition_table import Cells, ConditionTable
from hearthline.app.charts.curves import values_at, watch_curve
from hearthline.app.panels.rows import offer
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.bench import Reading, Watch
from hearthline.core.bench.verdict import limit_scale, limits
from hearthline.core.quantity import write

AT_CURSOR = ", at the cursor"


class ReadingsPanel(QWidget):
    """Shows `quantity`, which a click on its name or on a specification exchanges."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.quantity = ""
        self.button, self.note, self.table = QPushButton(), QLabel(), ConditionTable()
        self.button.setProperty("plain", True)
        self.button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.button.setToolTip("Which number the table shows")
        self.button.setFont(text_font(12, bold=True))
        self.button.clicked.connect(lambda _=False: self._offer())
        self.note.setProperty("quiet", True)
        self.note.setFont(text_font(11))
        head = QHBoxLayout()
        head.setContentsMargins(8, 6, 12, 0)
        head.addWidget(self.button)
        head.addStretch()
        head.addWidget(self.note)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(head)
        layout.addWidget(self.table)
        self.table.chosen.connect(desk.choose_lane)
        desk.run_changed.connect(self.show_numbers)
        desk.verdicts_changed.connect(self.show_numbers)
        desk.cursor_changed.connect(self._follow_cursor)
        desk.lane_changed.connect(lambda: self.table.choose(desk.lane))
        desk.show_reading.connect(self.show_quantity)
        theme.changed.connect(self.table.update)

    def show_quantity(self, name: str) -> None:
        """The table shows the reading of that name, or the watch of that name at the cursor."""
        self.quantity = name
        self.show_numbers()

    def show_numbers(self) -> None:
        """Takes everything from the desk anew."""
        dataset, bench = self.desk.dataset, self.desk.bench
        names = list(self._readings()) + list(self._watches())
        self.setVisible(dataset is not None and bool(names))
        if dataset is None or not names:
            self.table.show_cells(None, None)
            return
        if self.quantity not in names:
            self.quantity = names[0]
        self.button.setText(f"{self.quantity} …")
        reading = self._readings().get(self.quantity)
        cells = self._reading_cells(reading) if reading else self._cursor_cells(self._watches()[self.quantity])
        self.table.show_cells(dataset, cells, self.desk.failures)
        self.note.setToolTip(reading.formula if reading and bench else "")

    def _readings(self) -> dict[str, Reading]:
        return {reading.name: reading for reading in self.desk.bench.readings} if self.desk.bench else {}

    def _watches(self) -> dict[str, Watch]:
        watches = self.desk.bench.watches if self.desk.bench else ()
        return {(watch.title or watch.formula) + AT_CURSOR: watch for watch in watches}

    def _follow_cursor(self) -> None:
        if self.quantity.endswith(AT_CURSOR):
            self.show_numbers()

    def _cursor_cells(self, watch: Watch) -> Cells:
        dataset = self.desk.dataset
        x = self.desk.cursor if self.desk.cursor is not None else float(dataset.points[0])
        self.note.setText(f"at {dataset.axis} {write(x, dataset.axis_unit, 4)} [{watch.unit}]")
        return Cells(values_at(dataset, watch_curve(dataset, watch), x), watch.unit)

    def _reading_cells(self, reading: Reading) -> Cells:
        self.note.setText(reading.note + (f" [{reading.unit}]" if reading.unit else ""))
        verdict = self.desk.verdicts.get(reading.name)
        specification = next((s for s in self.desk.bench.specifications if s.reading == reading.name), None)
        values = self.desk.readings[reading.name]
        if specification is None or verdict is None or verdict.margins is None:
            return Cells(values, reading.unit)
        return Cells(
            values, reading.unit, verdict.margins / limit_scale(*limits(specification, reading.unit)), verdict.lane
        )

    def _offer(self) -> None:
        offer(
            self.button,
            [(name, lambda n=name: self.show_quantity(n)) for name in [*self._readings(), *self._watches()]],
        )
