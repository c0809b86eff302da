"""The junction diode with the Berkeley parameters that act on direct current."""

from __future__ import annotations

import numpy as np

from hearthline.core.engine.devices.kind import DeviceKind, Inside, Readout
from hearthline.core.engine.devices.silicon import critical_voltage, kelvin, thermal_voltage
from hearthline.core.engine.kernels import diode as kernel
from hearthline.core.engine.lanes import REFERENCE_TEMPERATURE


def _prepare_card(card, celsius):
    """IS(T) = IS·(T/Tnom)^(XTI/N)·exp((T/Tnom - 1)·EG/(N·vt)): Berkeley equations."""
    if (card["is"] <= 0).any() or (card["n"] <= 0).any():
        raise ValueError("IS and N must be above 0")
    ratio = kelvin(celsius) / kelvin(card["tnom"])
    nvt = card["n"] * thermal_voltage(celsius)
    growth = ratio ** (card["xti"] / card["n"]) * np.exp((ratio - 1.0) * card["eg"] / nvt)
    return {**card, "is": card["is"] * growth, "nvt": nvt}


def _prepare(instance, card, celsius):
    """BV is shifted so that the current at the given BV is IBV."""
    scale = instance["area"] * instance["m"]
    saturation, nvt = card["is"] * scale, card["nvt"]
    breakdown = np.zeros_like(nvt)
    if card["bv"] is not None:
        current = np.maximum(card["ibv"] * scale, 2 * saturation)
        breakdown = card["bv"] - nvt * np.log(current / saturation - 1.0)
    return [saturation, nvt, critical_voltage(nvt, saturation), breakdown]


def _series(instance, card):
    return None if card["rs"] is None else card["rs"] / (instance["area"] * instance["m"])


DIODE = DeviceKind(
    kernel.diode, 2, _prepare, kernel.VALUES,
    (Readout("id", "A"), Readout("vd", "V"), Readout("gd", "S")),
    {"area": 1.0, "m": 1.0},
    ("D",),
    {"is": 1e-14, "rs": None, "n": 1.0, "bv": None, "ibv": 1e-3, "eg": 1.11, "xti": 3.0, "tnom": REFERENCE_TEMPERATURE},
    frozenset({"tt", "cjo", "vj", "m", "fc", "kf", "af"}),
    memory=1,
    inside=(Inside(0, "a", _series),),
    must_be_positive=("area", "m"),
    prepare_card=_prepare_card,
)  # fmt: skip
