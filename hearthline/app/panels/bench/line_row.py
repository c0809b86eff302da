"""One line of a bench: a name, what is typed, and under it what was understood or where the mistake is."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QGridLayout, QPushButton, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.panels.text_line import TextLine
from hearthline.app.panels.value_field import ValueLine, set_wrong
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.core.errors import ExpressionError, HearthlineError

NAME_WIDTH = 112


class PlainLine(ValueLine):
    """A text that is checked while it is typed: `changed(text)` with Return or when the field is left, or at every text that
    `check` takes where it is `live`. `check` raises HearthlineError; `column` is where the mistake is (0: nowhere)."""

    def __init__(self, text: str, check: Callable[[str], object], live: bool = False) -> None:
        super().__init__(text, "")
        self._takes, self._live, self.column = check, live, 0

    def show_text(self, text: str) -> None:
        """Takes a text from outside, unless one is being typed that does not hold yet."""
        if self._live or not (self.hasFocus() and self.isModified()):
            super().show_text(text)
        else:
            self._good = text

    def _read(self, text: str) -> tuple[str, str]:
        self.column = 0
        try:
            self._takes(text.strip())
        except HearthlineError as error:
            self.column = error.column if isinstance(error, ExpressionError) else 0
            return str(error), ""
        return "", ""

    def _edited(self, text: str) -> None:
        if self._live:
            super()._edited(text)
        else:
            self.verdict()

    def _hold(self) -> None:
        """What was typed holds from now on, if it can be."""
        text = self.text().strip()
        if text != self._good and not self.verdict():
            self._good = text
            self.setModified(False)
            self.changed.emit(text)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Return lets the text hold."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.modifiers():
            self._hold()
        super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leaving lets it hold; one that cannot be gives way to the last good one."""
        self._hold()
        super().focusOutEvent(event)


class LineRow(QWidget):
    """`removed` by its cross; `acted` by the button that some lines have."""

    removed = pyqtSignal()
    acted = pyqtSignal()

    def __init__(
        self,
        key: str,
        name: TextLine | Label,
        line: QWidget,
        action: tuple[str, str] | None = None,
        fixed: bool = False,
    ) -> None:
        super().__init__()
        self.name, self.line = name, line
        self.echo = Label()
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
            line.understood.connect(self._tell)
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

    def _tell(self, problem: str, wrong: bool) -> None:
        if not wrong:
            self.say(self._understood)
            return
        column = self.line.column
        pointer = f"{' ' * (column - 1)}▲\n" if 0 < column <= 48 else ""
        set_wrong(self.echo, True)
        self.echo.setText(pointer + problem)
        self.echo.setVisible(True)
