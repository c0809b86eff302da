"""The junction diode."""

from __future__ import annotations

from hearthline.core.elements.kind import AREA, TWO, ElementKind, Symbol

DIODE = ElementKind(
    "D", "diode", {"D": Symbol("D", TWO, AREA[:1], True)}, shown=("id", "vd"), currents="pn",
)  # fmt: skip
