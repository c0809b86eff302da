"""Buttons by their text, for tests of views."""

from __future__ import annotations

from PyQt6.QtWidgets import QPushButton


def pressed(person, view, text: str) -> None:
    """Clicks the button of that text."""

    def found() -> QPushButton | None:
        return next((one for one in view.findChildren(QPushButton) if one.text() == text and one.isVisible()), None)

    person.wait(lambda: found() is not None)
    person.click(found())
