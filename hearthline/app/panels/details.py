"""Details of what is selected: a page for it, exchanged when the selection is another."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QScrollArea, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.pages.cell_page import CellPage, NotePage, SeveralPage
from hearthline.app.panels.pages.net_page import NetPage, PinPage
from hearthline.app.panels.pages.page import Page
from hearthline.app.panels.pages.part_page import PartPage
from hearthline.app.panels.value_field import ValueLine
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor, words
from hearthline.app.theme.theme import theme
from hearthline.core.circuit.cell import Part
from hearthline.core.circuit.symbols import GROUND_SYMBOL

WIDTH = 232


class Details(QScrollArea):
    """Holds one page at a time; fields follow the document, values the live point. It is there while something is selected, or
    while it is `pinned`: then it shows the cell where nothing is. `wanted_changed` when it should come or go."""

    wanted_changed = pyqtSignal()

    def __init__(self, desk: Desk, editor: Editor, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.editor = desk, editor
        self.setObjectName("details")
        self.setAccessibleName("details")
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFixedWidth(WIDTH)
        self.pinned = False
        desk.selection_changed.connect(self._turn)
        desk.bench_changed.connect(self._turn)
        desk.trail_changed.connect(self._turn)
        desk.document_changed.connect(self._follow)
        desk.point_solved.connect(self._show_values)
        theme.changed.connect(self._show_values)
        self._turn()

    @property
    def wanted(self) -> bool:
        """Whether there is something to be shown."""
        return self.desk.bench is not None and (self.pinned or bool(self.desk.picked) or bool(self.desk.selection.kind))

    def pin(self, pinned: bool) -> None:
        """Keeps it there, or lets it come and go with the selection."""
        self.pinned = pinned
        self.wanted_changed.emit()

    @property
    def lines(self) -> dict[str, ValueLine]:
        """Fields of the page, by name."""
        return self.page.lines

    @property
    def values(self) -> dict[str, Label]:
        """Live values of the page, by name."""
        return self.page.values

    def type_value(self, text: str) -> None:
        """Begins a new value in the first field, as if `text` had been typed there."""
        line = next((line for line in self.lines.values() if isinstance(line, ValueLine)), None)
        if line is not None:
            line.setFocus()
            line.selectAll()
            if text:
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
        self.wanted_changed.emit()

    def _page_of_selection(self) -> Page:
        desk, editor, selection = self.desk, self.editor, self.desk.selection
        if desk.bench is None:
            return Page(desk, "Nothing open", "Choose a cell or bench on the shelf: S opens it.")
        cell, picked = desk.cell, desk.picked
        parts = tuple(part for part in cell.parts if part.name in picked.parts) if cell else ()
        if parts and (len(parts) == len(picked) or len(parts) > 1) and (len(parts) == 1 or _alike(desk, parts)):
            return PartPage(desk, editor, parts)
        pin = next((pin for pin in cell.pins if pin.name == selection.name), None) if cell else None
        if selection.kind == "pin" and pin is not None:
            return PinPage(desk, editor, pin)
        if selection.kind in ("net", "label"):
            return NetPage(desk, editor, selection.name, next(iter(picked.labels), None))
        if selection.kind == "note" and picked.notes:
            return NotePage(desk, editor, next(iter(picked.notes)))
        if selection.kind == "several":
            return SeveralPage(desk, editor, words(picked))
        if cell is None:
            return Page(
                desk, desk.bench.subject, f"The circuit is the deck {desk.bench.deck}, beside the bench's file."
            )
        return CellPage(desk, editor, cell)


def _alike(desk: Desk, parts: tuple[Part, ...]) -> bool:
    """Whether several parts can be edited at once: all known, and all primitives or all blocks of one cell."""
    known = [part for part in parts if part.device != GROUND_SYMBOL]
    return len(known) == len(parts) and all(desk.library.knows(part) for part in parts)
