"""The capacitor."""

from __future__ import annotations

import numpy as np

from hearthline.core.elements.deck_form import TwoNets
from hearthline.core.elements.device import TEMPERED, VOLTAGE_READOUT, DeviceKind, Numbers, tempered
from hearthline.core.elements.kind import TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import (
    CAPACITANCE0,
    CHARGE,
    CHARGE0,
    CONDUCTANCE0,
    CURRENT,
    CURRENT0,
    READOUT,
    READOUT0,
    VALUE0,
    Array,
    kernel,
)


def plates() -> Outline:
    """Two plates between two leads."""
    shape = Outline().line((0, -2), (0, -0.25)).line((0, 0.25), (0, 2))
    return shape.line((-1, -0.25), (1, -0.25), heavy=True).line((-1, 0.25), (1, 0.25), heavy=True)


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """q = C v, open for direct current. values: capacitance [F]."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 2 * k, span[CURRENT0] + 2 * k, span[CONDUCTANCE0] + 4 * k
        farads = w[span[VALUE0] + k]
        if wants & CURRENT:
            w[f], w[f + 1] = 0.0, 0.0
            w[s], w[s + 1], w[s + 2], w[s + 3] = 0.0, 0.0, 0.0, 0.0
        if wants & CHARGE:
            q, c = span[CHARGE0] + 2 * k, span[CAPACITANCE0] + 4 * k
            v = w[nodes[n]] - w[nodes[n + 1]]
            w[q], w[q + 1] = farads * v, -farads * v
            w[c], w[c + 1], w[c + 2], w[c + 3] = farads, -farads, -farads, farads
        if wants & READOUT:
            w[span[READOUT0] + k] = w[nodes[n]] - w[nodes[n + 1]]
    return 0


def _capacitor(instance: Numbers, card: Numbers, celsius: np.ndarray) -> list[np.ndarray]:
    farads = instance["c"]
    if farads is None and card["cj"] is not None and instance["l"] is not None:
        width = card["defw"] if instance["w"] is None else instance["w"]
        side, end = width - card["narrow"], instance["l"] - card["narrow"]
        farads = card["cj"] * side * end + card["cjsw"] * 2 * (side + end)
    if farads is None:
        raise ValueError("needs its capacitance, or a model with cj and a length l")
    return [instance["m"] * farads * tempered(instance, card, celsius)]


DEVICE = DeviceKind(
    _kernel, 2, _capacitor, 1, (VOLTAGE_READOUT,),
    {"c": None, "w": None, "l": None, "m": 1.0, "tc1": None, "tc2": None},
    {"cj": None, "cjsw": 0.0, "defw": 1e-5, "narrow": 0.0, **TEMPERED}, must_be_positive=("m",), charged=True,
)  # fmt: skip


CAPACITOR = ElementKind(
    "C", "capacitor", {"capacitor": Symbol("C", TWO, (ValueField("c", "F", "capacitance", first="1p"),), offered="capacitor")},
    shown=("v",), quiet=True,
    outlines={"capacitor": plates(), "plate capacitor": plates()},
    device=DEVICE, cards={"C": None}, deck=TwoNets("C", "c", "c1 a b 100f"),
)  # fmt: skip
