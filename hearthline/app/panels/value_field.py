"""A field for a quantity: every SI prefix goes in, what was understood stands beside, nonsense is refused in place."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QLineEdit, QVBoxLayout, QWidget

from hearthline.app.panels.label import Label
from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.core.errors import HearthlineError
from hearthline.core.expression import parse_value
from hearthline.core.quantity import write
from hearthline.core.tolerance import Tolerance


def set_wrong(widget: QWidget, wrong: bool) -> None:
    """Marks a widget as holding something wrong; the style sheet does the rest."""
    if widget.property("wrong") != wrong:
        widget.setProperty("wrong", wrong)
        widget.style().unpolish(widget)
        widget.style().polish(widget)


def _reach(number: float, tolerance: Tolerance | None, unit: str) -> str:
    """How far a value with a tolerance may be: `, 4.85 to 5.15 kΩ`, or its standard deviation."""
    if tolerance is None:
        return ""
    if math.isfinite(tolerance.within):
        low, high = (write(float(f"{number * (1.0 + sign * tolerance.within):.6g}"), unit) for sign in (-1, 1))
        return f", {low} to {high}"
    return f", σ {write(float(f'{abs(number) * tolerance.sigma:.4g}'), unit)}"


class ValueLine(QLineEdit):
    """`changed(text)` at every text that is understood, `settled` on Return or when the field is left, `entered` on
    Return alone.

    `check(number)` says why a number is not allowed, or nothing. `parameters()` are the values that expressions may use.
    """

    changed = pyqtSignal(str)
    settled = pyqtSignal()
    entered = pyqtSignal()
    understood = pyqtSignal(str, bool)

    def __init__(
        self,
        text: str,
        unit: str,
        check: Callable[[float], str] = lambda number: "",
        parameters: Callable[[], Mapping[str, float]] = dict,
        empty: bool = False,
    ):
        super().__init__(text)
        self.unit, self.check, self.parameters, self.empty = unit, check, parameters, empty
        self._good = text
        self.setFont(figure_font(12))
        self.setCursorPosition(0)
        self.textEdited.connect(self._edited)

    def show_text(self, text: str) -> None:
        """Takes a text from outside, unless the person is typing just that."""
        self._good = text
        if not self.hasFocus() or self.text().strip() != text:
            if self.text() != text:
                self.setText(text)
                self.setCursorPosition(0)
            self.verdict()

    def verdict(self) -> str:
        """Checks the text, tells what was understood, and returns the problem or nothing."""
        problem, echo = self._read(self.text())
        set_wrong(self, bool(problem))
        self.understood.emit(problem or echo, bool(problem))
        self.setToolTip(problem)
        return problem

    def _read(self, text: str) -> tuple[str, str]:
        if self.empty and not text.strip():
            return "", ""
        try:
            value = parse_value(text, self.unit)
            number = float(value.value(self.parameters()))
        except HearthlineError as error:
            return str(error), ""
        problem = self.check(number)
        obvious = not self.unit and text.strip().isdigit()
        return problem, "" if obvious else f"= {write(number, self.unit)}{_reach(number, value.tolerance, self.unit)}"

    def _edited(self, text: str) -> None:
        if not self.verdict():
            self._good = text.strip()
            self.changed.emit(self._good)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Return settles the value, Escape goes back to the last good one."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and not event.modifiers():
            if not self.verdict():
                self.selectAll()
                self.settled.emit()
                self.entered.emit()
        elif event.key() == Qt.Key.Key_Escape:
            self.setText(self._good)
            self.verdict()
            self.clearFocus()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """A text that was not understood gives way to the last good one."""
        super().focusOutEvent(event)
        if self.text() != self._good:
            self.setText(self._good)
            self.verdict()
        self.settled.emit()


class ListLine(ValueLine):
    """A field for several quantities of one unit, between commas."""

    @staticmethod
    def split(text: str) -> tuple[str, ...]:
        """The single texts."""
        return tuple(part.strip() for part in text.split(",") if part.strip())

    def _read(self, text: str) -> tuple[str, str]:
        parts = self.split(text)
        if not parts:
            return "write one value or more, with commas between", ""
        for part in parts:
            problem, _ = super()._read(part)
            if problem:
                return problem, ""
        return "", f"{len(parts)} value{'s' * (len(parts) > 1)}"


class ValueEditor(QWidget):
    """A `ValueLine` with the echo of what was understood, or why not, under it."""

    def __init__(self, line: ValueLine, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.line = line
        self.echo = Label()
        self.echo.setFont(text_font(11))
        self.echo.setWordWrap(True)
        self.echo.setProperty("quiet", True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(1)
        layout.addWidget(line)
        layout.addWidget(self.echo)
        line.understood.connect(self._show)
        line.verdict()

    def _show(self, text: str, wrong: bool) -> None:
        self.echo.setText(text)
        self.echo.setVisible(bool(text))
        set_wrong(self.echo, wrong)
