"""The bipolar transistor."""

from __future__ import annotations

from hearthline.core.elements.kind import AREA, ElementKind, Symbol
from hearthline.core.elements.outline import Outline


def _outline(n: bool) -> Outline:
    shape = Outline().line((-2, 0), (-0.2, 0)).line((-0.2, -1.2), (-0.2, 1.2), heavy=True)
    shape = shape.line((-0.2, -0.5), (2, -1.5), (2, -2)).line((-0.2, 0.5), (2, 1.5), (2, 2))
    dx, dy = 0.9104, 0.4138
    return shape.arrow(1.45, 1.25, dx, dy) if n else shape.arrow(0.35, 0.75, -dx, -dy)


BIPOLAR = ElementKind(
    "Q", "bipolar transistor",
    {
        "NPN": Symbol("Q", (("c", (2, -2)), ("b", (-2, 0)), ("e", (2, 2))), AREA, True),
        "PNP": Symbol("Q", (("c", (2, 2)), ("b", (-2, 0)), ("e", (2, -2))), AREA, True),
    },
    shown=("ic", "gm", "vbe", "vce"),
    currents="cbe",
    outlines={"NPN": _outline(True), "PNP": _outline(False)},
)  # fmt: skip
