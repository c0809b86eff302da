"""The resistor."""

from __future__ import annotations

from hearthline.core.elements.kind import ALONG, TWO, ElementKind, Symbol, ValueField

RESISTOR = ElementKind(
    "R", "resistor", {"resistor": Symbol("R", TWO, (ValueField("r", "Ω", "resistance", first="1k"),))}, "resistor",
    shown=("i", "v"), conducts=ALONG, currents="pn",
)  # fmt: skip
