"""The voltage source that a voltage controls."""

from __future__ import annotations

from hearthline.core.elements.kind import ALONG, FOUR, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import controlled, with_input

VCVS = ElementKind(
    "E", "voltage-controlled voltage",
    {"voltage-controlled voltage": Symbol("E", FOUR, (ValueField("gain", "V/V", "voltage gain", first="1"),))},
    shown=("i",), conducts=ALONG, holds_voltage=True, by_branch=True, currents="pn",
    outlines={"voltage-controlled voltage": with_input(controlled("voltage", 2))},
)  # fmt: skip
