"""The voltage source that a voltage controls."""

from __future__ import annotations

from hearthline.core.elements.deck_form import ByVoltage
from hearthline.core.elements.device import BRANCH, CURRENT_READOUT, DeviceKind, as_given
from hearthline.core.elements.kind import ALONG, FOUR, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import controlled, with_input
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import CONDUCTANCE0, CURRENT, CURRENT0, READOUT, READOUT0, VALUE0, Array, kernel


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """v = A vc. Terminals: p, n, cp, cn, branch. values: A."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 5 * k, span[CURRENT0] + 5 * k, span[CONDUCTANCE0] + 25 * k
        gain = w[span[VALUE0] + k]
        i = w[nodes[n + 4]]
        if wants & CURRENT:
            for j in range(25):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2], w[f + 3] = i, -i, 0.0, 0.0
            w[f + 4] = w[nodes[n]] - w[nodes[n + 1]] - gain * (w[nodes[n + 2]] - w[nodes[n + 3]])
            w[s + 4], w[s + 9] = 1.0, -1.0
            w[s + 20], w[s + 21], w[s + 22], w[s + 23] = 1.0, -1.0, -gain, gain
        if wants & READOUT:
            w[span[READOUT0] + k] = i
    return 0


DEVICE = DeviceKind(
    _kernel, 4, as_given("gain"), 1, (CURRENT_READOUT,), {"gain": None}, unknowns=BRANCH, needed=("gain",)
)


VCVS = ElementKind(
    "E", "voltage-controlled voltage",
    {"voltage-controlled voltage": Symbol("E", FOUR, (ValueField("gain", "V/V", "voltage gain", first="1"),),
            offered="controlled source")},
    shown=("i",), conducts=ALONG, holds_voltage=True, currents="pn",
    outlines={"voltage-controlled voltage": with_input(controlled("voltage", 2))},
    device=DEVICE, deck=ByVoltage("E", "gain", "v"),
)  # fmt: skip
