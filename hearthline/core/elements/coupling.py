"""The coupling of inductors."""

from __future__ import annotations

from hearthline.core.elements.kind import ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline, arc

FIELDS = (
    ValueField("coils", "", "inductors that are coupled, with blanks between", first="L1 L2", kind="parts"),
    ValueField("k", "", "coupling, from -1 to 1", first="0.9"),
)


def _outline() -> Outline:
    return (
        Outline()
        .line(*arc(0, 0, 1.2, 200, 340))
        .arrow(-1.13, -0.41, -0.34, 0.94, 0.5)
        .arrow(1.13, -0.41, 0.34, 0.94, 0.5)
    )


COUPLING = ElementKind(
    "K", "coupling", {"coupling": Symbol("K", (), FIELDS)}, quiet=True, outlines={"coupling": _outline()}
)
