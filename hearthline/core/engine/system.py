"""Lowering: a flat netlist, the models of the process and the lanes become the arrays that compiled code runs on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from hearthline.core.circuit.checks import check
from hearthline.core.circuit.netlist import GROUND, Card, Element, Netlist, Scope
from hearthline.core.engine.devices import KINDS
from hearthline.core.engine.devices.kind import DeviceKind, Numbers, check_names, complain
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.newton import READOUT_PLACE, VALUE_PLACE, Circuit
from hearthline.core.engine.parameters import Environment, as_array
from hearthline.core.models.signature import SETTINGS, add_kernel, no_kernels
from hearthline.core.errors import CircuitError, ExpressionError
from hearthline.core.process.models import ModelSet

SMALLEST_RESISTANCE = 1e-9
"""Stands in for an inner resistance [Ohm] that is 0 in some lanes and not in others."""


@dataclass(frozen=True)
class Variable:
    """One operating-point variable of one element."""

    element: str
    name: str
    unit: str

    @property
    def label(self) -> str:
        """As in files and formulas: `m1.gm`."""
        return f"{self.element}.{self.name}"


@dataclass(frozen=True)
class Unknown:
    """One unknown: the voltage of a net (`V`, net) or the current of a branch (`I`, element)."""

    kind: str
    name: str

    @property
    def label(self) -> str:
        """As in files and formulas: `V(out)`, `I(vdd)`."""
        return f"{self.kind}({self.name})"


@dataclass(frozen=True)
class System:
    """A circuit ready to be solved in `values.shape[0]` lanes.

    `unknowns[k]` stands at index k + 1 of a solution vector, and `nodes` are such indices; `variables[k]` at index k of
    the readout array; `source_slots` says where in `values` the direct value of each independent source is.
    """

    netlist: Netlist
    lanes: Lanes
    unknowns: tuple[Unknown, ...]
    variables: tuple[Variable, ...]
    kernels: tuple
    spans: np.ndarray
    nodes: np.ndarray
    slots: np.ndarray
    values: np.ndarray
    guesses: np.ndarray
    places: np.ndarray
    net_count: int
    source_slots: Mapping[str, int]

    def new_circuit(self) -> Circuit:
        """What compiled code takes; one for each worker, because counting references to shared arrays costs time."""
        kernels = no_kernels()
        for kernel in self.kernels:
            add_kernel(kernels, kernel.compiled)
        copies = (array.copy() for array in (self.spans, self.nodes + np.int32(SETTINGS), self.nodes, self.slots))
        return Circuit(kernels, *copies, self.net_count, self.places.copy())

    @property
    def nets(self) -> tuple[str, ...]:
        """Names of the nets, in the order of the unknowns."""
        return tuple(unknown.name for unknown in self.unknowns[: self.net_count])


@dataclass(frozen=True)
class _Item:
    """An element with its numbers: kernel values [lane, value]."""

    name: str
    kind: DeviceKind
    nets: tuple[str, ...]
    values: list[np.ndarray]
    control: str = ""


def lower(netlist: Netlist, models: ModelSet, lanes: Lanes) -> System:
    """The system of `netlist` in all `lanes`.

    Raises CircuitError, naming part and place, for a circuit that cannot be solved, an unknown model or parameter, or
    a value out of its range.
    """
    check(netlist)
    items = _Items(netlist, models, lanes).all()
    return _Layout(netlist, lanes, items).system()


class _Items:
    """Evaluates the elements of one netlist."""

    def __init__(self, netlist: Netlist, models: ModelSet, lanes: Lanes):
        self.netlist, self.models, self.lanes = netlist, models, lanes
        self.environment = Environment(lanes.parameters, lanes.celsius)
        self.cards: dict[tuple[str, str], tuple[Card | None, Numbers]] = {}
        self.defaults: dict[float, np.ndarray] = {}

    def all(self) -> list[_Item]:
        return [item for element in self.netlist.elements for item in self._items(element)]

    def _items(self, element: Element):
        kind = KINDS[element.kind]
        card, card_numbers = self._card(element, kind)
        check_names(element, kind, card)
        numbers = {name: self._number(element, name, default) for name, default in kind.defaults.items()}
        self._check_numbers(element, kind, numbers)
        nets = list(element.nets)
        for inside in kind.inside:
            ohms = inside.resistance(numbers, card_numbers)
            if ohms is None:
                continue
            if (ohms < 0).any():
                raise complain(element, "a series resistance of its model is below 0")
            if (ohms > 0).any():
                inner = f"{element.name}.{inside.suffix}"
                conductance = 1.0 / np.maximum(ohms, SMALLEST_RESISTANCE)
                yield _Item(inner, KINDS["R"], (nets[inside.terminal], inner), [conductance])
                nets[inside.terminal] = inner
        try:
            values = kind.prepare(numbers, card_numbers, self.lanes.celsius)
        except ValueError as error:
            raise complain(element, str(error)) from None
        yield _Item(element.name, kind, tuple(nets), values, element.control)

    def _check_numbers(self, element: Element, kind: DeviceKind, numbers: Numbers) -> None:
        for name in kind.needed:
            if numbers[name] is None:
                raise complain(element, f"its {name} is missing")
        for name in kind.must_be_positive:
            if (numbers[name] <= 0).any():
                raise complain(element, f"{name} must be above 0, and is {numbers[name].min():g}")

    def _number(self, element: Element, name: str, default: float | None):
        if element.name in self.lanes.sources and name == "dc":
            return as_array(self.lanes.sources[element.name], len(self.lanes))
        expression = element.values.get(name)
        if expression is None:
            return self._plain(default)
        try:
            value = self.environment.value(expression, element.scope)
        except ExpressionError as error:
            raise complain(element, f"{name}: {error}") from None
        return self._plain(value) if isinstance(value, float) else as_array(value, len(self.lanes))

    def _plain(self, value: float | None) -> np.ndarray | None:
        """An array of a plain number, one for all who have it."""
        if value is None:
            return None
        if value not in self.defaults:
            self.defaults[value] = as_array(value, len(self.lanes))
        return self.defaults[value]

    def _card(self, element: Element, kind: DeviceKind) -> tuple[Card | None, Numbers]:
        key = (element.kind, element.model)
        if key not in self.cards:
            if element.model and kind.card_kinds:
                self.cards[key] = self._evaluate_card(element, kind)
            else:
                self.cards[key] = None, {name: self._plain(value) for name, value in kind.card_defaults.items()}
        return self.cards[key]

    def _evaluate_card(self, element: Element, kind: DeviceKind) -> tuple[Card, Numbers]:
        numbers = {name: self._plain(value) for name, value in kind.card_defaults.items()}
        corners = dict.fromkeys(self.lanes.corners)
        found = {name: self._find_card(element, kind, name) for name in corners}
        for corner_name, (card, scope) in found.items():
            here = np.array([name == corner_name for name in self.lanes.corners])
            for name, expression in card.values.items():
                before = numbers.get(name)
                if before is None and not here.all() and any(name not in other.values for other, _ in found.values()):
                    raise self._card_error(card, f"{name} is given in some corners and not in others; give it in all")
                value = self._card_number(card, name, expression, scope)
                numbers[name] = np.where(here, value, 0.0 if before is None else before)
        numbers["polarity"] = self._plain(-1.0 if card.kind.startswith("P") else 1.0)
        check_names(element, kind, card)
        try:
            return card, kind.prepare_card(numbers, self.lanes.celsius)
        except ValueError as error:
            raise self._card_error(card, str(error)) from None

    def _card_error(self, card: Card, message: str) -> CircuitError:
        return CircuitError(f"model {card.name}: {message}", file=card.place.file, line=card.place.line)

    def _find_card(self, element: Element, kind: DeviceKind, corner_name: str) -> tuple[Card, Scope]:
        corner = self.models.corner(corner_name)
        if element.model not in corner.cards:
            where = f" in corner {corner_name}" if corner_name else ""
            known = ", ".join(sorted(corner.cards)) or "none"
            raise complain(element, f"there is no model '{element.model}'{where}; there is {known}")
        card = corner.cards[element.model]
        if card.kind not in kind.card_kinds:
            raise complain(element, f"model '{card.name}' is a {card.kind}; a {' or '.join(kind.card_kinds)} is wanted")
        return card, corner.scope

    def _card_number(self, card: Card, name: str, expression, scope: Scope) -> np.ndarray:
        try:
            return as_array(self.environment.value(expression, scope), len(self.lanes))
        except ExpressionError as error:
            raise self._card_error(card, f"{name}: {error}") from None


class _Layout:
    """Gives every terminal, value and slot its place in the flat arrays."""

    def __init__(self, netlist: Netlist, lanes: Lanes, items: list[_Item]):
        self.netlist, self.lanes = netlist, lanes
        order = {id(kind): position for position, kind in enumerate(KINDS.values())}
        self.items = sorted(items, key=lambda item: order[id(item.kind)])
        nets = dict.fromkeys(netlist.nets) | dict.fromkeys(net for item in items for net in item.nets)
        nets.pop(GROUND, None)
        branches = [item.name for item in items if item.kind.branch]
        self.unknowns = tuple([Unknown("V", net) for net in nets] + [Unknown("I", name) for name in branches])
        self.net_count = len(nets)
        self.index = {net: k + 1 for k, net in enumerate(nets)} | {GROUND: 0}
        self.branch = {name: len(nets) + 1 + k for k, name in enumerate(branches)}

    def system(self) -> System:
        nodes = [self._terminals(item) for item in self.items]
        size = len(self.unknowns) + 1
        slots = [(np.repeat(n, len(n)) * size + np.tile(n, len(n))) for n in nodes]
        return System(
            self.netlist, self.lanes, self.unknowns,
            tuple(Variable(i.name, r.name, r.unit) for i in self.items for r in i.kind.readouts),
            tuple(kind.kernel for kind, _ in self._groups()),
            self._spans(),
            np.concatenate(nodes).astype(np.int32),
            np.concatenate(slots).astype(np.int64),
            self._values(),
            self._guesses(size),
            self._places(),
            self.net_count,
            self._source_slots(),
        )  # fmt: skip

    def _groups(self) -> list[tuple[DeviceKind, list[_Item]]]:
        groups: dict[int, tuple[DeviceKind, list[_Item]]] = {}
        for item in self.items:
            groups.setdefault(id(item.kind), (item.kind, []))[1].append(item)
        return list(groups.values())

    def _terminals(self, item: _Item) -> np.ndarray:
        terminals = [self.index[net] for net in item.nets]
        if item.control:
            if item.control not in self.branch:
                element = next(e for e in self.netlist.elements if e.name == item.name)
                raise complain(element, f"there is no voltage source '{item.control}' whose current could control it")
            terminals.append(self.branch[item.control])
        if item.kind.branch:
            terminals.append(self.branch[item.name])
        return np.array(terminals)

    def _places(self) -> np.ndarray:
        """Where each stretch of the work array begins, and its end; see `signature`."""
        kinds = [item.kind for item in self.items]
        terminals, slopes = sum(kind.width for kind in kinds), sum(kind.width**2 for kind in kinds)
        lengths = [
            SETTINGS, len(self.unknowns) + 1, sum(kind.values for kind in kinds), sum(kind.memory for kind in kinds),
            terminals, slopes, terminals, slopes, sum(len(kind.readouts) for kind in kinds),
        ]  # fmt: skip
        return np.concatenate([[0], np.cumsum(lengths)]).astype(np.int64)

    def _spans(self) -> np.ndarray:
        """How many instances of each model, and where its stretches begin: in `nodes`, then in the work array."""
        spans, start = [], np.concatenate([[0], self._places()[VALUE_PLACE : READOUT_PLACE + 1]])
        for kind, items in self._groups():
            spans.append([len(items), *start])
            square = kind.width**2
            steps = [kind.width, kind.values, kind.memory, kind.width, square, kind.width, square, len(kind.readouts)]
            start = start + len(items) * np.array(steps)
        return np.array(spans, np.int64)

    def _values(self) -> np.ndarray:
        columns = [value for item in self.items for value in item.values]
        return np.ascontiguousarray(np.array(columns).T)

    def _guesses(self, size: int) -> np.ndarray:
        guesses = np.zeros((len(self.lanes), size))
        environment = Environment(self.lanes.parameters, self.lanes.celsius)
        for net, expression in self.netlist.guesses.items():
            if net in self.index:
                try:
                    guesses[:, self.index[net]] = environment.value(expression, self.netlist.root)
                except ExpressionError as error:
                    raise CircuitError(f"starting voltage of net {net}: {error}", net=net) from None
        return guesses

    def _source_slots(self) -> dict[str, int]:
        slots, position = {}, 0
        for item in self.items:
            if item.kind in (KINDS["V"], KINDS["I"]):
                slots[item.name] = position
            position += item.kind.values
        return slots
