"""How parts are written in decks. A kind of element has a form: one of these, or one of its own beside it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Protocol

from hearthline.core.elements.behavioural import Behaviour, behaviour, polynomial
from hearthline.core.elements.deck_line import Line, unquoted
from hearthline.core.elements.deck_value import value_text
from hearthline.core.elements.part_line import INITIAL, PartLine, is_number, no_more, take_nodes

Texts = Mapping[str, str]


class DeckForm(Protocol):
    """Reads and writes the part lines of one kind of element."""

    def read(self, line: Line) -> PartLine:
        """A part line; raises DeckError saying what it should look like."""

    def write(self, given: Texts, units: Texts, names: Texts) -> Iterator[str]:
        """What stands behind the nets for a drawn part: its values as they are `given`, their units, and what parts of its
        cell are called in the deck, by their names in lower case."""


class _Plain:
    """Writes values by their order."""

    def write(self, given: Texts, units: Texts, names: Texts) -> Iterator[str]:
        """As DeckForm has it: the source that controls it, where there is one, and the values."""
        if "control" in given:
            yield names.get(given["control"].lower(), given["control"].lower())
        yield from (value_text(text, units[name]) for name, text in given.items() if name != "control")


@dataclass(frozen=True)
class TwoNets(_Plain):
    """Two nets and the value called `name`; with `models` a model may stand before or behind it."""

    kind: str
    name: str
    example: str
    models: bool = True

    def read(self, line: Line) -> PartLine:
        """As DeckForm has it."""
        alone, values = line.split()
        nodes, rest = take_nodes(line, alone, 2, self.example), alone[2:]
        initial = values.pop(INITIAL, None)
        model = ""
        if rest and is_number(rest[0]):
            values[self.name] = line.expression(rest.pop(0))
        if rest and self.models:
            model = rest.pop(0)
            if rest and is_number(rest[0]) and self.name not in values:
                values[self.name] = line.expression(rest.pop(0))
        no_more(line, rest, self.example)
        if self.name not in values and not model:
            raise line.error(
                f"{line.head} has two nodes and no value, or a node is missing; write it as `{self.example}`"
            )
        return PartLine(line, self.kind, nodes, model, values, initial=initial, drawable=not model)


@dataclass(frozen=True)
class ByVoltage(_Plain):
    """Two nets, two that control it, and the factor called `name`; `which` of v and i a polynomial sets."""

    kind: str
    name: str
    which: str

    def read(self, line: Line) -> PartLine:
        """As DeckForm has it."""
        form = f"{self.kind.lower()}1 out 0 inp inn 10"
        alone, values = line.split()
        if "poly" in alone[2:3]:
            return _polynomial(line, alone, 2, self.which)
        if alone[2:3] == ["value"] or "value" in values or "table" in alone:
            raise line.error(f"{line.head}: write an expression as a B part, as in `b1 out 0 {self.which}={{2*v(in)}}`")
        nodes = take_nodes(line, alone, 4, form)
        rest = alone[4:]
        if not rest:
            raise line.error(f"{line.head} has too few nodes or values; write it as `{form}`")
        values[self.name] = line.expression(rest.pop(0))
        no_more(line, rest, form)
        return PartLine(line, self.kind, nodes, "", values)


@dataclass(frozen=True)
class ByCurrent(_Plain):
    """Two nets, the source whose current controls it, and the gain."""

    kind: str
    which: str

    def read(self, line: Line) -> PartLine:
        """As DeckForm has it."""
        form = f"{self.kind.lower()}1 out 0 vsense 10"
        alone, values = line.split()
        if "poly" in alone[2:3]:
            return _polynomial(line, alone, 1, self.which)
        nodes = take_nodes(line, alone, 2, form)
        rest = alone[2:]
        if len(rest) < 2:
            raise line.error(f"{line.head} has too few nodes or values; write it as `{form}`")
        control = rest.pop(0)
        values["gain"] = line.expression(rest.pop(0))
        no_more(line, rest, form)
        return PartLine(line, self.kind, nodes, "", values, control)


@dataclass(frozen=True)
class WithModel:
    """A fixed `count` of nets and a model; with `area` a number may follow, with `initial` a voltage that it begins with."""

    kind: str
    count: int
    example: str
    area: bool = False
    initial: bool = False

    def read(self, line: Line) -> PartLine:
        """As DeckForm has it."""
        alone, values = line.split()
        rest = [token for token in alone if token != "off"]
        nodes = take_nodes(line, rest, self.count, self.example)
        rest = rest[self.count :]
        initial = values.pop(INITIAL, None) if self.initial else None
        no_initial(line, values)
        if not rest:
            raise line.error(f"{line.head} has too few nodes, or no model; write it as `{self.example}`")
        model = rest.pop(0)
        if self.area and rest:
            values["area"] = line.expression(rest.pop(0))
        no_more(line, rest, self.example)
        return PartLine(line, self.kind, nodes, model, values, initial=initial)

    def write(self, given: Texts, units: Texts, names: Texts) -> Iterator[str]:
        """As DeckForm has it."""
        return named(given, units)


def no_initial(line: Line, values: Mapping[str, object]) -> None:
    """Raises DeckError for a part that a transient cannot begin with a value of."""
    if INITIAL in values:
        raise line.error(f"{line.head}: ic is not available for this kind of part; write .ic v(net)=value")


def named(given: Texts, units: Texts) -> Iterator[str]:
    """Values as `name=value`."""
    yield from (f"{name}={value_text(text, units[name])}" for name, text in given.items())


def by_expression(line: Line, nodes: tuple[str, ...], found: Behaviour) -> PartLine:
    """The part line of a source that follows an expression."""
    return PartLine(
        line, "B", (*nodes, *found.nets), "", found.values, " ".join(found.controls), module=found.module, drawable=False
    )  # fmt: skip


def _polynomial(line: Line, alone: list[str], each: int, which: str) -> PartLine:
    """`poly(n)`, the inputs, and the coefficients; `each` input is two nets or one source."""
    form = f"{line.head} out 0 poly(1) {'in 0' if each == 2 else 'vsense'} 0 1 0.5"
    count = alone[3] if len(alone) > 3 else ""
    if not count.isdigit() or not int(count) or len(alone) < 5 + each * int(count):
        raise line.error(
            f"{line.head}: a polynomial has its number of inputs, them, and coefficients; write it as `{form}`"
        )
    words, coefficients = alone[4 : 4 + each * int(count)], alone[4 + each * int(count) :]
    if each == 2:
        inputs = [f"v({a},{b})" for a, b in zip(words[::2], words[1::2], strict=True)]
    else:
        inputs = [f"i({name})" for name in words]
    text = polynomial(line, inputs, [unquoted(token) for token in coefficients])
    return by_expression(line, take_nodes(line, alone, 2, form), behaviour(line, which, text))
