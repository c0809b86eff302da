"""Details of the shown cell when nothing is selected, its parameters; and of a note."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QGridLayout, QPlainTextEdit, QPushButton, QWidget

from hearthline.app.panels.pages.page import Page
from hearthline.app.panels.rows import chip, heading, quiet
from hearthline.app.panels.text_line import TextLine
from hearthline.app.panels.value_field import ValueLine
from hearthline.app.state.desk import Desk
from hearthline.app.state.editor import Editor
from hearthline.core.circuit.body import body_of
from hearthline.core.circuit.cell import BODY_SHAPES, Cell, Note


def add_parameters(page: Page, editor: Editor, cell: Cell) -> None:
    """Fields for the parameters of a cell, and one for a new one."""
    page.column.addWidget(heading("Parameters of the cell"))
    grid = page.add_grid()
    for name, text in cell.parameters.items():
        line = ValueLine(text, "", parameters=page.bench_parameters, empty=True)
        line.changed.connect(lambda text, name=name: _change(editor, name, text))
        page.add_field(grid, f"parameter {name}", name, line, "empty takes it away")
    new = TextLine("")
    new.setPlaceholderText("name = value")
    new.settled.connect(lambda text: _add(page, editor, new, text))
    page.add_text_field(grid, "new", new, "a new parameter, such as wn = 1u; values may then be 2*wn")


def _change(editor: Editor, name: str, text: str) -> None:
    cell = editor.cell
    rest = {n: t for n, t in cell.parameters.items() if n != name}
    editor.change_parameters({n: text if n == name else t for n, t in cell.parameters.items()} if text else rest, name)
    if not text:
        editor.desk.selection_changed.emit()


def _add(page: Page, editor: Editor, line: TextLine, text: str) -> None:
    name, _, value = (word.strip() for word in text.partition("="))
    if name.isidentifier() and value:
        editor.change_parameters({**editor.cell.parameters, name: value})
        editor.desk.selection_changed.emit()
    elif text:
        line.setToolTip("write it as name = value")
        line.setPlaceholderText("name = value, such as wn = 1u")
        line.clear()


class CellPage(Page):
    """A cell inside another: its parameters and its symbol."""

    def __init__(self, desk: Desk, editor: Editor, cell: Cell) -> None:
        inside = " › ".join(desk.trail)
        super().__init__(desk, cell.name, f"cell, shown as {inside}" if inside else "cell")
        self.editor, self.cell = editor, cell
        if cell.note:
            self.column.addWidget(quiet(cell.note))
        add_parameters(self, editor, cell)
        add_symbol(self, editor, cell)

    def texts(self) -> dict[str, str]:
        """Parameters."""
        return {f"parameter {name}": text for name, text in self.desk.cell.parameters.items()} if self.desk.cell else {}


def add_symbol(page: Page, editor: Editor, cell: Cell) -> None:
    """The outline of a cell's body and what is written in it."""
    if not cell.pins:
        return
    page.column.addWidget(heading("Its symbol as a block"))
    row = QWidget()
    grid = QGridLayout(row)
    grid.setContentsMargins(0, 0, 0, 0)
    body = body_of(cell)
    for k, shape in enumerate(BODY_SHAPES):
        button = chip(shape, lambda shape=shape: _reshape(editor, cell.name, shape=shape), "the outline", True)
        button.setChecked(shape == body.shape)
        grid.addWidget(button, 0, k)
    page.column.addWidget(row)
    line = TextLine(body.label)
    line.setPlaceholderText(cell.name)
    line.settled.connect(lambda text: _reshape(editor, cell.name, label=text))
    page.add_text_field(page.add_grid(), "label", line, "what is written in it")
    page.column.addWidget(quiet("Select a block of it on a drawing and press Y to move its pins and sides."))


def _reshape(editor: Editor, name: str, **changes: str) -> None:
    cell = editor.desk.project.cells[name]
    editor.change_body(name, replace(body_of(cell), **changes))
    editor.desk.selection_changed.emit()


class NotePage(Page):
    """The text of a note."""

    def __init__(self, desk: Desk, editor: Editor, note: Note) -> None:
        super().__init__(desk, "Note", "")
        self.text = QPlainTextEdit(note.text)
        self.text.setFixedHeight(150)
        self.text.setAccessibleName("note")
        self.column.addWidget(self.text)
        button = QPushButton("Take this text")
        button.clicked.connect(lambda _=False: editor.change_note(note, self.text.toPlainText()))
        self.column.addWidget(button)
        self.column.addWidget(
            quiet("Formulas in braces show their value at the operating point: gain {m1.gm / m1.gds}")
        )


class SeveralPage(Page):
    """Several things that have no values in common."""

    def __init__(self, desk: Desk, editor: Editor, words: str) -> None:
        super().__init__(desk, "Selection", words)
        self.column.addWidget(quiet("Drag to move, T turns, Shift+T flips, Ctrl+C copies, Del deletes."))
