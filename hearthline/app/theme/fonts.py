"""The shipped typeface: one family with tabular figures, and its monospaced sister for values in columns."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtGui import QFont, QFontDatabase

FOLDER = Path(__file__).with_name("fonts")
TEXT, FIGURES = "IBM Plex Sans", "IBM Plex Mono"
SIZE = 13


def load_fonts() -> None:
    """Makes the shipped fonts known to Qt; needs a QGuiApplication."""
    for path in sorted(FOLDER.glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(path))


def text_font(pixels: int = SIZE, bold: bool = False) -> QFont:
    """The text face at a size in pixels."""
    return _font(TEXT, pixels, QFont.Weight.DemiBold if bold else QFont.Weight.Normal)


def figure_font(pixels: int = SIZE - 1) -> QFont:
    """The face for numbers that stand under each other."""
    return _font(FIGURES, pixels, QFont.Weight.Normal)


def _font(family: str, pixels: int, weight: QFont.Weight) -> QFont:
    font = QFont(family)
    font.setPixelSize(pixels)
    font.setWeight(weight)
    return font
