"""The circuit of a deck, in whatever corner and with whatever parameters, for a bench over it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from hearthline.core.circuit.netlist import Element, Netlist, Scope
from hearthline.core.constants import REFERENCE_TEMPERATURE
from hearthline.core.elements.deck_line import Line
from hearthline.core.engine.parameters import Environment
from hearthline.core.engine.solve import Tolerances
from hearthline.core.errors import BenchError, DeckError, ExpressionError
from hearthline.core.expression import Expression
from hearthline.core.formats.deck.flatten import flatten
from hearthline.core.formats.deck.options import STEP_ERROR, steps_of, temperature_of, tolerances_of
from hearthline.core.formats.deck.options import with_nominal_temperature as nominal
from hearthline.core.formats.deck.reader import Deck, read
from hearthline.core.process.kit import ProcessKit
from hearthline.core.process.models import Corner, ModelSet


@dataclass(frozen=True)
class Flat:
    """A deck in one corner: its circuit and its models."""

    deck: Deck
    netlist: Netlist
    models: Corner

    @cached_property
    def said(self) -> str:
        """Its parts, and what the parameters are that they depend on."""
        return "\n".join(_said(self.netlist))


class DeckCircuit:
    """A deck, read anew for each corner that is asked for; `more` are parameters that a bench gives it, `names` all that a
    bench knows: a deck has them in small letters.

    Raises DeckError at the line to be mended, when it is made and whenever another corner is asked for.
    """

    def __init__(
        self, path: Path, shown: str, more: Mapping[str, Expression] | None = None, first: Deck | None = None,
        names: Iterable[str] = (),
    ):  # fmt: skip
        self.path, self.shown, self.more = path, shown, dict(more or {})
        self.spelt = tuple(dict.fromkeys([*self.more, *names]))
        self._flat: dict[str, Flat] = {}
        deck = first or read(path, shown)
        self.names = tuple(deck.top.parameters)
        """Of its own parameters."""
        self.first = self._flattened(deck)

    def _flattened(self, deck: Deck) -> Flat:
        parameters = deck.top.parameters
        for name in self.spelt:
            value = self.more.get(name, parameters.get(name.lower()))
            if value is not None:
                parameters[name] = value
                if name.lower() != name:
                    parameters[name.lower()] = Expression.parse(name)
        netlist, models = flatten(deck)
        for net, line in deck.voltage_lines.items():
            if net not in netlist.nets:
                raise line.error(f"there is no net '{net}'; nets are {', '.join(netlist.nets[:12])}")
        return Flat(deck, netlist, nominal(deck, models.corner("")))

    def flat(self, corner: str) -> Flat:
        """The deck in a corner, `""` as it is written."""
        if not corner or not self.first.deck.sections:
            return self.first
        if corner not in self._flat:
            self._flat[corner] = self._flattened(read(self.path, self.shown, corner))
        return self._flat[corner]

    def check_corners(self, corners: tuple[str, ...]) -> None:
        """Raises BenchError for one that its files do not have, or where several would be the same."""
        if not self.first.deck.sections:
            if len(set(corners)) > 1:
                message = f"{', '.join(corners)} would all be the same: the deck has no line .lib FILE SECTION; name one corner"
                raise BenchError(message, "grid", "corners")
            return
        for corner in corners:
            try:
                self.flat(corner)
            except DeckError as error:
                if f"there is no section '{corner.lower()}'" in error.message:
                    raise BenchError(f"corner '{corner}': {error.message}", "grid", "corners") from None
                raise

    def circuit(self, corner: str) -> Netlist:
        """Its circuit in a corner."""
        return self.flat(corner).netlist

    def cut(self, corner: str, block: str, node: str) -> Netlist:
        """Its circuit with a node of a block cut off; see `flatten`."""
        return flatten(self.flat(corner).deck, (block, node))[0]

    def kit(self, corners: tuple[str, ...], name: str = "") -> ProcessKit:
        """Its models in these corners, as a process."""
        return ProcessKit(name or self.shown, "", {}, ModelSet({one: self.flat(one).models for one in corners}))

    def one_for_all(self, corners: tuple[str, ...]) -> bool:
        """Whether the circuit is the same in all of these: its parts, and every parameter that they come from."""
        return len({self.flat(corner).said for corner in corners}) < 2

    # -- what it says beside its parts

    @property
    def files(self) -> Mapping[str, str]:
        """The texts that it was read from, of all corners so far."""
        return {name: text for flat in (self.first, *self._flat.values()) for name, text in flat.deck.files.items()}

    def number(self, line: Line, expression: Expression) -> float:
        """A number in one of its cards. Raises DeckError."""
        environment = Environment({}, REFERENCE_TEMPERATURE)
        try:
            return float(environment.value(expression, self.first.netlist.root))
        except ExpressionError as error:
            raise line.error(str(error)) from None

    @cached_property
    def parameters(self) -> Mapping[str, float]:
        """Its own at the top, as numbers; those that follow from the temperature are left out."""
        root, found = self.first.netlist.root, {}
        environment = Environment({}, REFERENCE_TEMPERATURE)
        for name, expression in root.defined.items():
            try:
                found[name] = float(environment.value(expression, root))
            except ExpressionError:
                continue
        return found

    @cached_property
    def tolerances(self) -> Tolerances:
        """As its options say."""
        return tolerances_of(self.first.deck, self.number)

    @cached_property
    def steps(self) -> Mapping[str, object]:
        """What its options say of transients."""
        return {"error": STEP_ERROR, **steps_of(self.first.deck, self.number)}

    @property
    def heat(self) -> None:
        """A deck has no die."""

    @cached_property
    def temperature(self) -> float:
        """As it says [degC]."""
        return temperature_of(self.first.deck, self.number)

    def checked(self) -> None:
        """Raises DeckError for what is wrong in its options."""
        _ = self.tolerances, self.steps


def _said(netlist: Netlist) -> Iterator[str]:
    root = netlist.root
    names: list[str] = []
    for one in netlist.elements:
        texts = [(key, value.text) for key, value in one.values.items() if value is not None]
        wave = [number.text for number in one.wave.numbers] if one.wave else ()
        initial = one.initial.text if one.initial is not None else ""
        text = one.module.source if one.module is not None else ""
        yield f"{one.name} {one.kind} {one.nets} {one.model} {one.control} {texts} {wave} {initial} {text}"
        names += [name for value in _expressions(one) for name in value.names]
    for name, value in _inside_blocks(netlist):
        yield f"{name}={value.text}"
        names += value.names
    seen: set[str] = set()
    while names:
        name = names.pop()
        if name not in seen and name in root.defined:
            seen.add(name)
            yield f"{name}={root.defined[name].text}"
            names += root.defined[name].names


def _inside_blocks(netlist: Netlist) -> Iterator[tuple[str, Expression]]:
    """The parameters of every block, given and defined."""
    scopes: dict[int, Scope] = {}
    for one in netlist.elements:
        scope: Scope | None = one.scope
        while scope is not None and scope is not netlist.root and id(scope) not in scopes:
            scopes[id(scope)] = scope
            scope = scope.parent
    for scope in scopes.values():
        for table in (scope.given, scope.defined):
            yield from ((name, value) for name, value in table.items() if value is not None)


def _expressions(one: Element) -> Iterator[Expression]:
    yield from (value for value in one.values.values() if value is not None)
    yield from one.wave.numbers if one.wave else ()
    if one.initial is not None:
        yield one.initial
