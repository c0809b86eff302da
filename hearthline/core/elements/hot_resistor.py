"""The resistor that heats itself: its temperature is that of the surroundings and what a net of it is warmer by."""

from __future__ import annotations

import numpy as np

from hearthline.core.constants import kelvin
from hearthline.core.elements import resistor
from hearthline.core.elements.device import DeviceKind, Numbers
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import CONDUCTANCE0, CURRENT, CURRENT0, VALUE0, Array, kernel

LEAST = 0.01
"""Of its resistance, that is left whatever the temperature, while a solution is looked for."""


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """i = g v / (1 + a x + b x²), with x how much warmer than the surroundings it is; its heat flows into the third net.
    values: conductance there [S], a [1/K], b [1/K²]."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 3 * k, span[CURRENT0] + 3 * k, span[CONDUCTANCE0] + 9 * k
        value = span[VALUE0] + 3 * k
        cold, a, b = w[value], w[value + 1], w[value + 2]
        if wants & CURRENT:
            v, x = w[nodes[n]] - w[nodes[n + 1]], w[nodes[n + 2]]
            more = 1.0 + a * x + b * x * x
            slope = a + 2.0 * b * x
            if more < 0.01:
                more, slope = 0.01, 0.0
            g = cold / more
            by_x = -g * v * slope / more
            w[f], w[f + 1], w[f + 2] = g * v, -g * v, -g * v * v
            w[s], w[s + 1], w[s + 2] = g, -g, by_x
            w[s + 3], w[s + 4], w[s + 5] = -g, g, -by_x
            w[s + 6], w[s + 7], w[s + 8] = -2.0 * g * v, 2.0 * g * v, -by_x * v
    return 0


def _resistor(instance: Numbers, card: Numbers, celsius: np.ndarray) -> list[np.ndarray]:
    (cold,) = resistor.DEVICE.prepare(instance, card, celsius)
    tc1, tc2 = (
        np.zeros(len(celsius)) if value is None else value
        for value in (instance[name] if instance[name] is not None else card[name] for name in ("tc1", "tc2"))
    )
    rise = kelvin(celsius) - kelvin(np.asarray(card["tnom"]))
    whole = 1.0 + tc1 * rise + tc2 * rise**2
    return [cold, (tc1 + 2.0 * tc2 * rise) / whole, tc2 / whole]


DEVICE = DeviceKind(
    _kernel, 3, _resistor, 3, (), resistor.DEVICE.defaults, resistor.DEVICE.card_defaults, must_be_positive=("m",),
)  # fmt: skip
