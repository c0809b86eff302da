"""The current source that a voltage controls."""

from __future__ import annotations

from hearthline.core.elements.deck_form import ByVoltage
from hearthline.core.elements.device import CURRENT_READOUT, DeviceKind, as_given
from hearthline.core.elements.kind import FOUR, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import controlled, with_input
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import CONDUCTANCE0, CURRENT, CURRENT0, READOUT, READOUT0, VALUE0, Array, kernel


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """i = gm vc. Terminals: p, n, cp, cn. values: gm [S]."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 4 * k, span[CURRENT0] + 4 * k, span[CONDUCTANCE0] + 16 * k
        gm = w[span[VALUE0] + k]
        i = gm * (w[nodes[n + 2]] - w[nodes[n + 3]])
        if wants & CURRENT:
            for j in range(16):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2], w[f + 3] = i, -i, 0.0, 0.0
            w[s + 2], w[s + 3], w[s + 6], w[s + 7] = gm, -gm, -gm, gm
        if wants & READOUT:
            w[span[READOUT0] + k] = i
    return 0


DEVICE = DeviceKind(_kernel, 4, as_given("gm"), 1, (CURRENT_READOUT,), {"gm": None}, needed=("gm",))


VCCS = ElementKind(
    "G", "voltage-controlled current",
    {"voltage-controlled current": Symbol("G", FOUR, (ValueField("gm", "S", "transconductance", first="1m"),),
            offered="controlled source")},
    shown=("i",), currents="pn",
    outlines={"voltage-controlled current": with_input(controlled("current", 2))},
    device=DEVICE, deck=ByVoltage("G", "gm", "i"), by_voltage=True,
)  # fmt: skip
