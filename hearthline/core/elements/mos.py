"""The MOS transistor."""

from __future__ import annotations

from hearthline.core.elements.kind import ElementKind, Symbol, ValueField

FIELDS = (
    ValueField("w", "m", "width of the whole gate, all fingers together", first="1u"),
    ValueField("l", "m", "length of the gate", first="130n"),
    ValueField("nf", "", "number of fingers the width is split into", "1"),
    ValueField("m", "", "how many such devices stand in parallel", "1"),
)
MOS = ElementKind(
    "M", "MOS transistor",
    {
        "NMOS": Symbol("M", (("d", (2, -2)), ("g", (-2, 0)), ("s", (2, 2)), ("b", (2, 0))), FIELDS, True),
        "PMOS": Symbol("M", (("d", (2, 2)), ("g", (-2, 0)), ("s", (2, -2)), ("b", (2, 0))), FIELDS, True),
    },
    shown=("id", "gm", "vth", "sat"),
    currents="dgsb",
)  # fmt: skip
