"""Every reading at every condition, as a table for Qt: the worst of each marked, what failed with its reason."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt

from hearthline.app.state.results import Results
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.bench import Reading
from hearthline.core.bench.readings import Numbers
from hearthline.core.bench.verdict import State, Verdict
from hearthline.core.data.dataset import AROUND
from hearthline.core.quantity import write

SORT = Qt.ItemDataRole.UserRole
NO_PARENT = QModelIndex()
SIGNS = {State.FAILS: "▲", State.CLOSE: "◆"}


class Matrix(QAbstractTableModel):
    """Rows are the conditions of the run, columns the corner, the temperature, the parameters and the readings."""

    def __init__(self, results: Results) -> None:
        super().__init__()
        self.results = results
        self.conditions: tuple = ()
        self.axes: tuple[str, ...] = ()
        self.readings: tuple[Reading, ...] = ()
        self.lanes: dict[str, np.ndarray] = {}
        self.values: dict[str, np.ndarray] = {}
        self.numbers: dict[str, Numbers] = {}

    def show(self) -> None:
        """Takes everything anew."""
        self.beginResetModel()
        run, bench = self.results.run, self.results.bench
        self.conditions = run.conditions if run else ()
        self.numbers = dict(self.results.numbers)  # those of another bench may come while this is shown
        names = dict.fromkeys(name for one in self.conditions for name in one.parameters)
        around = (AROUND,) if any(one.around for one in self.conditions) else ()
        self.axes = ("corner", "temperature", *around, *names) if self.conditions else ()
        self.readings = tuple(r for r in bench.readings if r.name in self.numbers) if bench else ()
        self.lanes = {one.name: self._lanes(one.name) for one in self.readings}
        self.values = {
            name: self.numbers[name].values[lanes] if len(lanes) else np.full(len(self.conditions), np.nan)
            for name, lanes in self.lanes.items()
        }
        self.endResetModel()

    def _lanes(self, name: str) -> np.ndarray:
        """The lane that stands for each condition (conditions,); of a nested sweep the one with the least margin, without
        limits the one farthest from the mean. Empty where the numbers are not of these conditions."""
        values, count = self.numbers[name].values, len(self.conditions)
        if not count or not len(values) or len(values) % count:
            return np.zeros(0, int)
        verdict = self._verdict(name)
        if verdict is not None and verdict.relatives is not None:
            badness = -np.nan_to_num(verdict.relatives, nan=-np.inf)
        else:
            badness = (
                np.nan_to_num(np.abs(values - np.nanmean(values)), nan=-1.0) if np.isfinite(values).any() else values
            )
        within = np.argmax(badness.reshape(count, -1), axis=1)
        return np.arange(count) * (len(values) // count) + within

    def _verdict(self, name: str) -> Verdict | None:
        """On the numbers that are shown; None while a verdict is on others."""
        found = self.results.verdicts.get(name)
        same = (
            found is not None and found.relatives is not None and len(found.relatives) == len(self.numbers[name].values)
        )
        return found if same else None

    def state(self, row: int, name: str) -> State:
        """How a condition stands in a reading."""
        verdict, lanes = self._verdict(name), self.lanes[name]
        return verdict.at(lanes[row]) if verdict is not None and len(lanes) else State.UNKNOWN

    def is_worst(self, row: int, name: str) -> bool:
        """Whether this is the worst of all conditions."""
        verdict, lanes = self.results.verdicts.get(name), self.lanes[name]
        if verdict is None or verdict.lane < 0 or not len(lanes):
            return False
        return verdict.lane // (len(self.numbers[name].values) // len(lanes)) == row

    # -- for Qt

    def rowCount(self, parent: QModelIndex = NO_PARENT) -> int:
        """Conditions."""
        return len(self.conditions)

    def columnCount(self, parent: QModelIndex = NO_PARENT) -> int:
        """Axes and readings."""
        return len(self.axes) + len(self.readings)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0):
        """Names, with the formula as tip."""
        if orientation is not Qt.Orientation.Horizontal:
            return None
        if section < len(self.axes):
            return self.axes[section] if role == Qt.ItemDataRole.DisplayRole else None
        reading = self.readings[section - len(self.axes)]
        unit = self.numbers[reading.name].unit
        if role == Qt.ItemDataRole.DisplayRole:
            return f"{reading.name} [{unit}]" if unit else reading.name
        return f"{reading.formula}\n{reading.note}" if role == Qt.ItemDataRole.ToolTipRole else None

    def data(self, index: QModelIndex, role: int = 0):
        """Text, number to sort by, colours, and why there is none."""
        row, column = index.row(), index.column()
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        if column < len(self.axes):
            return self._axis(row, self.axes[column], role)
        name = self.readings[column - len(self.axes)].name
        value = float(self.values[name][row])
        if role == SORT:
            return value if np.isfinite(value) else -1e300
        if role == Qt.ItemDataRole.ToolTipRole:
            return self.results.failures.get(row) or self.numbers[name].problem or None
        state = self.state(row, name)
        worst = self.is_worst(row, name)
        if role == Qt.ItemDataRole.FontRole:
            return figure_font(11) if not worst else _bold()
        if role == Qt.ItemDataRole.DisplayRole:
            text = write(value, self.numbers[name].unit, 4)
            return " ".join(word for word in (SIGNS.get(state, ""), "worst" if worst else "", text) if word)
        if role == Qt.ItemDataRole.ForegroundRole:
            return theme.color({State.FAILS: "ember_ink", State.CLOSE: "amber_ink"}.get(state, "ink"))
        if role == Qt.ItemDataRole.BackgroundRole and (state is State.FAILS or worst):
            return theme.color("ember_wash" if state is State.FAILS else "raised")
        return None

    def _axis(self, row: int, name: str, role: int):
        one = self.conditions[row]
        known = {"corner": one.corner, "temperature": one.celsius, AROUND: one.around}
        value = known.get(name, one.parameters.get(name))
        if role == SORT:
            return value
        if role == Qt.ItemDataRole.FontRole:
            return text_font(11, bold=row == self.results.condition)
        if role == Qt.ItemDataRole.ForegroundRole and row in self.results.failures:
            return theme.color("ember_ink")
        if role == Qt.ItemDataRole.ToolTipRole:
            return self.results.failures.get(row)
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        if name == "corner":
            mark = "◂ " if row == self.results.condition else ""
            return f"{mark}{value}" + (" ✕" if row in self.results.failures else "")
        if isinstance(value, str):
            return value
        return f"{value:g}".replace("-", "−") if value is not None else "–"


def _bold():
    font = figure_font(11)
    font.setBold(True)
    return font
