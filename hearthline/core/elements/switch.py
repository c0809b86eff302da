"""The switch that a voltage controls; on a drawing an instance of the library's module."""

from __future__ import annotations

from hearthline.core.elements.deck_form import WithModel
from hearthline.core.elements.kind import FOUR, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline

FIELDS = (
    ValueField("ron", "Ω", "resistance when on", "1"),
    ValueField("roff", "Ω", "resistance when off", "1T"),
    ValueField("vt", "V", "control voltage in the middle", "0"),
    ValueField("vh", "V", "hysteresis: on above vt + vh, off below vt - vh", "0"),
    ValueField("vw", "V", "half the window of the transition, without hysteresis", "100m"),
)


def _outline() -> Outline:
    shape = Outline().line((2, -2), (2, -0.9)).line((2, 0.9), (2, 2)).line((2, 0.9), (1.1, -0.75)).circle(2, -0.8, 0.12)
    shape = shape.line((-0.6, 0), (0.2, 0)).line((0.6, 0), (1.4, 0)).box(-1.6, -0.8, -0.6, 0.8)
    return shape.line((-2, -2), (-1.1, -2), (-1.1, -0.8)).line((-2, 2), (-1.1, 2), (-1.1, 0.8))


SWITCH = ElementKind(
    "S", "switch", {"switch": Symbol("X", FOUR, FIELDS, True, "voltage-controlled switch")},
    outlines={"switch": _outline()},
    cards={"SW": ("switch", {})}, deck=WithModel("S", 4, "s1 a b cp cn switchmodel"),
    of_card=("ron", "roff", "vt", "vh"),
)  # fmt: skip
