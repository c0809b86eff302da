"""Sheets that lie over the desk: a line to type and the list of keys. Escape, or a click beside, puts them away."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from hearthline.app.commands import Command
from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import heading, quiet
from hearthline.app.theme.fonts import figure_font


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
