"""Sheets that lie over the desk: the search and the list of keys. Escape, or a click beside, puts them away."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from hearthline.app.commands import Command
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import heading, quiet
from hearthline.app.theme.fonts import figure_font, text_font

LIST_HEIGHT, ROW_HEIGHT = 320, 28


class Overlay(QFrame):
    """A rounded sheet over its parent."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName("overlay")
        self.hide()
        parent.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """A press beside the sheet puts it away."""
        if event.type() == QEvent.Type.MouseButtonPress and self.isVisible():
            self.put_away()
        return False

    def put_away(self) -> None:
        """Hides the sheet and gives the keys back."""
        self.hide()
        self.parentWidget().setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape puts it away."""
        if event.key() == Qt.Key.Key_Escape:
            self.put_away()
        else:
            super().keyPressEvent(event)


@dataclass(frozen=True)
class Entry:
    """Something that can be found."""

    text: str
    what: str
    action: Callable[[], None]


class Search(Overlay):
    """Add or find anything: type, choose with the arrows, Return."""

    def __init__(self, parent: QWidget, entries: Callable[[], list[Entry]]) -> None:
        super().__init__(parent)
        self._entries = entries
        self._found: list[Entry] = []
        self.field = QLineEdit()
        self.field.setPlaceholderText("what to place or find: parts, cells, nets, commands")
        self.field.setAccessibleName("find")
        self.list = QListWidget()
        self.list.setFont(text_font())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 8)
        layout.addWidget(self.field)
        layout.addWidget(self.list)
        self.resize(380, LIST_HEIGHT)
        self.field.textChanged.connect(self._filter)
        self.field.installEventFilter(self)
        self.list.itemClicked.connect(lambda item: self._do(self.list.row(item)))

    def open_at(self, place: QPoint) -> None:
        """Opens with its corner near `place`, inside the window."""
        room = self.parentWidget().rect()
        x = max(8, min(place.x(), room.width() - self.width() - 8))
        y = max(8, min(place.y(), room.height() - LIST_HEIGHT - 8))
        self.move(x, y)
        self.field.clear()
        self._filter("")
        self.show()
        self.raise_()
        self.field.setFocus()

    def _filter(self, text: str) -> None:
        words = text.lower().split()
        self._found = [e for e in self._entries() if all(word in f"{e.text} {e.what}".lower() for word in words)]
        first = words[0] if words else ""
        self._found.sort(key=lambda e: (e.text.lower() != first, not e.text.lower().startswith(first)))
        self.list.clear()
        for entry in self._found:
            self.list.addItem(QListWidgetItem(f"{entry.text}    {entry.what}"))
        if not self._found:
            self.list.addItem(QListWidgetItem("nothing of that name; try a part, a net or a command"))
        self.list.setCurrentRow(0)
        self.resize(self.width(), min(LIST_HEIGHT, 64 + ROW_HEIGHT * self.list.count()))

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Arrows and Return in the field work on the list."""
        if watched is self.field and event.type() == QEvent.Type.KeyPress:
            if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
                step = 1 if event.key() == Qt.Key.Key_Down else -1
                self.list.setCurrentRow(max(0, min(self.list.count() - 1, self.list.currentRow() + step)))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._do(self.list.currentRow())
                return True
        return super().eventFilter(watched, event)

    def _do(self, row: int) -> None:
        if 0 <= row < len(self._found):
            self.put_away()
            self._found[row].action()


class Prompt(Overlay):
    """One line to type at the pointer: the name of a net, of a new cell. Return answers, Escape does not."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self._answer: Callable[[str], object] = lambda text: None
        self.label = quiet("", wrap=False)
        self.field = QLineEdit()
        self.field.setAccessibleName("prompt")
        self.field.returnPressed.connect(self._take)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 8, 10, 10)
        layout.addWidget(self.label)
        layout.addWidget(self.field)

    def ask(self, place: QPoint, label: str, text: str, answer: Callable[[str], object]) -> None:
        """Opens near `place`; `answer` gets what was typed."""
        self._answer = answer
        self.label.setText(label)
        self.field.setText(text)
        self.field.selectAll()
        self.adjustSize()
        room = self.parentWidget().rect()
        x = max(8, min(place.x(), room.width() - self.width() - 8))
        y = max(8, min(place.y(), room.height() - self.height() - 8))
        self.move(x, y)
        self.show()
        self.raise_()
        self.field.setFocus()

    def _take(self) -> None:
        text = self.field.text().strip()
        self.put_away()
        self._answer(text)


class HelpSheet(Overlay):
    """All commands with their keys, and what the mouse does."""

    MOUSE = (
        ("click", "select; Shift adds; digits then type its value"),
        ("drag a part", "move it, wires follow; with Ctrl a copy"),
        ("drag a terminal", "a wire out of it"),
        ("drag the paper", "select in a box; with Alt along a path"),
        ("double click", "into a block; a wire: its whole net"),
        ("middle button, arrows", "pan"),
        ("wheel", "closer, farther"),
        ("point at a curve", "read it; the cursor follows"),
        ("click in a chart", "hold or free the cursor"),
        ("click a specification", "show its worst condition"),
    )

    def __init__(self, parent: QWidget, commands: list[Command]) -> None:
        super().__init__(parent)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(22, 14, 22, 18)
        layout.addWidget(heading("Keys and mouse"))
        grid = QGridLayout()
        grid.setHorizontalSpacing(18)
        rows = [(" / ".join(c.keys), c.name) for c in commands if c.keys] + list(self.MOUSE)
        half = (len(rows) + 2) // 3
        for k, (key, name) in enumerate(rows):
            shown = Label(key)
            shown.setFont(figure_font(12))
            grid.addWidget(shown, k % half, 2 * (k // half))
            grid.addWidget(Label(name), k % half, 2 * (k // half) + 1)
        layout.addLayout(grid)
        layout.addWidget(quiet("Escape or F1 puts this sheet away."))

    def toggle(self) -> None:
        """Shows the sheet in the middle of the desk, or puts it away."""
        if self.isVisible():
            self.put_away()
            return
        self.adjustSize()
        room = self.parentWidget().rect()
        self.move((room.width() - self.width()) // 2, (room.height() - self.height()) // 2)
        self.show()
        self.raise_()
        self.setFocus()
