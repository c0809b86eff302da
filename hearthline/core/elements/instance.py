"""A block, or a Verilog-A module, and the devices of kits that are drawn in a form of their own."""

from __future__ import annotations

from collections.abc import Iterator

from hearthline.core.elements.capacitor import plates
from hearthline.core.elements.deck_form import Texts, named
from hearthline.core.elements.deck_line import Line
from hearthline.core.elements.kind import PARALLEL, TWO, ElementKind, Symbol, ValueField
from hearthline.core.elements.nets import node
from hearthline.core.elements.outline import Outline
from hearthline.core.elements.part_line import PartLine
from hearthline.core.elements.resistor import box

STRIP = (ValueField("w", "m", "width", first="2u"), ValueField("l", "m", "length", first="10u"), PARALLEL)
SPIRAL = (
    ValueField("d", "m", "outer diameter", "200u"),
    ValueField("w", "m", "width of the track", "8u"),
    ValueField("s", "m", "gap between turns", "2u"),
    ValueField("turns", "", "number of turns", "3.5"),
)
PAD = (ValueField("a", "m", "side of the square", "60u"),)
WIRE = (ValueField("len", "m", "length", "1m"), ValueField("d", "m", "diameter", "25u"))


def _pad() -> Outline:
    return (
        Outline()
        .box(-0.8, 0.6, 0.8, 2.2)
        .line((0, 0), (0, 0.6))
        .line((-0.8, 0.6), (0.8, 2.2))
        .line((-0.8, 2.2), (0.8, 0.6))
    )


def _wire() -> Outline:
    """A bow between two feet."""
    bow = [(0.9 * (1 - (y / 1.2) ** 2), y) for y in (-1.2, -0.9, -0.6, -0.3, 0, 0.3, 0.6, 0.9, 1.2)]
    shape = Outline().line((0, -2), *bow, (0, 2))
    return shape.line((-0.35, -1.2), (0.35, -1.2), heavy=True).line((-0.35, 1.2), (0.35, 1.2), heavy=True)


def _varactor() -> Outline:
    return plates().line((-1.1, 0.9), (0.85, -0.85)).arrow(1.1, -1.07, 0.7526, -0.6585, 0.5)


def _memory() -> Outline:
    """A resistor with a meander in it: it remembers."""
    meander = (
        (0, -1.3),
        (0, -0.9),
        (0.3, -0.9),
        (0.3, -0.3),
        (-0.3, -0.3),
        (-0.3, 0.3),
        (0.3, 0.3),
        (0.3, 0.9),
        (0, 0.9),
    )
    return box().line(*meander, (0, 1.3)).line((-0.5, 1.1), (0.5, 1.1), heavy=True)


def _tube() -> Outline:
    """A transistor whose channel is a tube."""
    shape = Outline().line((-2, 0), (-0.75, 0)).line((-0.75, -1.2), (-0.75, 1.2), heavy=True)
    shape = shape.box(-0.3, -1.4, 0.3, 1.4)
    return shape.line((0.3, -1.0), (2, -1.0), (2, -2)).line((0.3, 1.0), (2, 1.0), (2, 2))


class InstanceForm:
    """A DeckForm: nets, the name of a block or module, and values by name."""

    def read(self, line: Line) -> PartLine:
        """As DeckForm has it."""
        alone, values = line.split()
        alone = [token for token in alone if token not in ("params:", "params")]
        if len(alone) < 2:
            raise line.error(f"{line.head} needs nodes and the name of a block; write it as `x1 in out vdd inverter`")
        return PartLine(line, "X", tuple(node(token) for token in alone[:-1]), alone[-1], values)

    def write(self, given: Texts, units: Texts, names: Texts) -> Iterator[str]:
        """As DeckForm has it."""
        return named(given, units)


INSTANCE = ElementKind(
    "X", "block or Verilog-A module",
    {
        "strip resistor": Symbol("X", TWO, STRIP, True),
        "plate capacitor": Symbol("X", TWO, STRIP, True),
        "varactor": Symbol("X", TWO, STRIP, True),
        "spiral": Symbol("X", TWO, SPIRAL, True),
        "pad": Symbol("X", (("a", (0, 0)),), PAD, True),
        "bond wire": Symbol("X", TWO, WIRE, True),
    },
    shown=("id", "i", "gm", "v"),
    outlines={"varactor": _varactor(), "memory": _memory(), "tube": _tube(), "pad": _pad(), "bond wire": _wire()},
    deck=InstanceForm(),
)  # fmt: skip
