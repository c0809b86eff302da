"""The ideal transmission line."""

from __future__ import annotations

from hearthline.core.elements.kind import ElementKind, Symbol, ValueField

FIELDS = (
    ValueField("z0", "Ω", "characteristic impedance", first="50"),
    ValueField("td", "s", "delay", first="1n"),
)
PORTS = (("p1", (-4, -2)), ("n1", (-4, 2)), ("p2", (4, -2)), ("n2", (4, 2)))
LINE = ElementKind(
    "T", "transmission line", {"transmission line": Symbol("T", PORTS, FIELDS)}, "transmission line",
    conducts=((0, 2), (1, 3)),
)  # fmt: skip
