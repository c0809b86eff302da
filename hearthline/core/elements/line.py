"""The ideal transmission line."""

from __future__ import annotations

from hearthline.core.elements.kind import ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline

FIELDS = (
    ValueField("z0", "Ω", "characteristic impedance", first="50"),
    ValueField("td", "s", "delay", first="1n"),
)
PORTS = (("p1", (-4, -2)), ("n1", (-4, 2)), ("p2", (4, -2)), ("n2", (4, 2)))


def _outline() -> Outline:
    shape = Outline().box(-2.6, -2.5, 2.6, -1.5).box(-2.6, 1.5, 2.6, 2.5)
    for y in (-2, 2):
        shape = shape.line((-4, y), (-2.6, y)).line((2.6, y), (4, y))
    return shape


LINE = ElementKind(
    "T", "transmission line", {"transmission line": Symbol("T", PORTS, FIELDS)},
    conducts=((0, 2), (1, 3)),
    outlines={"transmission line": _outline()},
)  # fmt: skip
