"""The current source that a current controls."""

from __future__ import annotations

from hearthline.core.elements.kind import CONTROL, TWO, ElementKind, Symbol, ValueField

CCCS = ElementKind(
    "F", "current-controlled current",
    {"current-controlled current": Symbol("F", TWO, (ValueField("gain", "", "current gain", first="1"), CONTROL))},
    "current-controlled current",
    shown=("i",), currents="pn",
)  # fmt: skip
