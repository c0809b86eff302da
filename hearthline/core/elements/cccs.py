"""The current source that a current controls."""

from __future__ import annotations

from hearthline.core.elements.kind import CONTROL, TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import controlled

CCCS = ElementKind(
    "F", "current-controlled current",
    {"current-controlled current": Symbol("F", TWO, (ValueField("gain", "", "current gain", first="1"), CONTROL))},
    shown=("i",), currents="pn",
    outlines={"current-controlled current": controlled("current", 0)},
)  # fmt: skip
