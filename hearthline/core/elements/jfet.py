"""The junction field-effect transistor."""

from __future__ import annotations

from hearthline.core.elements.deck_form import WithModel
from hearthline.core.elements.kind import AREA, ElementKind, Symbol
from hearthline.core.elements.outline import Outline


def _outline(n: bool) -> Outline:
    shape = Outline().line((0, -1.5), (0, 1.5), heavy=True).line((-2, 0), (0, 0))
    shape = shape.line((0, -1.0), (2, -1.0), (2, -2)).line((0, 1.0), (2, 1.0), (2, 2))
    return shape.arrow(-0.1, 0, 1, 0) if n else shape.arrow(-0.9, 0, -1, 0)


JFET = ElementKind(
    "J", "junction field-effect transistor",
    {
        "NJF": Symbol("J", (("d", (2, -2)), ("g", (-2, 0)), ("s", (2, 2))), AREA, True),
        "PJF": Symbol("J", (("d", (2, 2)), ("g", (-2, 0)), ("s", (2, -2))), AREA, True),
    },
    shown=("id", "gm", "vth", "sat"),
    currents="dgs",
    outlines={"NJF": _outline(True), "PJF": _outline(False)},
    cards={"NJF": ("jfet", {"type": 1.0}), "PJF": ("jfet", {"type": -1.0})},
    deck=WithModel("J", 3, "j1 drain gate source jmodel", area=True),
)  # fmt: skip
