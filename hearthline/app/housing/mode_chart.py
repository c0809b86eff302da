"""Resonances of a housing over frequency, each as high as its quality, before the gain of the circuit that stands in it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.app.theme.theme import theme
from hearthline.core.fields.modes import Modes
from hearthline.core.quantity import write

LEFT, RIGHT, HEAD, FOOT = 14.0, 14.0, 20.0, 20.0
CLOSE = 8.0
"""Pixels from a line within which it is meant."""
MOST_Q = 1e4


@dataclass(frozen=True)
class Gain:
    """Of the circuit: frequencies [Hz], decibels, and what it is called."""

    frequencies: np.ndarray
    decibels: np.ndarray
    name: str


class ModeChart(QWidget):
    """`chosen` tells the number of a resonance that was clicked."""

    chosen = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.modes: Modes | None = None
        self.gain: Gain | None = None
        self.mode = 0
        self.setFixedHeight(118)
        self.setAccessibleName("resonances over frequency")
        theme.changed.connect(self.update)

    def show_modes(self, modes: Modes | None, gain: Gain | None, mode: int) -> None:
        """Others."""
        self.modes, self.gain, self.mode = modes, gain, mode
        self.update()

    def _span(self) -> tuple[float, float]:
        assert self.modes is not None
        found = self.modes.frequencies
        return 0.6 * float(found.min()), 1.08 * float(found.max())

    def _x(self, frequency: float) -> float:
        low, high = self._span()
        return LEFT + (frequency - low) / (high - low) * (self.width() - LEFT - RIGHT)

    def _foot(self) -> float:
        return self.height() - FOOT

    def _height(self, quality: float) -> float:
        """Pixels above the foot, by the logarithm."""
        share = np.log10(np.clip(quality, 3.0, MOST_Q) / 3.0) / np.log10(MOST_Q / 3.0)
        return 12.0 + float(share) * (self._foot() - HEAD - 12.0)

    def mousePressEvent(self, event) -> None:
        """Chooses the nearest resonance."""
        if self.modes is None or not len(self.modes.frequencies):
            return
        away = np.abs([self._x(float(f)) - event.position().x() for f in self.modes.frequencies])
        nearest = int(np.argmin(away))
        if away[nearest] < CLOSE:
            self.chosen.emit(nearest)

    def paintEvent(self, event) -> None:
        """Gain as ground, resonances as lines."""
        if self.modes is None or not len(self.modes.frequencies):
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_gain(painter)
        foot = self._foot()
        painter.setPen(QPen(theme.color("line"), 1.0))
        painter.drawLine(QPointF(LEFT, foot), QPointF(self.width() - RIGHT, foot))
        painter.setFont(figure_font(10))
        low, high = self._span()
        step = _round(0.2 * (high - low))
        for frequency in np.arange(np.ceil(low / step) * step, high, step):
            painter.setPen(theme.color("quiet"))
            box = QRectF(self._x(float(frequency)) - 40, foot + 2, 80, FOOT - 2)
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, write(float(frequency), "Hz", 3))
        last = -1e9
        for k, (frequency, quality) in enumerate(zip(self.modes.frequencies, self.modes.quality, strict=True)):
            own = k == self.mode
            x, top = self._x(float(frequency)), foot - self._height(float(quality))
            painter.setPen(QPen(theme.color("teal" if own else "ink"), 3.0 if own else 1.6))
            painter.drawLine(QPointF(x, foot), QPointF(x, top))
            if own or x - last > 44:
                painter.setPen(theme.color("teal" if own else "ink"))
                word = f"Q {figure(float(quality))}"
                painter.drawText(QRectF(x - 40, top - 15, 80, 14), Qt.AlignmentFlag.AlignCenter, word)
                last = x

    def _paint_gain(self, painter: QPainter) -> None:
        gain = self.gain
        painter.setFont(text_font(11))
        painter.setPen(theme.color("quiet"))
        if gain is None:
            words = "Run a scattering analysis of this bench to see its gain behind these lines."
            painter.drawText(QRectF(LEFT, 0, self.width(), HEAD), Qt.AlignmentFlag.AlignLeft, words)
            return
        low, high = self._span()
        inside = (gain.frequencies >= low) & (gain.frequencies <= high) & np.isfinite(gain.decibels)
        if not inside.any():
            return
        frequencies, decibels = gain.frequencies[inside], gain.decibels[inside]
        most = max(float(decibels.max()), 1.0)
        foot, room = self._foot(), self._foot() - HEAD
        points = [
            QPointF(self._x(float(f)), foot - max(0.0, float(g)) / most * room)
            for f, g in zip(frequencies, decibels, strict=True)
        ]
        shape = QPolygonF([QPointF(points[0].x(), foot), *points, QPointF(points[-1].x(), foot)])
        painter.setPen(QPen(theme.color("amber"), 1.2))
        painter.setBrush(theme.color("ember_wash"))
        painter.drawPolygon(shape)
        painter.setPen(theme.color("ember_ink"))
        words = f"{gain.name} up to {most:.3g} dB, where it is above 0 dB"
        painter.drawText(QRectF(LEFT, 0, self.width(), HEAD), Qt.AlignmentFlag.AlignLeft, words)


def figure(quality: float) -> str:
    """A quality in few digits."""
    if not np.isfinite(quality):
        return "∞"
    return f"{quality:.0f}" if quality >= 100 else f"{quality:.3g}"


def _round(value: float) -> float:
    power = 10.0 ** np.floor(np.log10(value))
    return float(next((k for k in (1, 2, 5) if k * power >= value), 10) * power)
