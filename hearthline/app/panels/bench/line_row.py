"""One line of a bench: a name, what is typed, and under it what was understood or where the mistake is."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QGridLayout, QLabel, QLineEdit, QPushButton, QWidget

from hearthline.app.panels.text_line import TextLine
from hearthline.app.panels.value_field import set_wrong
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.core.errors import ExpressionError, HearthlineError

NAME_WIDTH = 112


class PlainLine(QLineEdit):
    """A text that is checked while it is typed: `changed(text)` when it holds, with Return or when the field is left, or at
    every text that `check` takes where it is `live`. `check` raises HearthlineError; `told(problem, column)` says what is
    wrong."""

    changed = pyqtSignal(str)
    settled = pyqtSignal()
    told = pyqtSignal(str, int)

    def __init__(self, text: str, check: Callable[[str], object], live: bool = False) -> None:
        super().__init__(text)
        self._good, self._check, self._live = text, check, live
        self.setFont(figure_font(12))
        self.setCursorPosition(0)
        self.textEdited.connect(self._edited)

    def show_text(self, text: str) -> None:
        """Takes a text from outside, unless one is being typed."""
        self._good = text
        if not self.hasFocus() and self.text() != text:
            self.setText(text)
            self.setCursorPosition(0)
            self.verdict()

    def verdict(self) -> bool:
        """Whether the text can be; says so."""
        problem, column = "", 0
        try:
            self._check(self.text().strip())
        except HearthlineError as error:
            problem, column = str(error), error.column if isinstance(error, ExpressionError) else 0
        set_wrong(self, bool(problem))
        self.setToolTip(problem)
        self.told.emit(problem, column)
        return not problem

    def _edited(self, text: str) -> None:
        if self.verdict() and self._live:
            self._hold()

    def _hold(self) -> None:
        text = self.text().strip()
        if text != self._good:
            self._good = text
            self.changed.emit(text)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Return settles, Escape goes back to the last good text."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.modifiers():
            if self.verdict():
                self._hold()
                self.settled.emit()
        elif event.key() == Qt.Key.Key_Escape:
            self.setText(self._good)
            self.verdict()
            self.clearFocus()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """A text that cannot be gives way to the last good one."""
        super().focusOutEvent(event)
        if self.verdict():
            self._hold()
        else:
            self.setText(self._good)
            self.verdict()
        self.settled.emit()


class LineRow(QWidget):
    """`removed` by its cross; `acted` by the button that some lines have."""

    removed = pyqtSignal()
    acted = pyqtSignal()

    def __init__(
        self,
        key: str,
        name: TextLine | QLabel,
        line: QWidget,
        action: tuple[str, str] | None = None,
        fixed: bool = False,
    ) -> None:
        super().__init__()
        self.name, self.line = name, line
        self.echo = QLabel()
        self.echo.setFont(figure_font(11))
        self.echo.setProperty("quiet", True)
        self.echo.setWordWrap(True)
        self.echo.setContentsMargins(8, 0, 0, 0)
        self._understood = ""
        name.setFixedWidth(NAME_WIDTH)
        name.setFont(text_font(12))
        name.setAccessibleName(f"{key} name")
        line.setAccessibleName(key)
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 2)
        grid.setHorizontalSpacing(4)
        grid.setVerticalSpacing(1)
        for column in (2, 3):
            grid.setColumnMinimumWidth(column, 22)
        grid.addWidget(name, 0, 0)
        grid.addWidget(line, 0, 1)
        grid.addWidget(self.echo, 1, 1)
        if action is not None:
            grid.addWidget(self._button(action[0], action[1], self.acted), 0, 2)
        if not fixed:
            grid.addWidget(self._button("×", f"take {key} away", self.removed), 0, 3)
        if isinstance(line, PlainLine):
            line.told.connect(self._tell)
            line.verdict()

    def _button(self, text: str, tip: str, signal) -> QPushButton:
        button = QPushButton(text)
        button.setProperty("plain", True)
        button.setToolTip(tip)
        button.setAccessibleName(tip)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.setFixedWidth(22)
        button.clicked.connect(lambda _=False: signal.emit())
        return button

    def say(self, text: str, wrong: bool = False) -> None:
        """What was understood; stays until there is a mistake, and comes again after it."""
        self._understood = text
        if not (isinstance(self.line, PlainLine) and self.line.property("wrong")):
            set_wrong(self.echo, wrong)
            self.echo.setText(text)
            self.echo.setVisible(bool(text))

    def _tell(self, problem: str, column: int) -> None:
        if not problem:
            self.say(self._understood)
            return
        pointer = f"{' ' * (column - 1)}▲\n" if 0 < column <= 48 else ""
        set_wrong(self.echo, True)
        self.echo.setText(pointer + problem)
        self.echo.setVisible(True)
