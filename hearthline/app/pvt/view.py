"""All conditions of a run: which axis moves a reading, the curves in small multiples, and every reading at every condition."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QModelIndex, QSortFilterProxyModel, Qt
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QProgressBar,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from hearthline.app.charts.curves import trace_of
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import chip, offer
from hearthline.app.pvt.effects import EffectsPlot
from hearthline.app.pvt.matrix import SORT, Matrix
from hearthline.app.pvt.multiples import Multiples
from hearthline.app.state.desk import Desk
from hearthline.app.state.runner import Progress
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.effects import main_effects
from hearthline.core.bench.verdict import State
from hearthline.core.data.dataset import AROUND


class PvtView(QWidget):
    """Of the shown run; one reading is looked at more closely."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk, self.results = desk, desk.results
        self.reading = ""
        self.effects, self.multiples, self.matrix = EffectsPlot(), Multiples(), Matrix(desk.results)
        self.button, self.note, self.words = QPushButton(), Label(), Label()
        self.again = chip("Run what failed again", lambda: desk.run(), "only conditions without a result are computed")
        self.progress = QProgressBar()
        self.sorted = QSortFilterProxyModel()
        self.table = QTableView()
        self._lay_out()
        results = self.results
        for signal in (results.run_changed, results.verdicts_changed, results.analysis_changed, desk.bench_changed):
            signal.connect(self.refresh)
        results.condition_changed.connect(self._show_choice)
        desk.show_reading.connect(self.show_reading)
        results.runner.started.connect(self._show_progress)
        results.runner.progressed.connect(self._show_progress)
        results.runner.finished.connect(lambda _: self._show_progress())
        self.multiples.chosen.connect(self._choose_lane)
        self.table.clicked.connect(self._click)
        theme.changed.connect(self.refresh)
        self._show_progress()

    def _lay_out(self) -> None:
        self.button.setProperty("plain", True)
        self.button.setFont(text_font(12, bold=True))
        self.button.setToolTip("Which reading is looked at")
        self.button.clicked.connect(lambda _=False: self._offer())
        for label in (self.note, self.words):
            label.setProperty("quiet", True)
            label.setFont(text_font(11))
            label.setWordWrap(True)
        self.words.setContentsMargins(14, 0, 12, 4)
        head = QHBoxLayout()
        head.setContentsMargins(8, 8, 12, 0)
        head.addWidget(self.button)
        head.addWidget(self.note, 1)
        head.addWidget(self.again)
        self.progress.setTextVisible(False)
        self.progress.setFixedHeight(5)
        self.sorted.setSourceModel(self.matrix)
        self.sorted.setSortRole(SORT)
        self.table.setModel(self.sorted)
        self.table.setSortingEnabled(True)
        self.table.horizontalHeader().setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(21)
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.table.setShowGrid(False)
        self.table.setAccessibleName("every reading at every condition")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 6)
        layout.setSpacing(2)
        layout.addLayout(head)
        layout.addWidget(self.progress)
        layout.addWidget(self.effects)
        layout.addWidget(self.words)
        layout.addWidget(self.multiples, 1)
        layout.addWidget(self.table, 4)

    def showEvent(self, event) -> None:
        """Catches up."""
        super().showEvent(event)
        self.refresh()

    def show_reading(self, name: str) -> None:
        """The reading that is looked at more closely."""
        if self.results.reading(name) is not None:
            self.reading = name
            self.refresh()

    def refresh(self) -> None:
        """Takes the shown run anew; only while it can be seen."""
        if not self.isVisible():
            return
        names = [one.name for one in self.desk.bench.readings] if self.desk.bench else []
        if self.reading not in names:
            self.reading = names[0] if names else ""
        self.button.setText(f"{self.reading} …" if self.reading else "no reading")
        failed = self.results.failures
        missing = self.results.run is not None and not self.results.run.complete
        self.again.setVisible(bool(failed) or missing)
        first = next(iter(failed.values()), "")
        count = f"{len(failed)} of {len(self.results.conditions)} conditions failed: {first}" if failed else ""
        rows = [f"{row + 1}: {text}" for row, text in failed.items()]
        self.note.setToolTip("\n".join(rows))
        self.note.setText(count or ("some conditions were not reached" if missing else ""))
        self.matrix.show()
        self._show_effects()
        self._show_multiples()
        self._show_choice()

    def _show_effects(self) -> None:
        values = self.matrix.values.get(self.reading)
        effects, unit, units = [], "", {}
        if values is not None and len(values):
            columns = {
                "corner": np.array([one.corner for one in self.matrix.conditions]),
                "temperature": np.array([one.celsius for one in self.matrix.conditions]),
            }
            if AROUND in self.matrix.axes:
                columns[AROUND] = np.array([one.around for one in self.matrix.conditions])
            for name in self.matrix.axes:
                if name not in columns:
                    columns[name] = np.array([one.parameters.get(name, np.nan) for one in self.matrix.conditions])
            effects, unit = main_effects(columns, values), self.matrix.numbers[self.reading].unit
            units = dict(self.results.dataset.units) if self.results.dataset is not None else {}
        self.effects.show_effects(effects, unit, units)
        self.effects.setVisible(bool(effects))
        self.words.setText("; ".join(self.effects.words()))

    def _show_multiples(self) -> None:
        bench, data = self.desk.bench, self.results.dataset
        watch = None
        if bench is not None and data is not None:
            own = [one for one in bench.watches if bench.analysis_of(one) == self.results.analysis]
            reading = self.results.reading(self.reading)
            texts = [one for one in own if reading is not None and one.formula in reading.formula]
            watch = next(iter([*texts, *own]), None)
        if watch is None:
            self.multiples.show_trace(None, None, np.zeros(0, bool))
            self.multiples.hide()
            return
        values = self.matrix.values.get(self.reading, np.zeros(0))
        bad = np.array([self.matrix.state(row, self.reading) is State.FAILS for row in range(len(values))], bool)
        self.multiples.show()
        trace = trace_of(bench, self.results.run.results, watch)
        self.multiples.show_trace(data, trace, np.repeat(bad, data.per_condition))
        self.multiples.setToolTip(f"{watch.shown}, all on one scale; a click shows the condition on the whole desk")

    def _show_choice(self) -> None:
        data = self.results.dataset
        self.multiples.choose(
            self.results.condition * data.per_condition if data and self.results.condition >= 0 else -1
        )
        if self.matrix.rowCount():
            self.matrix.dataChanged.emit(self.matrix.index(0, 0), self.matrix.index(self.matrix.rowCount() - 1, 0))

    def _show_progress(self, progress: Progress | None = None) -> None:
        """How many conditions are done; the table fills with them."""
        self.progress.setVisible(self.results.runner.busy)
        if progress is not None:
            self.progress.setRange(0, max(1, progress.conditions))
            self.progress.setValue(progress.ready)
            self.note.setText(progress.words)

    def _choose_lane(self, lane: int) -> None:
        data = self.results.dataset
        self._choose(lane // data.per_condition if data is not None else -1)

    def _choose(self, condition: int) -> None:
        self.results.choose_condition(-1 if condition == self.results.condition else condition)

    def _click(self, index: QModelIndex) -> None:
        """A row is a condition; the column of a reading is also the one that is looked at."""
        source = self.sorted.mapToSource(index)
        column = source.column() - len(self.matrix.axes)
        if column >= 0:
            self.reading = self.matrix.readings[column].name
        self._choose(source.row())
        self.refresh()

    def _offer(self) -> None:
        readings = self.desk.bench.readings if self.desk.bench else ()
        offer(self.button, [(one.name, lambda n=one.name: self.show_reading(n)) for one in readings])
