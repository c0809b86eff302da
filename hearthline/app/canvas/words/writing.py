"""Something that is written on a drawing: in which forms, and how it is painted where it found its place."""

from __future__ import annotations

from collections.abc import Hashable
from functools import lru_cache
from typing import TYPE_CHECKING, Protocol

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QFontMetricsF

from hearthline.app.theme.fonts import figure_font, text_font
from hearthline.core.places import Item, Place

if TYPE_CHECKING:
    from hearthline.app.canvas.brush import Brush

NAME, SMALL, FIGURES = 12, 11, 11
"""Sizes of names, of what stands beside them, and of numbers [px]."""


class Writing(Protocol):
    """One item of a drawing's words."""

    @property
    def item(self) -> Item:
        """What the search for places is told."""

    def paint(self, brush: Brush, place: Place) -> None:
        """Writes it at its place."""

    def boxes(self, place: Place) -> list[QRectF]:
        """What is covered by its texts, for tests."""


@lru_cache(maxsize=4096)
def width(text: str, size: int, bold: bool = False, figures: bool = False) -> float:
    """How wide a text comes out [px]."""
    font = figure_font(size) if figures else text_font(size, bold)
    return QFontMetricsF(font).horizontalAdvance(text)


def line_height(size: int) -> float:
    """Of a line of text of a size [px]."""
    return size + 4.0


def key_of(kind: str, name: object) -> Hashable:
    """What an item is known by from one drawing to the next."""
    return kind, name


def rect(place: Place) -> QRectF:
    """The box of a place."""
    left, top, right, bottom = place.box
    return QRectF(left, top, right - left, bottom - top)
