"""The MOS transistor."""

from __future__ import annotations

from hearthline.core.elements.deck_form import WithModel
from hearthline.core.elements.kind import ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline

FIELDS = (
    ValueField("w", "m", "width of the whole gate, all fingers together", first="1u"),
    ValueField("l", "m", "length of the gate", first="130n"),
    ValueField("nf", "", "number of fingers the width is split into", "1"),
    ValueField("m", "", "how many such devices stand in parallel", "1"),
)


def _outline(n: bool) -> Outline:
    shape = Outline().line((-2, 0), (-0.55, 0)).line((-0.55, -1.25), (-0.55, 1.25), heavy=True)
    for top, bottom in ((-1.55, -0.75), (-0.4, 0.4), (0.75, 1.55)):
        shape = shape.line((0, top), (0, bottom), heavy=True)
    shape = shape.line((0, -1.15), (2, -1.15), (2, -2)).line((0, 1.15), (2, 1.15), (2, 2)).line((0, 0), (2, 0))
    return shape.arrow(0.12, 0, -1, 0) if n else shape.arrow(0.95, 0, 1, 0)


MOS = ElementKind(
    "M", "MOS transistor",
    {
        "NMOS": Symbol("M", (("d", (2, -2)), ("g", (-2, 0)), ("s", (2, 2)), ("b", (2, 0))), FIELDS, True),
        "PMOS": Symbol("M", (("d", (2, 2)), ("g", (-2, 0)), ("s", (2, -2)), ("b", (2, 0))), FIELDS, True),
    },
    shown=("id", "gm", "vth", "sat"),
    currents="dgsb",
    outlines={"NMOS": _outline(True), "PMOS": _outline(False)},
    cards={"NMOS": ("mos1", {"type": 1.0}), "PMOS": ("mos1", {"type": -1.0})},
    deck=WithModel("M", 4, "m1 drain gate source bulk nmodel w=2u l=130n"),
)  # fmt: skip
