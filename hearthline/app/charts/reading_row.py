"""What the cursor reads, in a row of its own above the curves, so that it never covers one: a sample of each curve's line, its
name, its value."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme

HEIGHT, SAMPLE, GAP, MARGIN = 19, 16, 14, 14


@dataclass(frozen=True)
class Reading:
    """One entry: a name, a value, and the pen of its curve where it has one."""

    name: str
    value: str
    pen: QPen | None = None
    bold: bool = False

    @property
    def text(self) -> str:
        """As a line of text."""
        return f"{self.name} {self.value}".strip()


class ReadingRow(QWidget):
    """As many entries as there is room for; all of them in the tip."""

    def __init__(self) -> None:
        super().__init__()
        self.readings: tuple[Reading, ...] = ()
        self.setFixedHeight(HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        theme.changed.connect(self.update)

    def sizeHint(self) -> QSize:
        """One line."""
        return QSize(200, HEIGHT)

    def show_readings(self, readings: tuple[Reading, ...]) -> None:
        """Other numbers; none where there is no cursor."""
        self.readings = readings
        self.setToolTip("\n".join(one.text for one in readings))
        self.setAccessibleName(", ".join(one.text for one in readings))
        self.update()

    @property
    def text(self) -> str:
        """All of it, an entry a line."""
        return "\n".join(one.text for one in self.readings)

    def paintEvent(self, event: QPaintEvent) -> None:
        """From the left, until the room ends."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        x = float(MARGIN)
        for k, one in enumerate(self.readings):
            wide = self._width(painter, one)
            more = k + 1 < len(self.readings)
            if x + wide > self.width() - (MARGIN + 12 if more else MARGIN):
                painter.setPen(theme.color("quiet"))
                painter.drawText(QPointF(x, HEIGHT - 6), "…")
                return
            self._paint(painter, x, one)
            x += wide + GAP

    def _width(self, painter: QPainter, one: Reading) -> float:
        painter.setFont(text_font(11, one.bold))
        name = painter.fontMetrics().horizontalAdvance(one.name) + 5 if one.name else 0
        painter.setFont(figure_font(11))
        return (SAMPLE + 5 if one.pen is not None else 0) + name + painter.fontMetrics().horizontalAdvance(one.value)

    def _paint(self, painter: QPainter, x: float, one: Reading) -> None:
        if one.pen is not None:
            painter.setPen(one.pen)
            painter.drawLine(QPointF(x, HEIGHT / 2), QPointF(x + SAMPLE, HEIGHT / 2))
            x += SAMPLE + 5
        middle = Qt.AlignmentFlag.AlignVCenter
        painter.setFont(text_font(11, one.bold))
        painter.setPen(theme.color("quiet"))
        wide = painter.fontMetrics().horizontalAdvance(one.name)
        painter.drawText(QRectF(x, 0, wide + 4, HEIGHT), middle, one.name)
        x += wide + 5 if one.name else 0
        painter.setFont(figure_font(11))
        painter.setPen(theme.color("ink"))
        painter.drawText(QRectF(x, 0, self.width(), HEIGHT), middle, one.value)
