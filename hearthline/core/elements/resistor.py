"""The resistor."""

from __future__ import annotations

from hearthline.core.elements.kind import ALONG, TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline, leads


def box() -> Outline:
    """A box between two leads."""
    return leads().box(-0.5, -1.3, 0.5, 1.3)


RESISTOR = ElementKind(
    "R", "resistor", {"resistor": Symbol("R", TWO, (ValueField("r", "Ω", "resistance", first="1k"),))},
    shown=("i", "v"), conducts=ALONG, currents="pn",
    outlines={"resistor": box(), "strip resistor": box()},
)  # fmt: skip
