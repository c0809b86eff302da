"""The independent current source."""

from __future__ import annotations

from hearthline.core.elements.kind import SMALL_SIGNAL, TWO, WAVE, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline

_DC = ValueField("dc", "A", "current from the first terminal through the source", "0", first="1u")


def _outline() -> Outline:
    shape = Outline().line((0, -2), (0, -1.2)).line((0, 1.2), (0, 2)).circle(0, 0, 1.2)
    return shape.line((-1.2, 0), (1.2, 0)).arrow(0.0, 1.95, 0, 1)


CURRENT_SOURCE = ElementKind(
    "I", "current source", {"current source": Symbol("I", TWO, (_DC, WAVE, *SMALL_SIGNAL))},
    shown=("v",), currents="pn",
    outlines={"current source": _outline()},
)  # fmt: skip
