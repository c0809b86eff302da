"""The junction diode with the Berkeley parameters that act on direct current."""

from __future__ import annotations

import numpy as np

from hearthline.core.engine.devices.kind import DeviceKind, Inside, Readout
from hearthline.core.engine.devices.silicon import critical_voltage, kelvin, thermal_voltage
from hearthline.core.engine.kernels import diode as kernel
from hearthline.core.engine.lanes import REFERENCE_TEMPERATURE


def _prepare(instance, card, celsius):
    """IS(T) = IS·(T/Tnom)^(XTI/N)·exp((T/Tnom - 1)·EG/(N·vt)): Berkeley equations. BV is shifted so that the current
    at the given BV is IBV."""
    ratio = kelvin(celsius) / kelvin(card["tnom"])
    vt, n = thermal_voltage(celsius), card["n"]
    if np.any(card["is"] <= 0) or np.any(n <= 0):
        raise ValueError("IS and N of its model must be above 0")
    saturation = card["is"] * ratio ** (card["xti"] / n) * np.exp((ratio - 1.0) * card["eg"] / (n * vt))
    saturation = saturation * instance["area"] * instance["m"]
    nvt = n * vt
    breakdown = 0.0 * vt
    if card["bv"] is not None:
        current = np.maximum(card["ibv"] * instance["area"] * instance["m"], 2 * saturation)
        breakdown = card["bv"] - nvt * np.log(current / saturation - 1.0)
    return [saturation, nvt, critical_voltage(nvt, saturation), breakdown]


DIODE = DeviceKind(
    kernel.diode, 2, _prepare, kernel.VALUES,
    (Readout("id", "A"), Readout("vd", "V"), Readout("gd", "S")),
    {"area": 1.0, "m": 1.0},
    ("D",),
    {"is": 1e-14, "rs": 0.0, "n": 1.0, "bv": None, "ibv": 1e-3, "eg": 1.11, "xti": 3.0, "tnom": REFERENCE_TEMPERATURE},
    frozenset({"tt", "cjo", "vj", "m", "fc", "kf", "af"}),
    memory=1,
    inside=(Inside(0, "a", lambda instance, card: card["rs"] / (instance["area"] * instance["m"])),),
    must_be_positive=("area", "m"),
)  # fmt: skip
