"""The kinds of parts the engine knows, by their letter in a netlist."""

from __future__ import annotations

from hearthline.core.engine.devices import linear
from hearthline.core.engine.devices.diode import DIODE
from hearthline.core.engine.devices.kind import DeviceKind
from hearthline.core.engine.devices.mos1 import MOS1

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
    "D": DIODE,
    "M": MOS1,
}
