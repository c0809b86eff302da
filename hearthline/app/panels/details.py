"""Details of what is selected: a page for it, exchanged when the selection is another."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QFrame, QLabel, QScrollArea, QWidget

from hearthline.app.panels.pages.bench_page import BenchPage
from hearthline.app.panels.pages.net_page import NetPage, PinPage
from hearthline.app.panels.pages.page import Page
from hearthline.app.panels.pages.part_page import PartPage
from hearthline.app.panels.value_field import ValueLine
from hearthline.app.state.desk import Desk
from hearthline.app.theme.theme import theme


class Details(QScrollArea):
    """Holds one page at a time; fields follow the document, values the live point."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.setObjectName("details")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFixedWidth(226)
        desk.selection_changed.connect(self._turn)
        desk.bench_changed.connect(self._turn)
        desk.document_changed.connect(self._follow)
        desk.point_solved.connect(self._show_values)
        theme.changed.connect(self._show_values)
        self._turn()

    @property
    def lines(self) -> dict[str, ValueLine]:
        """Fields of the page, by name."""
        return self.page.lines

    @property
    def values(self) -> dict[str, QLabel]:
        """Live values of the page, by name."""
        return self.page.values

    def type_value(self, text: str) -> None:
        """Begins a new value in the first field, as if `text` had been typed there."""
        line = next(iter(self.lines.values()), None)
        if line is not None:
            line.setFocus()
            line.selectAll()
            line.insert(text)
            line.textEdited.emit(line.text())

    def _follow(self) -> None:
        self.page.follow()

    def _show_values(self) -> None:
        self.page.show_values()

    def _turn(self) -> None:
        self.page = self._page_of_selection()
        self.page.column.addStretch()
        self.page.show_values()
        self.setWidget(self.page)

    def _page_of_selection(self) -> Page:
        desk, selection = self.desk, self.desk.selection
        if desk.bench is None:
            return Page(desk, "Nothing open", "Choose a bench in the shelf at the left.")
        if selection.kind == "part":
            return PartPage(desk, desk.cell.part(selection.name))
        if selection.kind == "pin":
            return PinPage(desk, next(pin for pin in desk.cell.pins if pin.name == selection.name))
        return NetPage(desk, selection.name) if selection.kind == "net" else BenchPage(desk)
