"""The switch that a voltage controls; on a drawing an instance of the library's module."""

from __future__ import annotations

from hearthline.core.elements.kind import FOUR, ElementKind, Symbol, ValueField

FIELDS = (
    ValueField("ron", "Ω", "resistance when on", "1"),
    ValueField("roff", "Ω", "resistance when off", "1T"),
    ValueField("vt", "V", "control voltage in the middle", "0"),
    ValueField("vh", "V", "hysteresis: on above vt + vh, off below vt - vh", "0"),
    ValueField("vw", "V", "half the window of the transition, without hysteresis", "100m"),
)
SWITCH = ElementKind("S", "switch", {"switch": Symbol("X", FOUR, FIELDS, True)})
