"""The resistor."""

from __future__ import annotations

import numpy as np

from hearthline.core.elements.deck_form import TwoNets
from hearthline.core.elements.device import (
    CURRENT_READOUT,
    TEMPERED,
    VOLTAGE_READOUT,
    DeviceKind,
    Numbers,
    Thermal,
    tempered,
)
from hearthline.core.elements.kind import ALONG, TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline, leads
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import CONDUCTANCE0, CURRENT, CURRENT0, READOUT, READOUT0, VALUE0, Array, kernel


def box() -> Outline:
    """A box between two leads."""
    return leads().box(-0.5, -1.3, 0.5, 1.3)


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """i = g v. values: conductance [S]. readout: current, voltage, resistance."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 2 * k, span[CURRENT0] + 2 * k, span[CONDUCTANCE0] + 4 * k
        g = w[span[VALUE0] + k]
        v = w[nodes[n]] - w[nodes[n + 1]]
        if wants & CURRENT:
            w[f], w[f + 1] = g * v, -g * v
            w[s], w[s + 1], w[s + 2], w[s + 3] = g, -g, -g, g
        if wants & READOUT:
            r = span[READOUT0] + 2 * k
            w[r], w[r + 1] = g * v, v
    return 0


def _resistor(instance: Numbers, card: Numbers, celsius: np.ndarray) -> list[np.ndarray]:
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
    return [instance["m"] / (ohms * tempered(instance, card, celsius))]


DEVICE = DeviceKind(
    _kernel, 2, _resistor, 1, (CURRENT_READOUT, VOLTAGE_READOUT),
    {"r": None, "w": None, "l": None, "m": 1.0, "tc1": None, "tc2": None},
    {"rsh": None, "defw": 1e-5, "narrow": 0.0, **TEMPERED}, must_be_positive=("m",), thermal=Thermal(0, (0, 1)),
)  # fmt: skip


RESISTOR = ElementKind(
    "R", "resistor", {"resistor": Symbol("R", TWO, (ValueField("r", "Ω", "resistance", first="1k"),), offered="resistor")},
    shown=("i", "v"), conducts=ALONG, currents="pn",
    outlines={"resistor": box(), "strip resistor": box()},
    device=DEVICE, cards={"R": None}, deck=TwoNets("R", "r", "r1 a b 10k"),
)  # fmt: skip
