"""The inductor."""

from __future__ import annotations

from hearthline.core.elements.kind import ALONG, TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline, arc


def coil() -> Outline:
    """Four turns between two leads."""
    points = [(0.0, -2.0)]
    for k in range(4):
        points += arc(0, -1.2 + 0.8 * k, 0.4, -90, 90, 8)
    return Outline().line(*points, (0.0, 2.0))


INDUCTOR = ElementKind(
    "L", "inductor", {"inductor": Symbol("L", TWO, (ValueField("l", "H", "inductance", first="1n"),))},
    shown=("i",), conducts=ALONG, holds_voltage=True, by_branch=True, currents="pn",
    outlines={"inductor": coil(), "spiral": coil().line((0.8, -1.6), (0.8, 1.6))},
)  # fmt: skip
