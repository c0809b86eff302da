"""Model cards in all lanes: which an element means, and what its parameters come to there."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from hearthline.core.circuit.netlist import Card, Element, Scope
from hearthline.core.elements import CARDS_OF, STANDARD
from hearthline.core.elements.device import DeviceKind, Numbers
from hearthline.core.engine.complaints import check_names, complain
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.parameters import Environment, as_array
from hearthline.core.errors import CircuitError, ExpressionError
from hearthline.core.expression import Expression
from hearthline.core.models.library import library_module, library_names
from hearthline.core.models.module import Module
from hearthline.core.process.models import ModelSet


@dataclass(frozen=True)
class CardRows:
    """A model card in all lanes, as rows of its module's parameters."""

    module: Module
    card: Card | None
    given: np.ndarray
    values: np.ndarray


class Cards:
    """Those of the models of all corners, each worked out once."""

    def __init__(self, models: ModelSet, lanes: Lanes):
        self.models, self.lanes = models, lanes
        self.environment = Environment(lanes.parameters, lanes.celsius, lanes.process)
        self.names = {name for corner in models.corners.values() for name in corner.cards}
        self._cards: dict[tuple[str, str], tuple[Card | None, Numbers]] = {}
        self._rows: dict[tuple[str, str], CardRows] = {}
        self._defaults: dict[float, np.ndarray] = {}

    def plain(self, value: float | None) -> Any:
        """An array of a plain number, one for all who have it."""
        if value is None:
            return None
        if value not in self._defaults:
            self._defaults[value] = as_array(value, len(self.lanes))
        return self._defaults[value]

    def rows_of(self, element: Element) -> CardRows:
        """What the card of an element that is a module gives its parameters. Raises CircuitError."""
        if element.module is not None:
            empty = (np.zeros((len(self.lanes), len(element.module.parameters))) for _ in range(2))
            return CardRows(element.module, None, *empty)
        key = (element.kind, element.model)
        if key not in self._rows:
            self._rows[key] = self._evaluate_rows(element)
        return self._rows[key]

    def _evaluate_rows(self, element: Element) -> CardRows:
        first, *_ = corners = tuple(dict.fromkeys(self.lanes.corners))
        found, _ = self.find(element, first)
        module = self.module_of(element, found, first)
        given, values = np.zeros((2, len(self.lanes), len(module.parameters)))
        for corner in corners:
            card, scope = self.find(element, corner)
            here = self.module_of(element, card, corner)
            if here is not module:
                raise card_error(card, f"is a {here.name} in corner {corner} and a {module.name} in others")
            lanes = np.array([name == corner for name in self.lanes.corners])
            for name, value in self._card_values(module, card, scope):
                values[lanes, module.index[name]] = value[lanes]
                given[lanes, module.index[name]] = 1.0
        return CardRows(module, found, given, values)

    def _card_values(self, module: Module, card: Card, scope: Scope) -> Iterator[tuple[str, np.ndarray]]:
        _, fixed = STANDARD.get(card.kind, ("", {}))
        for name, number in fixed.items():
            yield name, self.plain(number)
        for name, expression in card.values.items():
            if name == "level" and card.kind in STANDARD:
                continue
            if name not in module.index:
                known = ", ".join(parameter.name for parameter in module.parameters)
                raise card_error(card, f"there is no parameter '{name}'; there are {known}")
            yield name, self.number(card, name, expression, scope)

    def module_of(self, element: Element, card: Card, corner: str) -> Module:
        """The equations that a card is for. Raises CircuitError for a type that is not known, or not the element's."""
        standard = STANDARD.get(card.kind)
        if standard is not None:
            allowed = CARDS_OF.get(element.kind, ())
            if allowed and card.kind not in allowed:
                wanted = " or ".join(allowed)
                raise complain(element, f"model '{card.name}' is a {card.kind}; a {wanted} is wanted")
            return library_module(standard[0])
        modules = self.models.corner(corner).modules
        name = card.kind.lower()
        if name in modules:
            return modules[name]
        if name in library_names():
            return library_module(name)
        wanted = ", ".join([*STANDARD, *library_names(), *modules])
        raise card_error(card, f"is of type '{card.kind}', which is not known here; there are {wanted}")

    def numbers_of(self, element: Element, kind: DeviceKind) -> tuple[Card | None, Numbers]:
        """The card of an elementary part, and what its instances share. Raises CircuitError."""
        key = (element.kind, element.model)
        if key not in self._cards:
            if element.model and element.kind in CARDS_OF:
                self._cards[key] = self._evaluate_card(element, kind)
            else:
                self._cards[key] = None, {name: self.plain(value) for name, value in kind.card_defaults.items()}
        return self._cards[key]

    def _evaluate_card(self, element: Element, kind: DeviceKind) -> tuple[Card, Numbers]:
        numbers = {name: self.plain(value) for name, value in kind.card_defaults.items()}
        corners = dict.fromkeys(self.lanes.corners)
        found = {name: self.find(element, name) for name in corners}
        for corner_name, (card, scope) in found.items():
            here = np.array([name == corner_name for name in self.lanes.corners])
            for name, expression in card.values.items():
                before = numbers.get(name)
                if before is None and not here.all() and any(name not in other.values for other, _ in found.values()):
                    raise card_error(card, f"{name} is given in some corners and not in others; give it in all")
                value = self.number(card, name, expression, scope)
                numbers[name] = np.where(here, value, 0.0 if before is None else before)
        check_names(element, kind, card)
        try:
            return card, kind.prepare_card(numbers, self.lanes.celsius)
        except ValueError as error:
            raise card_error(card, str(error)) from None

    def find(self, element: Element, corner_name: str) -> tuple[Card, Scope]:
        """The card of an element's model in a corner; a module by its own name is a card without values."""
        corner = self.models.corner(corner_name)
        if element.model in corner.cards:
            return corner.cards[element.model], corner.scope_of(element.model)
        if element.kind == "X" and (element.model in corner.modules or element.model in library_names()):
            return Card(element.model, element.model, {}, element.place), corner.scope
        where = f" in corner {corner_name}" if corner_name else ""
        known = ", ".join(sorted(corner.cards)) or "none"
        raise complain(element, f"there is no model '{element.model}'{where}; there is {known}")

    def number(self, card: Card, name: str, expression: Expression, scope: Scope) -> np.ndarray:
        """A parameter of a card in all lanes. Raises CircuitError with its place."""
        try:
            return as_array(self.environment.value(expression, scope), len(self.lanes))
        except ExpressionError as error:
            raise card_error(card, f"{name}: {error}") from None


def card_error(card: Card, message: str) -> CircuitError:
    """Wrong in a model, with file and line."""
    return CircuitError(f"model {card.name}: {message}", file=card.place.file, line=card.place.line)
