"""The independent current source."""

from __future__ import annotations

from hearthline.core.elements.device import VOLTAGE_READOUT, DeviceKind, as_given
from hearthline.core.elements.kind import SMALL_SIGNAL, TWO, WAVE, ElementKind, Symbol, ValueField
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

_DC = ValueField("dc", "A", "current from the first terminal through the source", "0", first="1u")


def _outline() -> Outline:
    shape = Outline().line((0, -2), (0, -1.2)).line((0, 1.2), (0, 2)).circle(0, 0, 1.2)
    return shape.line((-1.2, 0), (1.2, 0)).arrow(0.0, 1.95, 0, 1)


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """i = J. values: J [A]. readout: voltage."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 2 * k, span[CURRENT0] + 2 * k, span[CONDUCTANCE0] + 4 * k
        if wants & CURRENT:
            i = w[SCALE] * w[span[VALUE0] + k]
            w[f], w[f + 1] = i, -i
            w[s], w[s + 1], w[s + 2], w[s + 3] = 0.0, 0.0, 0.0, 0.0
        if wants & READOUT:
            w[span[READOUT0] + k] = w[nodes[n]] - w[nodes[n + 1]]
    return 0


DEVICE = DeviceKind(
    _kernel, 2, as_given("dc"), 1, (VOLTAGE_READOUT,), {"dc": 0.0, "mag": 0.0, "phase": 0.0}, drives="A"
)


CURRENT_SOURCE = ElementKind(
    "I", "current source", {"current source": Symbol("I", TWO, (_DC, WAVE, *SMALL_SIGNAL),
            offered="source: DC, AC, pulse, sine, PWL")},
    shown=("v",), currents="pn",
    outlines={"current source": _outline()},
    device=DEVICE, deck=SourceForm("I"),
)  # fmt: skip
