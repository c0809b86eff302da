"""A question in a bar across the window: nothing else is blocked while it waits for its answer."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.rows import clear


class Question(QFrame):
    """Hidden until something is asked; every answer puts it away."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("card")
        self.row = QHBoxLayout(self)
        self.hide()

    def ask(self, text: str, answers: Mapping[str, Callable[[], object]]) -> None:
        """Shows `text` with a button for each answer."""
        clear(self.row)
        label = Label(text)
        label.setWordWrap(True)
        self.row.addWidget(label, 1)
        for answer, action in answers.items():
            button = QPushButton(answer)
            button.clicked.connect(lambda _=False, action=action: self._answer(action))
            self.row.addWidget(button)
        self.show()

    def tell(self, text: str) -> None:
        """Shows `text` until it was read."""
        self.ask(text, {"Good": lambda: None})

    def _answer(self, action: Callable[[], object]) -> None:
        self.hide()
        action()
