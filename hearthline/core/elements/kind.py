"""What an element is: its letter, how it is drawn and written and what it takes, what a person sees of it, what its terminals
do, and its equations. Graphic conventions after IEC 60617 and IEEE 315 in our own proportions."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from hearthline.core.elements.deck_form import DeckForm
from hearthline.core.elements.device import DeviceKind
from hearthline.core.elements.outline import Outline

Point = tuple[int, int]


@dataclass(frozen=True)
class ValueField:
    """One value of a part: its name, its unit (SI), what it means, and its default as text ("" where it must be given,
    unless it is optional: then the device knows it itself). `first` is what a newly placed part has; `kind` says what is
    typed: a `number` (or an expression), a `wave`, or the names of `parts` of the same cell."""

    name: str
    unit: str
    meaning: str
    default: str = ""
    optional: bool = False
    first: str = ""
    kind: str = "number"


@dataclass(frozen=True)
class Symbol:
    """A primitive part: netlist kind, terminals in netlist order, and value fields. `offered` are the words with which it is
    offered for placing; forms for devices of kits have none."""

    kind: str
    terminals: tuple[tuple[str, Point], ...]
    fields: tuple[ValueField, ...]
    takes_model: bool = False
    offered: str = ""


@dataclass(frozen=True)
class ElementKind:
    """One kind of element, by its `letter` in a netlist.

    `device` has the equations of an elementary part; others are Verilog-A modules. `cards` are the types of model cards that
    it may name: the library's module behind each with what the type sets in it, or None where the elementary part itself
    takes the card. `deck` reads and writes its line; of a card's values a drawing keeps those `of_card` with the part.

    `symbols` are the forms that it is drawn in, by the names that a cell file gives them; a part of a deck becomes the one that
    is called as the element, where there is one. `outlines` are drawings by name, of its own forms and of modules that the
    trade draws so. `shown` stands beside it where a bench does not say otherwise.

    `conducts` are pairs of terminals between which a direct current flows; `holds_voltage` tells whether the first two cannot
    be at any other voltage; `by_voltage` kinds are current sources that the voltage of nets controls, and conduct where one
    of those is their own. `currents` names the terminals that a direct current flows into, "" where that depends on the
    device; `quiet` kinds carry none. `controls` is the field with the parts that it reads, and `couples` their letter where
    it joins them instead of reading their currents.
    """

    letter: str
    title: str
    symbols: Mapping[str, Symbol] = field(default_factory=dict)
    shown: tuple[str, ...] = ()
    conducts: tuple[tuple[int, int], ...] = ()
    holds_voltage: bool = False
    by_voltage: bool = False
    currents: str = ""
    quiet: bool = False
    outlines: Mapping[str, Outline] = field(default_factory=dict)
    device: DeviceKind | None = None
    cards: Mapping[str, tuple[str, Mapping[str, float]] | None] = field(default_factory=dict)
    deck: DeckForm | None = None
    of_card: tuple[str, ...] = ()
    controls: str = "control"
    couples: str = ""

    @property
    def by_branch(self) -> bool:
        """Whether its current is an unknown of the equations."""
        return self.device is not None and self.device.branch

    @property
    def name(self) -> str:
        """What it is found by."""
        return self.letter

    @property
    def main(self) -> str:
        """The value that is meant where none is named: the first of an elementary part."""
        first = [field for symbol in self.symbols.values() for field in symbol.fields[:1]]
        return first[0].name if self.device is not None and first and first[0].kind == "number" else ""


TWO = (("p", (0, -2)), ("n", (0, 2)))
FOUR = (("p", (2, -2)), ("n", (2, 2)), ("cp", (-2, -2)), ("cn", (-2, 2)))
ALONG = ((0, 1),)
"""A direct current from the first terminal to the second."""

PARALLEL = ValueField("m", "", "how many such devices stand in parallel", "1")
AREA = (ValueField("area", "", "area as a multiple of the model's", "1"), PARALLEL)
CONTROL = ValueField("control", "", "the voltage source whose current controls it", first="V1", kind="parts")
WAVE = ValueField("wave", "", "waveform: pulse(low high delay rise fall width period), sin(offset amplitude "
                  "frequency), exp(...), pwl(t1 v1 t2 v2 ...), sffm(...)", optional=True, kind="wave")  # fmt: skip
SMALL_SIGNAL = (
    ValueField("mag", "", "amplitude in an AC analysis", optional=True),
    ValueField("phase", "", "phase in an AC analysis, in degrees", optional=True),
)
