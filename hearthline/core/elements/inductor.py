"""The inductor."""

from __future__ import annotations

from hearthline.core.elements.deck_form import TwoNets
from hearthline.core.elements.device import BRANCH, CURRENT_READOUT, DeviceKind, as_given
from hearthline.core.elements.kind import ALONG, TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline, arc
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


def coil() -> Outline:
    """Four turns between two leads."""
    points = [(0.0, -2.0)]
    for k in range(4):
        points += arc(0, -1.2 + 0.8 * k, 0.4, -90, 90, 8)
    return Outline().line(*points, (0.0, 2.0))


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """v = d(L i)/dt, a short for direct current. values: inductance [H]."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 3 * k, span[CURRENT0] + 3 * k, span[CONDUCTANCE0] + 9 * k
        inductance = w[span[VALUE0] + k]
        i = w[nodes[n + 2]]
        if wants & CURRENT:
            for j in range(9):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2] = i, -i, w[nodes[n]] - w[nodes[n + 1]]
            w[s + 2], w[s + 5], w[s + 6], w[s + 7] = 1.0, -1.0, 1.0, -1.0
        if wants & CHARGE:
            q, c = span[CHARGE0] + 3 * k, span[CAPACITANCE0] + 9 * k
            for j in range(9):
                w[c + j] = 0.0
            w[q], w[q + 1], w[q + 2] = 0.0, 0.0, -inductance * i
            w[c + 8] = -inductance
        if wants & READOUT:
            w[span[READOUT0] + k] = i
    return 0


DEVICE = DeviceKind(
    _kernel, 2, as_given("l"), 1, (CURRENT_READOUT,), {"l": None}, unknowns=BRANCH, needed=("l",), charged=True
)


INDUCTOR = ElementKind(
    "L", "inductor", {"inductor": Symbol("L", TWO, (ValueField("l", "H", "inductance", first="1n"),), offered="inductor")},
    shown=("i",), conducts=ALONG, holds_voltage=True, currents="pn",
    outlines={"inductor": coil(), "spiral": coil().line((0.8, -1.6), (0.8, 1.6))},
    device=DEVICE, deck=TwoNets("L", "l", "l1 a b 2n", models=False),
)  # fmt: skip
