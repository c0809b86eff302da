"""The operating point of every device, in all blocks: a table for each kind, sortable, with what is in trouble marked."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, QSortFilterProxyModel, Qt
from PyQt6.QtWidgets import QAbstractItemView, QHBoxLayout, QHeaderView, QTableView, QVBoxLayout, QWidget

from hearthline.app.panels.rows import chip, clear, quiet
from hearthline.app.state.desk import Desk
from hearthline.app.state.values import BIPOLAR_REGIONS, MEANINGS, REGIONS, PointValues, Quantity
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme

SMALL_MARGIN = 0.05
ORDER = ("id", "i", "region", "sat", "gm", "gm/id", "gds", "gm/gds", "vgs", "vds", "vth", "vdsat")
KINDS = {"transistors": {"vds", "vgs"}, "bipolars": {"vbe", "vce"}, "diodes": {"vd", "gd"}}
NO_PARENT = QModelIndex()
SORT = Qt.ItemDataRole.UserRole


@dataclass(frozen=True)
class Table:
    """One kind of device: its columns, and a row of quantities for each device by its flat name."""

    columns: tuple[str, ...]
    rows: tuple[tuple[str, Mapping[str, Quantity]], ...]


def tables_of(point: PointValues) -> dict[str, Table]:
    """All devices by kind; what is no transistor or diode stands under `other parts`."""
    groups: dict[str, list] = {}
    for name in point.elements:
        values = {key: value for key, value in point.part(name).items() if key[0] != "@"}
        kind = next((kind for kind, needed in KINDS.items() if needed <= values.keys()), "other parts")
        groups.setdefault(kind, []).append((name, values))
    order = [*KINDS, "other parts"]
    return {kind: Table(_columns(groups[kind]), tuple(groups[kind])) for kind in order if kind in groups}


def _columns(rows: list) -> tuple[str, ...]:
    names = dict.fromkeys(name for _, values in rows for name in values)
    return tuple(sorted(names, key=lambda name: ORDER.index(name) if name in ORDER else len(ORDER)))


def trouble(name: str, values: Mapping[str, Quantity]) -> str:
    """The palette role of a value that a designer should look at, or nothing: out of saturation, a margin under 50 mV,
    a diode in reverse, a bipolar transistor that is not forward."""
    if name in ("sat", "region") and "sat" in values and (values["region"].value if "region" in values else 1):
        margin = values["sat"].value
        return "ember_ink" if margin < 0 else "amber_ink" if margin < SMALL_MARGIN and name == "sat" else ""
    if name == "vd" and values[name].value < 0:
        return "amber_ink"
    if name == "region" and "vbe" in values and values[name].value in (2, 3):
        return "ember_ink"
    return ""


class TableModel(QAbstractTableModel):
    """One table for Qt."""

    def __init__(self) -> None:
        super().__init__()
        self.table = Table((), ())

    def show(self, table: Table) -> None:
        """Takes another table; the same rows with other numbers keep order and place."""
        same = (self.table.columns, [n for n, _ in self.table.rows]) == (table.columns, [n for n, _ in table.rows])
        if same:
            self.table = table
            self.dataChanged.emit(self.index(0, 0), self.index(self.rowCount() - 1, self.columnCount() - 1))
        else:
            self.beginResetModel()
            self.table = table
            self.endResetModel()

    def rowCount(self, parent: QModelIndex = NO_PARENT) -> int:
        """Devices."""
        return len(self.table.rows)

    def columnCount(self, parent: QModelIndex = NO_PARENT) -> int:
        """The name and the quantities."""
        return 1 + len(self.table.columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0):
        """Names of the quantities, with what they mean as tip."""
        if orientation is not Qt.Orientation.Horizontal:
            return None
        name = "device" if section == 0 else self.table.columns[section - 1]
        return {Qt.ItemDataRole.DisplayRole: name, Qt.ItemDataRole.ToolTipRole: MEANINGS.get(name, "")}.get(role)

    def data(self, index: QModelIndex, role: int = 0):
        """Text, number for sorting, colour of what is in trouble."""
        name, values = self.table.rows[index.row()]
        column = self.table.columns[index.column() - 1] if index.column() else ""
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if column else Qt.AlignmentFlag.AlignLeft
            return side | Qt.AlignmentFlag.AlignVCenter
        if role == Qt.ItemDataRole.FontRole:
            return figure_font(11) if column else text_font(12, bold=True)
        if not column:
            return {Qt.ItemDataRole.DisplayRole: name, SORT: name}.get(role)
        if column not in values:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return self._text(column, values)
        if role == SORT:
            return values[column].value
        found = trouble(column, values)
        return theme.color(found) if role == Qt.ItemDataRole.ForegroundRole and found else None

    @staticmethod
    def _text(column: str, values: Mapping[str, Quantity]) -> str:
        if column == "region":
            words, number = (BIPOLAR_REGIONS if "vbe" in values else REGIONS), int(values[column].value)
            word = words[number] if 0 <= number < len(words) else "–"
        else:
            word = values[column].text
        return {"ember_ink": "▲ ", "amber_ink": "◆ "}.get(trouble(column, values), "") + word


class DeviceTable(QWidget):
    """Chips for the kinds, and the table; a click shows the device, by its name in the flat circuit."""

    def __init__(self, desk: Desk, show: Callable[[str], None]) -> None:
        super().__init__()
        self.desk, self._show = desk, show
        self.kind = ""
        self.model = TableModel()
        self.sorted = QSortFilterProxyModel()
        self.sorted.setSourceModel(self.model)
        self.sorted.setSortRole(SORT)
        self.view = QTableView()
        self.view.setModel(self.sorted)
        self.view.setSortingEnabled(True)
        self.view.sortByColumn(0, Qt.SortOrder.AscendingOrder)
        self.view.verticalHeader().hide()
        self.view.verticalHeader().setDefaultSectionSize(22)
        self.view.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.view.setShowGrid(False)
        self.view.clicked.connect(self._click)
        self.chips = QHBoxLayout()
        self.note = quiet("")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.addLayout(self.chips)
        layout.addWidget(self.view, 1)
        layout.addWidget(self.note)
        self._kinds: tuple[str, ...] = ()
        for signal in (desk.point_solved, desk.bench_changed, desk.document_changed):
            signal.connect(self.refresh)
        theme.changed.connect(lambda: self.model.layoutChanged.emit())

    def showEvent(self, event) -> None:
        """Catches up."""
        self.refresh()

    def refresh(self) -> None:
        """Takes the last valid point; only while it can be seen."""
        if not self.isVisible():
            return
        point = self.desk.last_values
        tables = tables_of(point) if point else {}
        if tuple(tables) != self._kinds:
            self._lay_chips(tuple(tables))
        self.model.show(tables.get(self.kind, Table((), ())))
        answer = self.desk.point
        error = answer.error if answer else None
        self.note.setText(f"from before: {error}" if error else "A click shows the device on the drawing.")
        self.view.setEnabled(error is None)

    def _lay_chips(self, kinds: tuple[str, ...]) -> None:
        self._kinds = kinds
        if self.kind not in kinds:
            self.kind = kinds[0] if kinds else ""
        clear(self.chips)
        for kind in kinds:
            button = chip(kind, lambda kind=kind: self.show_kind(kind), f"the operating point of all {kind}", True)
            button.setChecked(kind == self.kind)
            self.chips.addWidget(button)
        self.chips.addStretch()

    def show_kind(self, kind: str) -> None:
        """Another kind of device."""
        self.kind = kind
        self._lay_chips(self._kinds)
        self.refresh()

    def _click(self, index: QModelIndex) -> None:
        self._show(self.sorted.data(self.sorted.index(index.row(), 0)))
