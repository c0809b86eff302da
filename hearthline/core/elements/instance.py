"""A block, or a Verilog-A module, and the devices of kits that are drawn in a form of their own."""

from __future__ import annotations

from hearthline.core.elements.kind import PARALLEL, TWO, ElementKind, Symbol, ValueField

STRIP = (ValueField("w", "m", "width", first="2u"), ValueField("l", "m", "length", first="10u"), PARALLEL)
SPIRAL = (
    ValueField("d", "m", "outer diameter", "200u"),
    ValueField("w", "m", "width of the track", "8u"),
    ValueField("s", "m", "gap between turns", "2u"),
    ValueField("turns", "", "number of turns", "3.5"),
)
INSTANCE = ElementKind(
    "X", "block or Verilog-A module",
    {
        "strip resistor": Symbol("X", TWO, STRIP, True),
        "plate capacitor": Symbol("X", TWO, STRIP, True),
        "varactor": Symbol("X", TWO, STRIP, True),
        "spiral": Symbol("X", TWO, SPIRAL, True),
    },
    shown=("id", "i", "gm", "v"),
)  # fmt: skip
