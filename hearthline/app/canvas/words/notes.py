"""Notes with their formulas: written where they stand, or a little beside it; left out where there is no room."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF

from hearthline.app.canvas.words.writing import SMALL, key_of, line_height, rect, width
from hearthline.core.circuit.cell import Note
from hearthline.core.places import Item, Place, Spot

if TYPE_CHECKING:
    from hearthline.app.canvas.brush import Brush

_FORMULA = re.compile(r"\{([^{}]*)\}")
_NUMBER = "−0.0000"
"""As wide as what a formula comes to, so that a note stands still while it changes."""


@dataclass(frozen=True)
class NoteWords:
    """A note whose first line begins at a place [px]."""

    note: Note
    rank: int
    at: tuple[float, float]

    @cached_property
    def item(self) -> Item:
        """As Writing has it."""
        lines = _FORMULA.sub(_NUMBER, self.note.text).split("\n")
        size = max(width(line, SMALL) for line in lines), line_height(SMALL) * len(lines)
        x, y = self.at
        spots = [Spot(x, y, 0, 0), Spot(x, y, 1, 0, 4), Spot(x, y, 0.5, 0, 2)]
        for reach in (1, 2, 3, 4):
            for dx, dy in ((0, 1), (0, -1), (1, 0), (-1, 0), (1, 1), (-1, 1), (1, -1), (-1, -1)):
                spots.append(Spot(x + 24.0 * reach * dx, y + 16.0 * reach * dy, 0.5 - 0.5 * dx, 0, 10.0 * reach))
        return Item(key_of("note", self.rank), ((0.0, 0.0), size), tuple(spots))

    def paint(self, brush: Brush, place: Place) -> None:
        """As Writing has it."""
        if not place.form:
            return
        point, instance = brush.look.point, brush.look.instance

        def number(match: re.Match) -> str:
            return point.formula(match[1], instance) if point is not None and instance is not None else "–"

        left, top = place.box[:2]
        for k, text in enumerate(self.note.text.split("\n")):
            brush.text(
                QPointF(left, top + (k + 1) * line_height(SMALL) - 4), _FORMULA.sub(number, text), "quiet", size=SMALL
            )

    def boxes(self, place: Place) -> list[QRectF]:
        """As Writing has it."""
        return [rect(place)] if place.form else []
