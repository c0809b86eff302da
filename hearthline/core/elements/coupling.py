"""The coupling of inductors."""

from __future__ import annotations

from hearthline.core.elements.kind import ElementKind, Symbol, ValueField

FIELDS = (
    ValueField("coils", "", "inductors that are coupled, with blanks between", first="L1 L2", kind="parts"),
    ValueField("k", "", "coupling, from -1 to 1", first="0.9"),
)
COUPLING = ElementKind("K", "coupling", {"coupling": Symbol("K", (), FIELDS)}, "coupling", quiet=True)
