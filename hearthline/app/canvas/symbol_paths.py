"""Outlines of the symbols in grid steps, after the conventions of IEC 60617 and IEEE 315, in our own proportions."""

from __future__ import annotations

from functools import cache

from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QPainterPath, QPolygonF

ARROW = 0.62


class Shape:
    """Strokes and fills of one symbol; fills are the arrow heads."""

    def __init__(self) -> None:
        self.strokes = QPainterPath()
        self.heavy = QPainterPath()
        self.fills = QPainterPath()

    def line(self, *points: tuple[float, float], heavy: bool = False) -> Shape:
        """A polyline; `heavy` for plates and channels."""
        path = self.heavy if heavy else self.strokes
        path.moveTo(*points[0])
        for point in points[1:]:
            path.lineTo(*point)
        return self

    def circle(self, x: float, y: float, radius: float) -> Shape:
        """A circle around (x, y)."""
        self.strokes.addEllipse(QPointF(x, y), radius, radius)
        return self

    def box(self, x: float, y: float, width: float, height: float) -> Shape:
        """A rectangle."""
        self.strokes.addRect(QRectF(x, y, width, height))
        return self

    def arrow(self, x: float, y: float, dx: float, dy: float) -> Shape:
        """A filled head with its tip at (x, y), pointing along the unit vector (dx, dy)."""
        base = QPointF(x - ARROW * dx, y - ARROW * dy)
        side = QPointF(-dy, dx) * (ARROW * 0.45)
        self.fills.addPolygon(QPolygonF([QPointF(x, y), base + side, base - side, QPointF(x, y)]))
        return self


def _mos(drain_above: bool) -> Shape:
    shape = Shape().line((-2, 0), (-0.55, 0)).line((-0.55, -1.25), (-0.55, 1.25), heavy=True)
    for top, bottom in ((-1.55, -0.75), (-0.4, 0.4), (0.75, 1.55)):
        shape.line((0, top), (0, bottom), heavy=True)
    shape.line((0, -1.15), (2, -1.15), (2, -2)).line((0, 1.15), (2, 1.15), (2, 2)).line((0, 0), (2, 0))
    return shape.arrow(0.12, 0, -1, 0) if drain_above else shape.arrow(0.95, 0, 1, 0)


def _source() -> Shape:
    return Shape().line((0, -2), (0, -1.2)).line((0, 1.2), (0, 2)).circle(0, 0, 1.2)


@cache
def shape_of(symbol: str) -> Shape:
    """The outline of a primitive by its symbol name; a plain box for one without."""
    make = _SHAPES.get(symbol)
    return make() if make else Shape().box(-2, -2, 4, 4)


_SHAPES = {
    "NMOS": lambda: _mos(True),
    "PMOS": lambda: _mos(False),
    "D": lambda: (
        Shape().line((0, -2), (0, -0.7)).line((0, 0.6), (0, 2)).line((-0.8, 0.6), (0.8, 0.6), heavy=True)
        .line((-0.8, -0.7), (0.8, -0.7), (0, 0.6), (-0.8, -0.7))
    ),
    "resistor": lambda: Shape().line((0, -2), (0, -1.3)).line((0, 1.3), (0, 2)).box(-0.5, -1.3, 1, 2.6),
    "capacitor": lambda: (
        Shape().line((0, -2), (0, -0.25)).line((0, 0.25), (0, 2))
        .line((-1, -0.25), (1, -0.25), heavy=True).line((-1, 0.25), (1, 0.25), heavy=True)
    ),
    "inductor": lambda: Shape().line((0, -2), (0, -1.3)).line((0, 1.3), (0, 2)).box(-0.35, -1.3, 0.7, 2.6),
    "voltage source": lambda: _source().line((0, -1.2), (0, 1.2)),
    "current source": lambda: _source().line((-1.2, 0), (1.2, 0)).arrow(0, 0.95, 0, 1),
    "ground": lambda: (
        Shape().line((0, 0), (0, 1)).line((-1.1, 1), (1.1, 1), heavy=True).line((-0.7, 1.4), (0.7, 1.4))
        .line((-0.3, 1.8), (0.3, 1.8))
    ),
}  # fmt: skip


@cache
def pin_shape(kind: str) -> Shape:
    """The flag of a pin, with the net at the origin; supplies are a bar."""
    if kind == "supply":
        return Shape().line((0, 0), (0, -0.8)).line((-1.5, -0.8), (1.5, -0.8), heavy=True)
    if kind == "output":
        return Shape().line((0, 0), (0, -0.7), (2, -0.7), (2.8, 0), (2, 0.7), (0, 0.7), (0, 0))
    return Shape().line((0, 0), (-0.8, -0.7), (-2.8, -0.7), (-2.8, 0.7), (-0.8, 0.7), (0, 0))
