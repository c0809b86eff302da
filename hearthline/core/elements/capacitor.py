"""The capacitor."""

from __future__ import annotations

from hearthline.core.elements.kind import TWO, ElementKind, Symbol, ValueField

CAPACITOR = ElementKind(
    "C", "capacitor", {"capacitor": Symbol("C", TWO, (ValueField("c", "F", "capacitance", first="1p"),))}, "capacitor",
    shown=("v",), quiet=True,
)  # fmt: skip
