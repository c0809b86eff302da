"""The capacitor."""

from __future__ import annotations

from hearthline.core.elements.kind import TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline


def plates() -> Outline:
    """Two plates between two leads."""
    shape = Outline().line((0, -2), (0, -0.25)).line((0, 0.25), (0, 2))
    return shape.line((-1, -0.25), (1, -0.25), heavy=True).line((-1, 0.25), (1, 0.25), heavy=True)


CAPACITOR = ElementKind(
    "C", "capacitor", {"capacitor": Symbol("C", TWO, (ValueField("c", "F", "capacitance", first="1p"),))},
    shown=("v",), quiet=True,
    outlines={"capacitor": plates(), "plate capacitor": plates()},
)  # fmt: skip
