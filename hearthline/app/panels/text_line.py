"""A field for a name or a text: what was typed holds with Return, or when the field is left."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QLineEdit

from hearthline.app.panels.value_field import ValueLine, set_wrong
from hearthline.core.elements.wave import parse_wave
from hearthline.core.errors import HearthlineError


class TextLine(QLineEdit):
    """`settled(text)` when a new text holds; `problem(text)` says why one cannot, or nothing."""

    settled = pyqtSignal(str)

    def __init__(self, text: str, problem: Callable[[str], str] = lambda text: "") -> None:
        super().__init__(text)
        self._good, self._problem = text, problem
        self.textEdited.connect(lambda text: self._judge(text))

    def show_text(self, text: str) -> None:
        """Takes a text from outside, unless one is being typed."""
        self._good = text
        if not self.hasFocus():
            self.setText(text)

    def _judge(self, text: str) -> str:
        problem = self._problem(text.strip()) if text.strip() != self._good else ""
        set_wrong(self, bool(problem))
        self.setToolTip(problem)
        return problem

    def _settle(self) -> None:
        text = self.text().strip()
        if text != self._good:
            if self._judge(text):
                self.setText(self._good)
                set_wrong(self, False)
            else:
                self._good = text
                self.settled.emit(text)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Return settles, Escape goes back."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._settle()
        elif event.key() == Qt.Key.Key_Escape:
            self.setText(self._good)
            set_wrong(self, False)
            self.clearFocus()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leaving settles."""
        super().focusOutEvent(event)
        self._settle()


class WaveLine(ValueLine):
    """A field for a waveform."""

    def _read(self, text: str) -> tuple[str, str]:
        if not text.strip():
            return "", ""
        try:
            wave = parse_wave(text)
        except HearthlineError as error:
            return str(error), ""
        return "", f"{wave.kind}, {len(wave.numbers)} numbers"


class FileLine(ValueLine):
    """A field for the name of a file."""

    def _read(self, text: str) -> tuple[str, str]:
        return ("", "") if text.strip() else ("write the name of a file in the project's folder `devices`", "")


class WordsLine(ValueLine):
    """A field for names of other parts."""

    def _read(self, text: str) -> tuple[str, str]:
        return ("", "") if text.strip() else ("write the name of a part", "")
