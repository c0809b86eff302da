"""The independent voltage source."""

from __future__ import annotations

from hearthline.core.elements.kind import ALONG, SMALL_SIGNAL, TWO, WAVE, ElementKind, Symbol, ValueField

_DC = ValueField("dc", "V", "voltage from the first terminal to the second", "0", first="1")
VOLTAGE_SOURCE = ElementKind(
    "V", "voltage source", {"voltage source": Symbol("V", TWO, (_DC, WAVE, *SMALL_SIGNAL))}, "voltage source",
    shown=("i",), conducts=ALONG, holds_voltage=True, by_branch=True, currents="pn",
)  # fmt: skip
