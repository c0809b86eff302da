"""The port: a source with an impedance, where small signals and powers go in and come out of a circuit."""

from __future__ import annotations

import re

import numpy as np

from hearthline.core.elements.device import BRANCH, VOLTAGE_READOUT, DeviceKind, Numbers, Readout, Thermal
from hearthline.core.elements.kind import ALONG, SMALL_SIGNAL, TWO, WAVE, ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline
from hearthline.core.elements.source_form import SourceForm
from hearthline.core.expression import Expression, parse_value
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

IMPEDANCE = "50"
"""[Ω] Where nothing is said."""
RESISTANCE_VALUE, REACTANCE_VALUE, NUMBER_VALUE, POWER_VALUE = 1, 2, 3, 4
"""Entries of the values of its kernel; powers [W] of two tones stand there for whoever sets up a large signal."""

_FIELDS = (
    ValueField("number", "", "number of the port, from 1", first="1"),
    ValueField("impedance", "Ω", "its impedance, the real part", IMPEDANCE),
    ValueField("reactance", "Ω", "imaginary part of its impedance, for scattering alone", "0"),
    ValueField("dc", "V", "direct voltage behind the impedance", "0"),
    ValueField("power", "dBm", "power that it can give, of a tone", optional=True),
    ValueField("power2", "dBm", "power that it can give, of a second tone", optional=True),
)


def _outline() -> Outline:
    shape = Outline().line((0, -2), (0, -1.4)).line((0, 1.4), (0, 2)).box(-0.9, -1.4, 0.9, 1.4)
    wave = [(0.55 * np.sin(np.pi * t), 0.75 * t) for t in np.linspace(-1.0, 1.0, 13)]
    return (
        shape.line(*((float(x), float(y)) for x, y in wave))
        .line((-0.55, -1.85), (-0.15, -1.85))
        .line((-0.35, -2.05), (-0.35, -1.65))
    )


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """v + R i = E, with i out of the first terminal. values: E [V], R, X [Ω], number, powers [W]. readout: voltage,
    power given."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 3 * k, span[CURRENT0] + 3 * k, span[CONDUCTANCE0] + 9 * k
        v, i, value = w[nodes[n]] - w[nodes[n + 1]], w[nodes[n + 2]], span[VALUE0] + 6 * k
        if wants & CURRENT:
            for j in range(9):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2] = -i, i, v + w[value + 1] * i - w[SCALE] * w[value]
            w[s + 2], w[s + 5], w[s + 6], w[s + 7], w[s + 8] = -1.0, 1.0, 1.0, -1.0, w[value + 1]
        if wants & READOUT:
            r = span[READOUT0] + 2 * k
            w[r], w[r + 1] = v, v * i
    return 0


def _port(instance: Numbers, card: Numbers, celsius: np.ndarray) -> list[np.ndarray]:
    number, resistance = instance["number"], instance["impedance"]
    if (number != number[0]).any() or number[0] < 1 or number[0] != int(number[0]):
        raise ValueError(f"its number is 1, 2, 3 and so on, and the same everywhere, not {number[0]:g}")
    if (resistance <= 0).any():
        raise ValueError(f"the real part of its impedance must be above 0 Ω, and is {resistance.min():g} Ω")
    powers = [_watts(instance[name], len(number)) for name in ("power", "power2")]
    return [instance["dc"], resistance, instance["reactance"], number, *powers]


def _watts(level: np.ndarray | None, lanes: int) -> np.ndarray:
    """Of a level [dBm]; nothing where none is said."""
    return np.zeros(lanes) if level is None else 1e-3 * 10.0 ** (0.1 * level)


DEVICE = DeviceKind(
    _kernel, 2, _port, 6, (VOLTAGE_READOUT, Readout("p", "W")),
    {"dc": 0.0, "mag": 0.0, "phase": 0.0, "number": None, "impedance": float(IMPEDANCE), "reactance": 0.0,
     "power": None, "power2": None},
    unknowns=BRANCH, needed=("number",), drives="V", thermal=Thermal(RESISTANCE_VALUE, (2,)),
)  # fmt: skip


PORT = ElementKind(
    "P", "port", {"port": Symbol("P", TWO, (*_FIELDS, WAVE, *SMALL_SIGNAL), offered="port: S-parameters, noise, power")},
    shown=("v",), conducts=ALONG,
    outlines={"port": _outline()},
    device=DEVICE, deck=SourceForm("P"),
)  # fmt: skip

_IMAGINARY = re.compile(
    r"(?:(.+?)\s*(?=[+−-]))?\s*([+−-]?)\s*(?:j\s*\*?\s*([\w.µ]+)|([\w.µ]*?)\s*\*?\s*j)\s*(?:Ω|Ohm)?"
)


def read_impedance(text: str) -> tuple[Expression, Expression]:
    """Real and imaginary part of what a field says: `50`, `40+10j`, `z0`. Raises ExpressionError or QuantityError."""
    match = _IMAGINARY.fullmatch(text.strip())
    if not match:
        return parse_value(text, "Ω"), Expression.constant(0.0)
    real, sign, size = match[1] or "0", match[2], match[3] or match[4] or "1"
    minus = "-" if sign in ("-", "−") else ""
    return parse_value(real, "Ω"), parse_value(f"{minus}{size}", "Ω")
