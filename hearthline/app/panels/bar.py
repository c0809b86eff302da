"""A share of the most, as a bar."""

from __future__ import annotations

from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QWidget

from hearthline.app.theme.theme import theme


class Bar(QWidget):
    """As long as it is warm."""

    def __init__(self, heat: float) -> None:
        super().__init__()
        self.heat = heat
        self.setFixedSize(56, 10)

    def paintEvent(self, event) -> None:
        """From the left."""
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.color("raised"))
        painter.fillRect(0, 0, round(self.heat * self.width()), self.height(), theme.color("ember"))
