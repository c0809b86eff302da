"""The current source that a voltage controls."""

from __future__ import annotations

from hearthline.core.elements.kind import FOUR, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import controlled, with_input

VCCS = ElementKind(
    "G", "voltage-controlled current",
    {"voltage-controlled current": Symbol("G", FOUR, (ValueField("gm", "S", "transconductance", first="1m"),))},
    shown=("i",), currents="pn",
    outlines={"voltage-controlled current": with_input(controlled("current", 2))},
)  # fmt: skip
