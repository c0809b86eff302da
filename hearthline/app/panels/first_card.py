"""At the first start: five things to try, put away for good by a click."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import heading
from hearthline.app.theme.fonts import text_font

LINES = (
    "Click a transistor and type a width, such as 3u: every value on the drawing follows.",
    "Ctrl+Return runs the bench through all its conditions; its curves then stand here.",
    "Click a limit at the foot and type another: the verdict follows at once.",
    "Space adds or finds anything: parts, cells, commands, or a value for what is selected.",
    "S opens the shelf with all cells and benches, F1 shows all keys.",
)


class FirstCard(QFrame):
    """`done` when it has been put away."""

    def __init__(self, done: Callable[[], None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 8, 14, 12)
        layout.setSpacing(8)
        layout.addWidget(heading("To begin with"))
        for number, text in enumerate(LINES, 1):
            line = Label(f"{number}   {text}")
            line.setWordWrap(True)
            line.setFont(text_font(12))
            layout.addWidget(line)
        self.button = QPushButton("Put away")
        self.button.clicked.connect(lambda _=False: done())
        layout.addWidget(self.button)
