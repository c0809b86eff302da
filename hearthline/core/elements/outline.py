"""What symbols are drawn of, in grid steps, after the conventions of IEC 60617 and IEEE 315, in our own proportions."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

Place = tuple[float, float]
Line = tuple[Place, ...]
ARROW = 0.62


@dataclass(frozen=True)
class Outline:
    """What a symbol is drawn of: thin and heavy polylines, filled polygons, circles (x, y, radius), and words in it (x, y,
    text), which stay upright."""

    thin: tuple[Line, ...] = ()
    heavy: tuple[Line, ...] = ()
    filled: tuple[Line, ...] = ()
    circles: tuple[tuple[float, float, float], ...] = ()
    words: tuple[tuple[float, float, str], ...] = ()

    def line(self, *points: Place, heavy: bool = False) -> Outline:
        """With another polyline; `heavy` for plates and channels."""
        return replace(self, heavy=(*self.heavy, points)) if heavy else replace(self, thin=(*self.thin, points))

    def circle(self, x: float, y: float, radius: float) -> Outline:
        """With a circle around (x, y)."""
        return replace(self, circles=(*self.circles, (x, y, radius)))

    def box(self, left: float, top: float, right: float, bottom: float, heavy: bool = False) -> Outline:
        """With a rectangle."""
        corners = ((left, top), (right, top), (right, bottom), (left, bottom), (left, top))
        return self.line(*corners, heavy=heavy)

    def arrow(self, x: float, y: float, dx: float, dy: float, size: float = ARROW) -> Outline:
        """With a filled head whose tip is at (x, y), pointing along the unit vector (dx, dy)."""
        bx, by, sx, sy = x - size * dx, y - size * dy, -dy * size * 0.45, dx * size * 0.45
        return replace(self, filled=(*self.filled, ((x, y), (bx + sx, by + sy), (bx - sx, by - sy), (x, y))))

    def word(self, x: float, y: float, text: str) -> Outline:
        """With a word around (x, y)."""
        return replace(self, words=(*self.words, (x, y, text)))


def arc(x: float, y: float, radius: float, start: float, stop: float, pieces: int = 10) -> Line:
    """A piece of a circle around (x, y), angles in degrees clockwise from the right."""
    angles = [math.radians(start + (stop - start) * k / pieces) for k in range(pieces + 1)]
    return tuple((x + radius * math.cos(a), y + radius * math.sin(a)) for a in angles)


def leads() -> Outline:
    """Of what has its two terminals above each other."""
    return Outline().line((0, -2), (0, -1.3)).line((0, 1.3), (0, 2))


def controlled(mark: str, at: float) -> Outline:
    """A diamond at x = `at`, as controlled sources are."""
    shape = Outline().line((at, -2), (at, -1.2)).line((at, 1.2), (at, 2))
    shape = shape.line((at, -1.2), (at + 1, 0), (at, 1.2), (at - 1, 0), (at, -1.2))
    if mark == "voltage":
        return (
            shape.line((at, -1.2), (at, 1.2))
            .line((at + 0.5, -1.75), (at + 1, -1.75))
            .line((at + 0.75, -2.0), (at + 0.75, -1.5))
        )
    return shape.line((at - 1, 0), (at + 1, 0)).arrow(at, 1.95, 0, 1)


def with_input(shape: Outline) -> Outline:
    """The two terminals of a controlling voltage, with their signs."""
    shape = (
        shape.line((-2, -2), (-1.2, -2), (-1.2, -1.3)).line((-2, 2), (-1.2, 2), (-1.2, 1.3)).circle(-1.2, -1.2, 0.12)
    )
    shape = shape.circle(-1.2, 1.2, 0.12).line((-1.9, -1.2), (-1.5, -1.2)).line((-1.7, -1.4), (-1.7, -1.0))
    return shape.line((-1.9, 1.2), (-1.5, 1.2))
