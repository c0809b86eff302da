"""Text on the screen is text: what comes from a file is shown letter by letter, whatever it looks like."""

from __future__ import annotations

import html

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QHelpEvent
from PyQt6.QtWidgets import QLabel, QToolTip, QWidget  # noqa: TID251 (made safe here)


class Label(QLabel):
    """A label that never takes its text for markup, which could also load files."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(text)


class PlainTips(QObject):
    """Shows tool tips of widgets that look like markup letter by letter too; a filter of the application's events."""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Takes over where the text could be taken for markup."""
        if event.type() != QEvent.Type.ToolTip or not isinstance(watched, QWidget) or not isinstance(event, QHelpEvent):
            return False
        text = watched.toolTip()
        if "<" not in text:
            return False
        QToolTip.showText(event.globalPos(), f"<span>{html.escape(text)}</span>", watched)
        return True
