"""The kinds of parts the engine knows, by their letter in a netlist, and the modules behind the types of model cards."""

from __future__ import annotations

from hearthline.core.engine.devices import linear
from hearthline.core.engine.devices.kind import DeviceKind

KINDS: dict[str, DeviceKind] = {
    "R": linear.RESISTOR,
    "C": linear.CAPACITOR,
    "L": linear.INDUCTOR,
    "V": linear.VOLTAGE_SOURCE,
    "I": linear.CURRENT_SOURCE,
    "E": linear.VCVS,
    "G": linear.VCCS,
    "F": linear.CCCS,
    "H": linear.CCVS,
    "K": linear.MUTUAL,
    "T": linear.LOSSLESS_LINE,
}
"""Elementary parts; everything else is a Verilog-A module."""

STANDARD: dict[str, tuple[str, dict[str, float]]] = {
    "D": ("diode", {}),
    "NMOS": ("mos1", {"type": 1.0}),
    "PMOS": ("mos1", {"type": -1.0}),
    "NPN": ("bipolar", {"type": 1.0}),
    "PNP": ("bipolar", {"type": -1.0}),
    "NJF": ("jfet", {"type": 1.0}),
    "PJF": ("jfet", {"type": -1.0}),
    "SW": ("switch", {}),
}
"""The types of model cards that the trade knows: the library's module, and what the type sets in it."""

CARDS_OF: dict[str, tuple[str, ...]] = {
    "D": ("D",), "M": ("NMOS", "PMOS"), "Q": ("NPN", "PNP"), "J": ("NJF", "PJF"), "S": ("SW",), "R": ("R",), "C": ("C",),
}  # fmt: skip
"""The types of cards that a part with that letter may name; any of them may name a card of a module too."""
