"""The junction diode."""

from __future__ import annotations

from hearthline.core.elements.deck_form import WithModel
from hearthline.core.elements.kind import AREA, TWO, ElementKind, Symbol
from hearthline.core.elements.outline import Outline


def _outline() -> Outline:
    shape = Outline().line((0, -2), (0, -0.7)).line((0, 0.6), (0, 2)).line((-0.8, 0.6), (0.8, 0.6), heavy=True)
    return shape.line((-0.8, -0.7), (0.8, -0.7), (0, 0.6), (-0.8, -0.7))


DIODE = ElementKind(
    "D", "diode", {"D": Symbol("D", TWO, AREA[:1], True)}, shown=("id", "vd"), currents="pn",
    outlines={"D": _outline()},
    cards={"D": ("diode", {})}, deck=WithModel("D", 2, "d1 a k dmodel", area=True, initial=True),
)  # fmt: skip
