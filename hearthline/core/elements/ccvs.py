"""The voltage source that a current controls."""

from __future__ import annotations

from hearthline.core.elements.kind import ALONG, CONTROL, TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import controlled

CCVS = ElementKind(
    "H", "current-controlled voltage",
    {"current-controlled voltage": Symbol("H", TWO, (ValueField("gain", "Ω", "transresistance", first="1k"), CONTROL))},
    shown=("i",), conducts=ALONG, holds_voltage=True, by_branch=True, currents="pn",
    outlines={"current-controlled voltage": controlled("voltage", 0)},
)  # fmt: skip
