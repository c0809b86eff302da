"""What stands beside the drawing: a row of words, and one of the views under it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Protocol

from PyQt6.QtCore import Qt
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
    """The views by name; each is made by `make` when it is first wanted, or at once."""

    def __init__(self, desk: Desk, kinds: Mapping[str, Kind], make: Callable[[str], QWidget]) -> None:
        super().__init__()
        self.desk, self.kinds, self._make = desk, kinds, make
        self.setObjectName("side")
        self.stack = QStackedWidget()
        self.words: dict[str, QPushButton] = {}
        self._made: dict[str, QWidget] = {}
        row = QHBoxLayout()
        row.setContentsMargins(12, 6, 12, 0)
        row.setSpacing(2)
        for name in kinds:
            self.words[name] = chip(name, lambda name=name: self.show_view(name), f"{name} beside the drawing", True)
            self.words[name].setProperty("tight", True)
            self.words[name].setFont(text_font(11))
            row.addWidget(self.words[name])
        row.addStretch()
        self.stack.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Ignored)
        self.setMinimumWidth(300)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        words = QWidget()
        words.setLayout(row)
        holder = QScrollArea()  # in a narrow pane the words can be moved along
        holder.setWidget(words)
        holder.setWidgetResizable(True)
        holder.setFixedHeight(38)
        holder.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        holder.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout.addWidget(holder)
        layout.addWidget(self.stack, 1)
        desk.findings_changed.connect(self._count)
        for name, kind in kinds.items():
            if kind.at_once:
                self.view(name)
        self.show_view(next(iter(kinds)))

    def view(self, name: str) -> QWidget:
        """A view, which is made now if it is not there yet."""
        if name not in self._made:
            self._made[name] = self._make(name)
            self.stack.addWidget(self._made[name])
        return self._made[name]

    def show_view(self, name: str) -> None:
        """One of the views."""
        self.stack.setCurrentWidget(self.view(name))
        for word, button in self.words.items():
            button.setChecked(word == name)

    def _count(self) -> None:
        for name, kind in self.kinds.items():
            count = kind.count(self.desk)
            self.words[name].setText(f"{name} {count}" if count else name)
