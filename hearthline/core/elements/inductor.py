"""The inductor."""

from __future__ import annotations

from hearthline.core.elements.kind import ALONG, TWO, ElementKind, Symbol, ValueField

INDUCTOR = ElementKind(
    "L", "inductor", {"inductor": Symbol("L", TWO, (ValueField("l", "H", "inductance", first="1n"),))}, "inductor",
    shown=("i",), conducts=ALONG, holds_voltage=True, by_branch=True, currents="pn",
)  # fmt: skip
