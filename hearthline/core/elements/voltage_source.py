"""The independent voltage source."""

from __future__ import annotations

from hearthline.core.elements.device import BRANCH, CURRENT_READOUT, DeviceKind, Readout, as_given
from hearthline.core.elements.kind import ALONG, SMALL_SIGNAL, TWO, WAVE, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline
from hearthline.core.elements.source_form import SourceForm
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import (
    CONDUCTANCE0,
    CURRENT,
    CURRENT0,
    READOUT,
    READOUT0,
    SCALE,
    VALUE0,
    Array,
    kernel,
)

_DC = ValueField("dc", "V", "voltage from the first terminal to the second", "0", first="1")


def _outline() -> Outline:
    shape = Outline().line((0, -2), (0, -1.2)).line((0, 1.2), (0, 2)).circle(0, 0, 1.2)
    return shape.line((0, -1.2), (0, 1.2)).line((0.6, -1.75), (1.1, -1.75)).line((0.85, -2.0), (0.85, -1.5))


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """v = E. values: E [V]. readout: current, power delivered."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 3 * k, span[CURRENT0] + 3 * k, span[CONDUCTANCE0] + 9 * k
        v, i = w[nodes[n]] - w[nodes[n + 1]], w[nodes[n + 2]]
        if wants & CURRENT:
            for j in range(9):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2] = i, -i, v - w[SCALE] * w[span[VALUE0] + k]
            w[s + 2], w[s + 5], w[s + 6], w[s + 7] = 1.0, -1.0, 1.0, -1.0
        if wants & READOUT:
            r = span[READOUT0] + 2 * k
            w[r], w[r + 1] = i, -v * i
    return 0


DEVICE = DeviceKind(
    _kernel, 2, as_given("dc"), 1, (CURRENT_READOUT, Readout("p", "W")), {"dc": 0.0, "mag": 0.0, "phase": 0.0}, unknowns=BRANCH,
    drives="V",
)  # fmt: skip


VOLTAGE_SOURCE = ElementKind(
    "V", "voltage source", {"voltage source": Symbol("V", TWO, (_DC, WAVE, *SMALL_SIGNAL),
            offered="source: DC, AC, pulse, sine, PWL")},
    shown=("i",), conducts=ALONG, holds_voltage=True, currents="pn",
    outlines={"voltage source": _outline()},
    device=DEVICE, deck=SourceForm("V"),
)  # fmt: skip
