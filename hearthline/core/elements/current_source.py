"""The independent current source."""

from __future__ import annotations

from hearthline.core.elements.kind import SMALL_SIGNAL, TWO, WAVE, ElementKind, Symbol, ValueField

_DC = ValueField("dc", "A", "current from the first terminal through the source", "0", first="1u")
CURRENT_SOURCE = ElementKind(
    "I", "current source", {"current source": Symbol("I", TWO, (_DC, WAVE, *SMALL_SIGNAL))}, "current source",
    shown=("v",), currents="pn",
)  # fmt: skip
