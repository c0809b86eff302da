"""Motions of a drawing: to the side, quarter turns, flips; of places, and of everything that has a place."""

from __future__ import annotations

from dataclasses import dataclass, replace

from hearthline.core.circuit.cell import Label, Note, Part, Pin, Wire
from hearthline.core.elements.kind import Point


@dataclass(frozen=True)
class Motion:
    """First flips left to right about `centre`, then turns clockwise by quarters about it, then moves by `shift`."""

    shift: Point = (0, 0)
    quarters: int = 0
    flip: bool = False
    centre: Point = (0, 0)

    def point(self, at: Point) -> Point:
        """Where a place goes."""
        x, y = at[0] - self.centre[0], at[1] - self.centre[1]
        if self.flip:
            x = -x
        for _ in range(self.quarters % 4):
            x, y = -y, x
        return x + self.centre[0] + self.shift[0], y + self.centre[1] + self.shift[1]

    def part(self, part: Part) -> Part:
        """A part in its new place."""
        turn, flip = part.turn, part.flip
        if self.flip:
            turn, flip = -turn, not flip
        return replace(part, at=self.point(part.at), turn=(turn + self.quarters) % 4, flip=flip)

    def pin(self, pin: Pin) -> Pin:
        """A pin in its new place; it points the other way where it was flipped along its axis."""
        turn = pin.turn
        if self.flip:
            turn = -turn if pin.kind in ("supply", "ground") else 2 - turn
        return replace(pin, at=self.point(pin.at), turn=(turn + self.quarters) % 4)

    def wire(self, wire: Wire) -> Wire:
        """A wire in its new place."""
        return Wire(tuple(self.point(point) for point in wire.points))

    def mark(self, item: Label | Note) -> Label | Note:
        """A label or note in its new place; it stays upright."""
        return replace(item, at=self.point(item.at))
