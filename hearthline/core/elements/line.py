"""The ideal transmission line."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from hearthline.core.elements.deck_form import Texts, named
from hearthline.core.elements.deck_line import Line
from hearthline.core.elements.device import DeviceKind, Dispersion, Numbers, Readout
from hearthline.core.elements.kind import ElementKind, Symbol, ValueField
from hearthline.core.elements.lossy_line import sections
from hearthline.core.elements.outline import Outline
from hearthline.core.elements.part_line import INITIAL, PartLine, no_more, take_nodes
from hearthline.core.expression import Expression
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import (
    CONDUCTANCE0,
    CURRENT,
    CURRENT0,
    READOUT,
    READOUT0,
    TIME,
    VALUE0,
    Array,
    kernel,
)

FIELDS = (
    ValueField("z0", "Ω", "characteristic impedance", first="50"),
    ValueField("td", "s", "delay", first="1n"),
)
PORTS = (("p1", (-4, -2)), ("n1", (-4, 2)), ("p2", (4, -2)), ("n2", (4, 2)))


def _outline() -> Outline:
    shape = Outline().box(-2.6, -2.5, 2.6, -1.5).box(-2.6, 1.5, 2.6, 2.5)
    for y in (-2, 2):
        shape = shape.line((-4, y), (-2.6, y)).line((2.6, y), (4, y))
    return shape


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """What arrives at each port left the other one a delay ago (Branin 1967): v - Z0 i = e, e = v' + Z0 i' of the other.

    Terminals: p1, n1, p2, n2, and the currents into both ports. values: Z0 [Ohm], delay [s], and e of both ports [V],
    which the transient puts there; at direct current, and for small signals, e is that of this moment.
    """
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 6 * k, span[CURRENT0] + 6 * k, span[CONDUCTANCE0] + 36 * k
        value = span[VALUE0] + 4 * k
        z, i1, i2 = w[value], w[nodes[n + 4]], w[nodes[n + 5]]
        v1, v2 = w[nodes[n]] - w[nodes[n + 1]], w[nodes[n + 2]] - w[nodes[n + 3]]
        if wants & CURRENT:
            for j in range(36):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2], w[f + 3] = i1, -i1, i2, -i2
            w[s + 4], w[s + 10], w[s + 17], w[s + 23] = 1.0, -1.0, 1.0, -1.0
            w[s + 24], w[s + 25], w[s + 28] = 1.0, -1.0, -z
            w[s + 32], w[s + 33], w[s + 35] = 1.0, -1.0, -z
            if w[TIME] > 0.0:
                w[f + 4], w[f + 5] = v1 - z * i1 - w[value + 2], v2 - z * i2 - w[value + 3]
            else:
                w[f + 4], w[f + 5] = v1 - z * i1 - (v2 + z * i2), v2 - z * i2 - (v1 + z * i1)
                w[s + 26], w[s + 27], w[s + 29] = -1.0, 1.0, -z
                w[s + 30], w[s + 31], w[s + 34] = -1.0, 1.0, -z
        if wants & READOUT:
            r = span[READOUT0] + 2 * k
            w[r], w[r + 1] = i1, i2
    return 0


def _line(instance: Numbers, card: Numbers, celsius: np.ndarray) -> list[np.ndarray]:
    for name, unit in (("z0", "Ω"), ("td", "s")):
        if (instance[name] <= 0).any():
            raise ValueError(f"{name} must be above 0, and is {instance[name].min():g} {unit}")
    return [instance["z0"], instance["td"], 0.0 * instance["td"], 0.0 * instance["td"]]


_LATE = ((26, -1.0, False), (27, 1.0, False), (29, -1.0, True), (30, -1.0, False), (31, 1.0, False), (34, -1.0, True))
"""Conductances that act a delay later: which entry, by which factor, and whether the impedance multiplies it too."""


def _late(values: np.ndarray, omega: np.ndarray) -> Dispersion:
    impedance, delay = values[:2]
    factors = np.array([factor * (impedance if scaled else 1.0) for _, factor, scaled in _LATE])
    turn = np.exp(-1j * omega * delay)[:, None]
    return Dispersion(
        np.array([entry for entry, _, _ in _LATE]), factors * (turn - 1.0), factors * (-1j * delay) * turn
    )


LOSSY = {"r", "l", "g", "c", "len"}
"""What a line with losses is given by: for a length each, and the length."""


class LineForm:
    """A DeckForm: two ports; impedance with the delay or a frequency and the length in wavelengths, or what it has for a
    length."""

    def read(self, line: Line) -> PartLine:
        """As DeckForm has it."""
        alone, values = line.split()
        form = "t1 a 0 b 0 z0=50 td=1n"
        values = {("z0" if key == "zo" else key): value for key, value in values.items() if key != INITIAL}
        nodes = take_nodes(line, alone, 4, form)
        no_more(line, alone[4:], form)
        if "len" in values:
            if not {"l", "c"} <= set(values) <= LOSSY:
                raise line.error(
                    f"{line.head} needs l, c and len, and may have r and g; write it as `t1 a 0 b 0 l=250n c=100p len=0.1`"
                )
            return PartLine(line, "T", nodes, "", values, pieces=tuple(sections(line, nodes, values)), drawable=False)
        if "td" not in values and "f" in values:
            length = values.get("nl", Expression.constant(0.25))
            values["td"] = Expression.parse(f"({length.text})/({values['f'].text})", deck=True)
        values = {key: value for key, value in values.items() if key not in ("f", "nl")}
        if set(values) != {"z0", "td"}:
            raise line.error(
                f"{line.head} needs its impedance z0 and its delay td (or f, and nl); write it as `{form}`"
            )
        return PartLine(line, "T", nodes, "", values)

    def write(self, given: Texts, units: Texts, names: Texts) -> Iterator[str]:
        """As DeckForm has it."""
        return named(given, units)


DEVICE = DeviceKind(
    _kernel, 4, _line, 4, (Readout("i1", "A"), Readout("i2", "A")), {"z0": None, "td": None}, unknowns=(".1", ".2"),
    needed=("z0", "td"),
    dispersion=_late, delayed=True,
)  # fmt: skip


LINE = ElementKind(
    "T", "transmission line", {"transmission line": Symbol("T", PORTS, FIELDS, offered="ideal line with delay")},
    conducts=((0, 2), (1, 3)),
    outlines={"transmission line": _outline()},
    device=DEVICE, deck=LineForm(),
)  # fmt: skip
