"""The voltage source that a current controls."""

from __future__ import annotations

from hearthline.core.elements.deck_form import ByCurrent
from hearthline.core.elements.device import BRANCH, CURRENT_READOUT, DeviceKind, as_given
from hearthline.core.elements.kind import ALONG, CONTROL, TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import controlled
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import CONDUCTANCE0, CURRENT, CURRENT0, READOUT, READOUT0, VALUE0, Array, kernel


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """v = H ic. Terminals: p, n, the controlling branch, own branch. values: H [Ohm]."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 4 * k, span[CURRENT0] + 4 * k, span[CONDUCTANCE0] + 16 * k
        gain = w[span[VALUE0] + k]
        i = w[nodes[n + 3]]
        if wants & CURRENT:
            for j in range(16):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2] = i, -i, 0.0
            w[f + 3] = w[nodes[n]] - w[nodes[n + 1]] - gain * w[nodes[n + 2]]
            w[s + 3], w[s + 7], w[s + 12], w[s + 13], w[s + 14] = 1.0, -1.0, 1.0, -1.0, -gain
        if wants & READOUT:
            w[span[READOUT0] + k] = i
    return 0


DEVICE = DeviceKind(
    _kernel, 2, as_given("gain"), 1, (CURRENT_READOUT,), {"gain": None}, unknowns=BRANCH, controlled_by_branch=True,
    needed=("gain",),
)  # fmt: skip


CCVS = ElementKind(
    "H", "current-controlled voltage",
    {"current-controlled voltage": Symbol("H", TWO, (ValueField("gain", "Ω", "transresistance", first="1k"), CONTROL),
            offered="controlled source")},
    shown=("i",), conducts=ALONG, holds_voltage=True, currents="pn",
    outlines={"current-controlled voltage": controlled("voltage", 0)},
    device=DEVICE, deck=ByCurrent("H", "v"),
)  # fmt: skip
