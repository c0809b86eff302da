"""The junction field-effect transistor."""

from __future__ import annotations

from hearthline.core.elements.kind import AREA, ElementKind, Symbol

JFET = ElementKind(
    "J", "junction field-effect transistor",
    {
        "NJF": Symbol("J", (("d", (2, -2)), ("g", (-2, 0)), ("s", (2, 2))), AREA, True),
        "PJF": Symbol("J", (("d", (2, 2)), ("g", (-2, 0)), ("s", (2, -2))), AREA, True),
    },
    shown=("id", "gm", "vth", "sat"),
    currents="dgs",
)  # fmt: skip
