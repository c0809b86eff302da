"""The bipolar transistor."""

from __future__ import annotations

from hearthline.core.elements.kind import AREA, ElementKind, Symbol

BIPOLAR = ElementKind(
    "Q", "bipolar transistor",
    {
        "NPN": Symbol("Q", (("c", (2, -2)), ("b", (-2, 0)), ("e", (2, 2))), AREA, True),
        "PNP": Symbol("Q", (("c", (2, 2)), ("b", (-2, 0)), ("e", (2, -2))), AREA, True),
    },
    shown=("ic", "gm", "vbe", "vce"),
    currents="cbe",
)  # fmt: skip
