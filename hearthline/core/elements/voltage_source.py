"""The independent voltage source."""

from __future__ import annotations

from hearthline.core.elements.kind import ALONG, SMALL_SIGNAL, TWO, WAVE, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline

_DC = ValueField("dc", "V", "voltage from the first terminal to the second", "0", first="1")


def _outline() -> Outline:
    shape = Outline().line((0, -2), (0, -1.2)).line((0, 1.2), (0, 2)).circle(0, 0, 1.2)
    return shape.line((0, -1.2), (0, 1.2)).line((0.6, -1.75), (1.1, -1.75)).line((0.85, -2.0), (0.85, -1.5))


VOLTAGE_SOURCE = ElementKind(
    "V", "voltage source", {"voltage source": Symbol("V", TWO, (_DC, WAVE, *SMALL_SIGNAL))},
    shown=("i",), conducts=ALONG, holds_voltage=True, by_branch=True, currents="pn",
    outlines={"voltage source": _outline()},
)  # fmt: skip
