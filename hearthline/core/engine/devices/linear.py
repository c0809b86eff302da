"""Kinds of the linear parts: what their parameters come to at a temperature."""

from __future__ import annotations

import numpy as np

from hearthline.core.engine.devices.kind import DeviceKind, Readout
from hearthline.core.engine.kernels import linear
from hearthline.core.engine.lanes import REFERENCE_TEMPERATURE

_I, _V = Readout("i", "A"), Readout("v", "V")
_TEMPERED = {"tc1": None, "tc2": None, "tnom": REFERENCE_TEMPERATURE}


def _tempered(instance, card, celsius):
    rise = celsius - card["tnom"]
    tc1 = instance["tc1"] if instance["tc1"] is not None else card["tc1"]
    tc2 = instance["tc2"] if instance["tc2"] is not None else card["tc2"]
    return 1.0 + (0.0 if tc1 is None else tc1) * rise + (0.0 if tc2 is None else tc2) * rise**2


def _resistor(instance, card, celsius):
    ohms = instance["r"]
    if ohms is None and card["rsh"] is not None and instance["l"] is not None:
        width = (card["defw"] if instance["w"] is None else instance["w"]) - card["narrow"]
        if (width <= 0).any():
            raise ValueError("its width is not above the NARROW of its model")
        ohms = card["rsh"] * (instance["l"] - card["narrow"]) / width
    if ohms is None:
        raise ValueError("needs its resistance, or a model with rsh and a length l")
    if np.any(ohms == 0):
        raise ValueError("a resistance of 0 is not allowed; use a small one such as 1m, or join the nets")
    return [instance["m"] / (ohms * _tempered(instance, card, celsius))]


def _capacitor(instance, card, celsius):
    farads = instance["c"]
    if farads is None and card["cj"] is not None and instance["l"] is not None:
        width = card["defw"] if instance["w"] is None else instance["w"]
        side, end = width - card["narrow"], instance["l"] - card["narrow"]
        farads = card["cj"] * side * end + card["cjsw"] * 2 * (side + end)
    if farads is None:
        raise ValueError("needs its capacitance, or a model with cj and a length l")
    return [instance["m"] * farads * _tempered(instance, card, celsius)]


def _one(name):
    return lambda instance, card, celsius: [instance[name]]


RESISTOR = DeviceKind(
    linear.resistor, 2, _resistor, 1, (_I, _V),
    {"r": None, "w": None, "l": None, "m": 1.0, "tc1": None, "tc2": None},
    ("R",), {"rsh": None, "defw": 1e-5, "narrow": 0.0, **_TEMPERED}, must_be_positive=("m",), thermal=True,
)  # fmt: skip
CAPACITOR = DeviceKind(
    linear.capacitor, 2, _capacitor, 1, (_V,),
    {"c": None, "w": None, "l": None, "m": 1.0, "tc1": None, "tc2": None},
    ("C",), {"cj": None, "cjsw": 0.0, "defw": 1e-5, "narrow": 0.0, **_TEMPERED}, must_be_positive=("m",),
    charged=True,
)  # fmt: skip
INDUCTOR = DeviceKind(linear.inductor, 2, _one("l"), 1, (_I,), {"l": None}, branch=True, needed=("l",), charged=True)
VOLTAGE_SOURCE = DeviceKind(
    linear.voltage_source, 2, _one("dc"), 1, (_I, Readout("p", "W")), {"dc": 0.0, "mag": 0.0, "phase": 0.0}, branch=True,
    drives="V",
)  # fmt: skip
CURRENT_SOURCE = DeviceKind(
    linear.current_source, 2, _one("dc"), 1, (_V,), {"dc": 0.0, "mag": 0.0, "phase": 0.0}, drives="A"
)
VCVS = DeviceKind(
    linear.voltage_controlled_voltage, 4, _one("gain"), 1, (_I,), {"gain": None}, branch=True, needed=("gain",)
)
VCCS = DeviceKind(linear.voltage_controlled_current, 4, _one("gm"), 1, (_I,), {"gm": None}, needed=("gm",))
CCCS = DeviceKind(
    linear.current_controlled_current,
    2,
    _one("gain"),
    1,
    (_I,),
    {"gain": None},
    controlled_by_branch=True,
    needed=("gain",),
)
CCVS = DeviceKind(
    linear.current_controlled_voltage, 2, _one("gain"), 1, (_I,), {"gain": None}, branch=True, controlled_by_branch=True,
    needed=("gain",),
)  # fmt: skip


def _line(instance, card, celsius):
    for name, unit in (("z0", "Ω"), ("td", "s")):
        if (instance[name] <= 0).any():
            raise ValueError(f"{name} must be above 0, and is {instance[name].min():g} {unit}")
    return [instance["z0"], instance["td"], 0.0 * instance["td"], 0.0 * instance["td"]]


MUTUAL = DeviceKind(linear.mutual, 2, _one("k"), 1, (), {"k": None}, needed=("k",), charged=True)
LOSSLESS_LINE = DeviceKind(
    linear.lossless_line, 5, _line, 4, (Readout("i1", "A"), Readout("i2", "A")), {"z0": None, "td": None}, branch=True,
    needed=("z0", "td"),
    late=((26, -1.0, False), (27, 1.0, False), (29, -1.0, True), (30, -1.0, False), (31, 1.0, False), (34, -1.0, True)),
)  # fmt: skip
