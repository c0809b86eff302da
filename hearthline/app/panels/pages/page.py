"""A page of the details: what all pages share. Fields to edit, rows of live values."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import pair, quiet
from hearthline.app.panels.text_line import TextLine
from hearthline.app.panels.value_field import ValueEditor, ValueLine
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import text_font
from hearthline.app.theme.theme import theme
from hearthline.core.errors import HearthlineError


class Page(QWidget):
    """Made anew for each selection; `follow` takes texts from the document, `show_values` those of the live point.

    `lines` are its fields and `values` its value labels, by name.
    """

    def __init__(self, desk: Desk, title: str, what: str) -> None:
        super().__init__()
        self.desk = desk
        self.lines: dict[str, ValueLine | TextLine] = {}
        self.values: dict[str, Label] = {}
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(12, 10, 12, 12)
        self.column.setSpacing(3)
        head = Label(title)
        head.setProperty("title", True)
        self.column.addWidget(head)
        if what:
            self.column.addWidget(quiet(what))

    def texts(self) -> dict[str, str]:
        """What each field should hold, from the document."""
        return {}

    def follow(self) -> None:
        """Texts of the fields after undo or a change from elsewhere."""
        texts = self.texts()
        for key, line in self.lines.items():
            if key in texts:
                line.show_text(texts[key])

    def show_values(self) -> None:
        """Values of the live point."""

    # -- building

    def add_grid(self) -> QGridLayout:
        """Room for fields."""
        grid = QGridLayout()
        grid.setContentsMargins(0, 6, 0, 0)
        grid.setVerticalSpacing(4)
        grid.setColumnMinimumWidth(0, 66)
        self.column.addLayout(grid)
        return grid

    def add_field(self, grid: QGridLayout, key: str, label: str, line: ValueLine, tip: str) -> None:
        """A field with its label; leaving it ends a step of typing."""
        name = Label(label)
        name.setFont(text_font(12))
        name.setAlignment(Qt.AlignmentFlag.AlignTop)
        name.setContentsMargins(0, 6, 0, 0)
        name.setToolTip(tip)
        line.setAccessibleName(key)
        line.settled.connect(self.desk.documents.end_typing)
        row = grid.rowCount()
        grid.addWidget(name, row, 0)
        grid.addWidget(ValueEditor(line), row, 1)
        self.lines[key] = line

    def add_text_field(self, grid: QGridLayout, key: str, line: TextLine, tip: str) -> None:
        """A field for a name or text with its label."""
        name = Label(key)
        name.setFont(text_font(12))
        name.setToolTip(tip)
        line.setToolTip(tip)
        line.setAccessibleName(key)
        row = grid.rowCount()
        grid.addWidget(name, row, 0)
        grid.addWidget(line, row, 1)
        self.lines[key] = line

    def fill_values(self, holder: QWidget, names: Iterable[str], tips: Mapping[str, str]) -> None:
        """Rows for live values in a widget of their own."""
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        for name in names:
            self.values[name] = Label("–")
            column.addWidget(pair(name.replace("/", " / "), self.values[name], tips.get(name, "")))

    def add_value(self, name: str, tip: str = "", label: str = "") -> None:
        """A row for a live value."""
        self.values[name] = Label("–")
        self.column.addWidget(pair(label or name, self.values[name], tip))

    def put(self, name: str, text: str, role: str = "teal") -> None:
        """Writes a live value in the colour of a role."""
        label, style = self.values[name], f"color: {theme.color(role).name()}"
        label.setText(text)
        if label.styleSheet() != style:  # setting it anew makes Qt lay out the whole page
            label.setStyleSheet(style)

    def bench_parameters(self) -> dict[str, float]:
        """Values of the bench's parameters at the live point, as far as they are understood."""
        try:
            return dict(self.desk.snapshot.condition().parameters) if self.desk.snapshot else {}
        except HearthlineError:
            return {}
