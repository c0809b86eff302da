"""The current source that a current controls."""

from __future__ import annotations

from hearthline.core.elements.deck_form import ByCurrent
from hearthline.core.elements.device import CURRENT_READOUT, DeviceKind, as_given
from hearthline.core.elements.kind import CONTROL, TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import controlled
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import CONDUCTANCE0, CURRENT, CURRENT0, READOUT, READOUT0, VALUE0, Array, kernel


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """i = F ic. Terminals: p, n, the controlling branch. values: F."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 3 * k, span[CURRENT0] + 3 * k, span[CONDUCTANCE0] + 9 * k
        gain = w[span[VALUE0] + k]
        i = gain * w[nodes[n + 2]]
        if wants & CURRENT:
            for j in range(9):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2] = i, -i, 0.0
            w[s + 2], w[s + 5] = gain, -gain
        if wants & READOUT:
            w[span[READOUT0] + k] = i
    return 0


DEVICE = DeviceKind(
    _kernel, 2, as_given("gain"), 1, (CURRENT_READOUT,), {"gain": None}, controlled_by_branch=True, needed=("gain",)
)


CCCS = ElementKind(
    "F", "current-controlled current",
    {"current-controlled current": Symbol("F", TWO, (ValueField("gain", "", "current gain", first="1"), CONTROL),
            offered="controlled source")},
    shown=("i",), currents="pn",
    outlines={"current-controlled current": controlled("current", 0)},
    device=DEVICE, deck=ByCurrent("F", "i"),
)  # fmt: skip
