"""The coupling of inductors."""

from __future__ import annotations

from collections.abc import Iterator

from hearthline.core.elements.deck_form import Texts
from hearthline.core.elements.deck_line import Line
from hearthline.core.elements.deck_value import value_text
from hearthline.core.elements.device import DeviceKind, as_given
from hearthline.core.elements.kind import ElementKind, Symbol, ValueField
from hearthline.core.elements.outline import Outline, arc
from hearthline.core.elements.part_line import PartLine
from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import (
    CAPACITANCE0,
    CHARGE,
    CHARGE0,
    CONDUCTANCE0,
    CURRENT,
    CURRENT0,
    VALUE0,
    Array,
    kernel,
)

FIELDS = (
    ValueField("coils", "", "inductors that are coupled, with blanks between", first="L1 L2", kind="parts"),
    ValueField("k", "", "coupling, from -1 to 1", first="0.9"),
)


def _outline() -> Outline:
    return (
        Outline()
        .line(*arc(0, 0, 1.2, 200, 340))
        .arrow(-1.13, -0.41, -0.34, 0.94, 0.5)
        .arrow(1.13, -0.41, 0.34, 0.94, 0.5)
    )


@kernel
def _kernel(wants: int, span: Array, nodes: Array, w: Array) -> int:
    """Flux of each of two inductors by the current of the other. Terminals: their branches. values: M [H]."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 2 * k, span[CURRENT0] + 2 * k, span[CONDUCTANCE0] + 4 * k
        inductance = w[span[VALUE0] + k]
        if wants & CURRENT:
            w[f], w[f + 1] = 0.0, 0.0
            w[s], w[s + 1], w[s + 2], w[s + 3] = 0.0, 0.0, 0.0, 0.0
        if wants & CHARGE:
            q, c = span[CHARGE0] + 2 * k, span[CAPACITANCE0] + 4 * k
            w[q], w[q + 1] = -inductance * w[nodes[n + 1]], -inductance * w[nodes[n]]
            w[c], w[c + 1], w[c + 2], w[c + 3] = 0.0, -inductance, -inductance, 0.0
    return 0


class CouplingForm:
    """A DeckForm: two inductors or more, and how closely each is coupled to each other."""

    def read(self, line: Line) -> PartLine:
        """As DeckForm has it."""
        alone, _ = line.split()
        if len(alone) < 3:
            raise line.error(f"{line.head} has too few inductors, or no coefficient; write it as `k1 l1 l2 0.9`")
        return PartLine(line, "K", (), "", {"k": line.expression(alone[-1])}, " ".join(alone[:-1]))

    def write(self, given: Texts, units: Texts, names: Texts) -> Iterator[str]:
        """As DeckForm has it."""
        yield from (names.get(name.lower(), name.lower()) for name in given["coils"].replace(",", " ").split())
        yield value_text(given["k"], "")


DEVICE = DeviceKind(_kernel, 2, as_given("k"), 1, (), {"k": None}, needed=("k",), charged=True)

COUPLING = ElementKind(
    "K", "coupling", {"coupling": Symbol("K", (), FIELDS, offered="coupling of inductors")},
    quiet=True, outlines={"coupling": _outline()},
    device=DEVICE, deck=CouplingForm(), couples="L", controls="coils",
)  # fmt: skip
