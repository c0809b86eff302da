"""What stands beside the drawing: a row of words, and one of the views under it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Protocol

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QSizePolicy, QStackedWidget, QVBoxLayout, QWidget

from hearthline.app.panels.rows import chip
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import text_font


class Kind(Protocol):
    """What is known of a view before it is made."""

    @property
    def at_once(self) -> bool:
        """Whether it is made with the window."""

    @property
    def count(self) -> Callable[[Desk], int]:
        """What stands behind its word when it is not 0."""


class Side(QWidget):
    """The views by name; each is made by `make` when it is first wanted, or at once. Their words stand in `bar`, which has its
    place elsewhere: `asked` when one of them is wanted, `put_away` when the word of the shown one was pressed."""

    asked = pyqtSignal()
    put_away = pyqtSignal()

    def __init__(self, desk: Desk, kinds: Mapping[str, Kind], make: Callable[[str], QWidget]) -> None:
        super().__init__()
        self.desk, self.kinds, self._make = desk, kinds, make
        self.setObjectName("side")
        self.stack = QStackedWidget()
        self.words: dict[str, QPushButton] = {}
        self._made: dict[str, QWidget] = {}
        row = QHBoxLayout()
        row.setContentsMargins(4, 6, 4, 0)
        row.setSpacing(2)
        for name in kinds:
            self.words[name] = chip(name, lambda name=name: self._press(name), f"{name} beside the drawing", True)
            self.words[name].setProperty("tight", True)
            self.words[name].setFont(text_font(11))
            row.addWidget(self.words[name])
        row.addStretch()
        self.stack.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Ignored)
        words = QWidget()
        words.setLayout(row)
        self.bar = QScrollArea()  # in a narrow window the words can be moved along
        self.bar.setAccessibleName("views beside the drawing")
        self.bar.setWidget(words)
        self.bar.setWidgetResizable(True)
        self.bar.setFixedHeight(38)
        self.bar.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        self.bar.setMinimumWidth(words.sizeHint().width() + 4)
        self.bar.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.bar.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.stack, 1)
        desk.findings_changed.connect(self._count)
        for name, kind in kinds.items():
            if kind.at_once:
                self.view(name)
        self.name = next(iter(kinds))
        self.stack.setCurrentWidget(self.view(self.name))

    def view(self, name: str) -> QWidget:
        """A view, which is made now if it is not there yet."""
        if name not in self._made:
            self._made[name] = self._make(name)
            self.stack.addWidget(self._made[name])
        return self._made[name]

    def show_view(self, name: str) -> None:
        """One of the views."""
        self.name = name
        self.stack.setCurrentWidget(self.view(name))
        self.asked.emit()
        self.mark(True)

    def mark(self, shown: bool) -> None:
        """Lights the word of the view, while it is shown."""
        for word, button in self.words.items():
            button.setChecked(shown and word == self.name)

    def _press(self, name: str) -> None:
        if name == self.name and self.isVisible():
            self.put_away.emit()
        else:
            self.show_view(name)

    def _count(self) -> None:
        for name, kind in self.kinds.items():
            count = kind.count(self.desk)
            self.words[name].setText(f"{name} {count}" if count else name)
