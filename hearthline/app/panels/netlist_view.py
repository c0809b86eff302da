"""The shown cell as a deck, beside the drawing and with the same selection."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QTextCharFormat, QTextCursor
from PyQt6.QtWidgets import QPlainTextEdit, QTextEdit, QVBoxLayout, QWidget

from hearthline.app.panels.rows import quiet
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import figure_font
from hearthline.app.theme.theme import theme
from hearthline.core.errors import HearthlineError
from hearthline.core.formats.deck.writer import Written, write_deck


class NetlistView(QWidget):
    """Follows the shown cell; a click on a line shows its part."""

    def __init__(self, desk: Desk, show: Callable[[str], None]) -> None:
        super().__init__()
        self.desk, self._show = desk, show
        self.written: Written | None = None
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setFont(figure_font(12))
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.text.setAccessibleName("netlist")
        self.text.cursorPositionChanged.connect(self._click)
        self.note = quiet("")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 10, 14, 10)
        layout.addWidget(self.text, 1)
        layout.addWidget(self.note)
        self._busy = False
        for signal in (desk.document_changed, desk.bench_changed, desk.trail_changed):
            signal.connect(self.refresh)
        desk.selection_changed.connect(self._mark)

    def showEvent(self, event) -> None:
        """Catches up."""
        self.refresh()

    def refresh(self) -> None:
        """Writes the deck anew; only while it can be seen."""
        cell = self.desk.cell
        if not self.isVisible():
            return
        if cell is None:
            self._show_deck()
            return
        try:
            self.written = write_deck(cell, self.desk.library)
        except HearthlineError as error:
            self.note.setText(f"not complete: {error}")
            return
        self.note.setText("A click on a line selects its part.")
        self._busy = True
        if self.text.toPlainText() != self.written.text:
            self.text.setPlainText(self.written.text)
        self._busy = False
        self._mark()

    def _show_deck(self) -> None:
        """The text of the deck that a bench is over."""
        bench, snapshot = self.desk.bench, self.desk.snapshot
        written = snapshot.written if snapshot is not None else None
        if bench is None or written is None:
            return
        self.written = None
        self.text.setPlainText(written.files.get(bench.deck, ""))
        self.note.setText(f"{bench.deck}, as it was read.")

    def _mark(self) -> None:
        """Lights the lines of what is selected."""
        if self.written is None or not self.isVisible():
            return
        marks = []
        for name in self.desk.picked.parts:
            line = self.written.lines.get(name)
            if line is not None:
                mark = QTextEdit.ExtraSelection()
                mark.format = QTextCharFormat()
                mark.format.setBackground(theme.color("teal_wash"))
                mark.format.setProperty(QTextCharFormat.Property.FullWidthSelection, True)
                mark.cursor = QTextCursor(self.text.document().findBlockByNumber(line - 1))
                marks.append(mark)
        self.text.setExtraSelections(marks)
        if marks and not self.text.hasFocus():
            self._busy = True
            self.text.setTextCursor(marks[0].cursor)
            self._busy = False

    def _click(self) -> None:
        if self._busy or self.written is None or not self.text.hasFocus():
            return
        line = self.text.textCursor().blockNumber() + 1
        names = [name for name, at in self.written.lines.items() if at == line]
        if names:
            self._show(names[0])
