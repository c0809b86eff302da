"""What stands beside the drawing: charts, the table of all devices, the netlist, or the findings."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QSizePolicy, QStackedWidget, QVBoxLayout, QWidget

from hearthline.app.panels.rows import chip
from hearthline.app.state.desk import Desk
from hearthline.app.theme.fonts import text_font


class Side(QWidget):
    """A row of words and one of the views under it. A view that is given as a function is made when it is first wanted."""

    def __init__(self, desk: Desk, views: dict[str, QWidget | Callable[[], QWidget]]) -> None:
        super().__init__()
        self.desk = desk
        self.setObjectName("side")
        self.stack = QStackedWidget()
        self.words: dict[str, QPushButton] = {}
        row = QHBoxLayout()
        row.setContentsMargins(12, 6, 12, 0)
        row.setSpacing(2)
        for name, view in views.items():
            if isinstance(view, QWidget):
                self.stack.addWidget(view)
            self.words[name] = chip(name, lambda name=name: self.show_view(name), f"{name} beside the drawing", True)
            self.words[name].setProperty("tight", True)
            self.words[name].setFont(text_font(11))
            row.addWidget(self.words[name])
        row.addStretch()
        self.views = views
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
        self.show_view(next(iter(views)))

    def show_view(self, name: str) -> None:
        """One of the views."""
        view = self.views[name]
        if not isinstance(view, QWidget):
            self.views[name] = view = view()
            self.stack.addWidget(view)
        self.stack.setCurrentWidget(view)
        for word, button in self.words.items():
            button.setChecked(word == name)

    def _count(self) -> None:
        count = len(self.desk.findings)
        self.words["findings"].setText(f"findings {count}" if count else "findings")
