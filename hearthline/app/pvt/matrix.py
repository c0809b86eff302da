"""Every reading at every condition, as a table for Qt: the worst of each marked, what failed with its reason."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt

from hearthline.app.state.results import Results
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.bench.bench import Reading
from hearthline.core.bench.readings import Numbers
from hearthline.core.bench.verdict import CLOSE, limit_scale, limits
from hearthline.core.errors import HearthlineError
from hearthline.core.quantity import write

SORT = Qt.ItemDataRole.UserRole
NO_PARENT = QModelIndex()
WORST, FAILS, NEAR = "▲ worst", "▲", "◆"


class Matrix(QAbstractTableModel):
    """Rows are the conditions of the run, columns the corner, the temperature, the parameters and the readings."""

    def __init__(self, results: Results) -> None:
        super().__init__()
        self.results = results
        self.conditions: tuple = ()
        self.axes: tuple[str, ...] = ()
        self.readings: tuple[Reading, ...] = ()
        self.values: dict[str, np.ndarray] = {}
        self.numbers: dict[str, Numbers] = {}

    def show(self) -> None:
        """Takes everything anew."""
        self.beginResetModel()
        run, bench = self.results.run, self.results.bench
        self.conditions = run.conditions if run else ()
        self.numbers = dict(self.results.numbers)  # those of another bench may come while this is shown
        names = dict.fromkeys(name for one in self.conditions for name in one.parameters)
        self.axes = ("corner", "temperature", *names) if self.conditions else ()
        self.readings = tuple(r for r in bench.readings if r.name in self.numbers) if bench else ()
        self.values = {one.name: self._per_condition(one.name) for one in self.readings}
        self.endResetModel()

    def _per_condition(self, name: str) -> np.ndarray:
        """One number a condition; of a nested sweep the one that is farthest from the mean."""
        values = self.numbers[name].values
        count = len(self.conditions)
        if len(values) == count or not count or len(values) % count:
            return values if len(values) == count else np.full(count, np.nan)
        table = values.reshape(count, -1)
        middle = np.nanmean(values) if np.isfinite(values).any() else 0.0
        away = np.nan_to_num(np.abs(table - middle), nan=-1.0)
        return np.take_along_axis(table, np.argmax(away, axis=1)[:, None], axis=1)[:, 0]

    def state(self, row: int, name: str) -> str:
        """`▲` for a value beyond its limits, `▲ worst` or `◆` for one that is close, nothing else."""
        verdict = self.results.verdicts.get(name)
        bench = self.results.bench
        spec = next((s for s in bench.specifications if s.reading == name), None) if bench else None
        if verdict is None or spec is None or verdict.margins is None:
            return ""
        try:
            low, high = limits(spec, self.numbers[name].unit)
        except HearthlineError:
            return ""
        value = self.values[name][row]
        margin = min(value - low, high - value)
        if not margin >= 0:
            return FAILS
        return NEAR if margin / limit_scale(low, high) < CLOSE else ""

    def is_worst(self, row: int, name: str) -> bool:
        """Whether this is the worst of all conditions."""
        verdict, values = self.results.verdicts.get(name), self.numbers.get(name)
        if verdict is None or verdict.lane < 0 or values is None or not self.conditions:
            return False
        return verdict.lane * len(self.conditions) // max(1, len(values.values)) == row

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
            return " ".join(word for word in (state, "worst" if worst else "", text) if word)
        if role == Qt.ItemDataRole.ForegroundRole:
            return theme.color({FAILS: "ember_ink", NEAR: "amber_ink"}.get(state, "ink"))
        if role == Qt.ItemDataRole.BackgroundRole and (state == FAILS or worst):
            return theme.color("ember_wash" if state == FAILS else "raised")
        return None

    def _axis(self, row: int, name: str, role: int):
        one = self.conditions[row]
        value = {"corner": one.corner, "temperature": one.celsius}.get(name, one.parameters.get(name))
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
        return f"{value:g}".replace("-", "−") if value is not None else "–"


def _bold():
    font = figure_font(11)
    font.setBold(True)
    return font
