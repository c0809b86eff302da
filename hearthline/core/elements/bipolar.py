"""The bipolar transistor."""

from __future__ import annotations

from collections.abc import Iterator

from hearthline.core.elements.deck_form import Texts, named, no_initial
from hearthline.core.elements.deck_line import Line
from hearthline.core.elements.kind import AREA, ElementKind, Symbol
from hearthline.core.elements.nets import node
from hearthline.core.elements.outline import Outline
from hearthline.core.elements.part_line import PartLine, is_number


def _outline(n: bool) -> Outline:
    shape = Outline().line((-2, 0), (-0.2, 0)).line((-0.2, -1.2), (-0.2, 1.2), heavy=True)
    shape = shape.line((-0.2, -0.5), (2, -1.5), (2, -2)).line((-0.2, 0.5), (2, 1.5), (2, 2))
    dx, dy = 0.9104, 0.4138
    return shape.arrow(1.45, 1.25, dx, dy) if n else shape.arrow(0.35, 0.75, -dx, -dy)


class BipolarForm:
    """A DeckForm: three or four nets; the last word that is no number is the model."""

    def read(self, line: Line) -> PartLine:
        """As DeckForm has it."""
        alone, values = line.split()
        rest = [token for token in alone if token != "off"]
        no_initial(line, values)
        form = "q1 collector base emitter npnmodel"
        if len(rest) >= 5 and is_number(rest[-1]):
            values["area"] = line.expression(rest.pop())
        if len(rest) not in (4, 5):
            raise line.error(f"{line.head} has too few nodes or too many, or no model; write it as `{form}`")
        return PartLine(line, "Q", tuple(node(token) for token in rest[:-1]), rest[-1], values)

    def write(self, given: Texts, units: Texts, names: Texts) -> Iterator[str]:
        """As DeckForm has it."""
        return named(given, units)


BIPOLAR = ElementKind(
    "Q", "bipolar transistor",
    {
        "NPN": Symbol("Q", (("c", (2, -2)), ("b", (-2, 0)), ("e", (2, 2))), AREA, True),
        "PNP": Symbol("Q", (("c", (2, 2)), ("b", (-2, 0)), ("e", (2, -2))), AREA, True),
    },
    shown=("ic", "gm", "vbe", "vce"),
    currents="cbe",
    outlines={"NPN": _outline(True), "PNP": _outline(False)},
    cards={"NPN": ("bipolar", {"type": 1.0}), "PNP": ("bipolar", {"type": -1.0})}, deck=BipolarForm(),
)  # fmt: skip
