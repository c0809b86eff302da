"""Evaluates the elements of a netlist in all lanes: what their parameters come to, and the nets of their terminals."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from functools import cache
from itertools import combinations

import numpy as np

from hearthline.core.circuit.checks import plain_paths, reacts_on_itself
from hearthline.core.circuit.netlist import Element, Netlist
from hearthline.core.constants import kelvin
from hearthline.core.elements import CARDS_OF, DEVICES, ELEMENTS
from hearthline.core.elements.device import DeviceKind, Numbers
from hearthline.core.engine.alike import alike
from hearthline.core.engine.cards import CardRows, Cards, card_error
from hearthline.core.engine.complaints import check_names, complain
from hearthline.core.engine.instance import DeviceInstance
from hearthline.core.engine.lanes import Lanes, is_in
from hearthline.core.engine.module import (
    ModuleKind,
    OutOfRangeError,
    Prepared,
    RefusedError,
    SetUp,
    all_collapsed,
    kind_of,
    prepare,
    set_up,
)
from hearthline.core.engine.on_die import HEAT, OnDie
from hearthline.core.engine.parameters import Environment, as_array
from hearthline.core.engine.recall import Recall, key_of
from hearthline.core.engine.transient.waves import MUST_NOT_BE_NEGATIVE, NAMES, PWL, WaveInLanes
from hearthline.core.errors import ExpressionError
from hearthline.core.expression import Expression
from hearthline.core.models.library import library_module
from hearthline.core.models.module import Module
from hearthline.core.models.veriloga.compiler import hot_variant
from hearthline.core.process.models import ModelSet

MULTIPLICITY = "m"
"""Of an instance: how many stand in parallel."""


MANY = 200
"""Elements from which on plain ones are looked for that can be worked out in one go."""
BRANCH = "@"
"""Begins the name of a terminal that is no net but the current of a part."""


class DeviceInstances:
    """Evaluates the elements of one netlist."""

    def __init__(
        self, netlist: Netlist, models: ModelSet, lanes: Lanes, recall: Recall | None = None, on_die: OnDie | None = None,
        common: dict[str, tuple[DeviceInstance, ...]] | None = None,
    ):  # fmt: skip
        self.netlist, self.models, self.lanes, self.on_die, self.common = netlist, models, lanes, on_die, common
        self.recall = recall or Recall()
        self.recall.begin(models, lanes)
        self.environment = Environment(lanes.parameters, lanes.celsius, {}, self._of_process, lanes.shares)
        self.cards = Cards(models, lanes)
        self.deviating: dict[str, list[str]] = {}
        for name, parameter in lanes.mismatch:
            self.deviating.setdefault(name, []).append(parameter)
        self._process: dict[tuple[str, str], np.ndarray] = {}
        self.kelvin = kelvin(lanes.celsius)
        self.set_ups: dict[tuple, SetUp] = {}
        self._hot: dict[str, DeviceInstances] = {}
        self.couplings: dict[frozenset[str], tuple[Element, np.ndarray]] = {}

    def all(self) -> list[DeviceInstance]:
        """Every element, in the order of the netlist, and the die behind them. Raises CircuitError with part and place."""
        elements = self.netlist.elements
        plain = len(elements) >= MANY and not self.deviating and not self.lanes.hot and self.on_die is None
        many = alike(self.netlist, self.lanes, self.cards.numbers_of) if plain else {}
        found = [item for one in elements for item in (many.get(id(one)) or self._recalled(one))]
        self._check_couplings()
        return found if self.on_die is None else [*found, self.on_die.element(self.lanes)]

    def _recalled(self, element: Element) -> tuple[DeviceInstance, ...]:
        """The items of an element, from before where nothing about it has changed."""
        if self.common is not None and self._is_cold(element):
            if element.name not in self.common:
                self.common[element.name] = tuple(self.of(element))
            return self.common[element.name]
        plain = not (self.lanes.mismatch or self.lanes.shares or self.lanes.hot or self.on_die)
        key = key_of(element) if plain else None
        if key is None:
            return tuple(self.of(element))
        found = self.recall.items.get(key)
        if found is None:
            found = self.recall.items[key] = tuple(self.of(element))
        return found

    def _is_cold(self, element: Element) -> bool:
        """Whether nothing makes it warmer than its surroundings."""
        return self._heat_of(element) is None and not any(is_in(element.name, part) for part in self.lanes.hot)

    # coupled inductors
    def _couplings(self, element: Element) -> Iterator[DeviceInstance]:
        """One mutual inductance for each pair of the inductors that are named."""
        kind, couples = DEVICES[element.kind], ELEMENTS[element.kind].couples
        factor = self._number(element, "k", None)
        if (np.abs(factor) > 1).any():
            raise complain(element, f"a coupling lies between -1 and 1, and is {factor[np.argmax(np.abs(factor))]:g}")
        names = element.control.split()
        coils = {e.name: e for e in self.netlist.elements if e.kind == couples}
        for name in names:
            if name not in coils:
                raise complain(
                    element, f"there is no inductor '{name}' to couple; there is {', '.join(coils) or 'none'}"
                )
            if names.count(name) > 1:
                raise complain(element, f"inductor '{name}' is named twice")
        for number, (a, b) in enumerate(combinations(names, 2)):
            pair = frozenset((a, b))
            if pair in self.couplings:
                raise complain(element, f"{a} and {b} are coupled already, by {self.couplings[pair][0].name}")
            self.couplings[pair] = element, factor
            size = np.sqrt(np.abs(self._number(coils[a], "l", None) * self._number(coils[b], "l", None)))
            name = element.name if number == 0 else f"{element.name}@{number}"
            yield DeviceInstance(name, kind, (), (factor * size)[:, None], f"{a} {b}")

    def _check_couplings(self) -> None:
        """Raises CircuitError for couplings that no inductors can have: together they would give back more than they take."""
        coils = list(dict.fromkeys(name for pair in self.couplings for name in sorted(pair)))
        if len(coils) < 3:
            return
        matrix = np.broadcast_to(np.eye(len(coils)), (len(self.lanes), len(coils), len(coils))).copy()
        for pair, (_, factor) in self.couplings.items():
            a, b = (coils.index(name) for name in pair)
            matrix[:, a, b] = matrix[:, b, a] = factor
        if np.linalg.eigvalsh(matrix).min() < -1e-9:
            element = next(reversed(self.couplings.values()))[0]
            raise complain(
                element, f"{', '.join(coils)} cannot be coupled like that together; some couplings are too close"
            )

    def paths(self, element: Element) -> tuple[tuple[int, int], ...]:
        """Pairs of nets of an element between which a direct current flows."""
        if reacts_on_itself(element):
            return ((0, 1),)
        key = (element.kind, element.model, len(element.nets), id(element.module), id(element.device))
        found = self.recall.paths.get(key)
        if found is None:
            module = self._module_of(element)
            if module is not None:
                self._check_nodes(element, module, len(element.nets) + len(element.control.split()))
            found = plain_paths(element) if module is None else _joined_ports(kind_of(module), len(element.nets))
            self.recall.paths[key] = found
        return found

    def _module_of(self, element: Element) -> Module | None:
        """The module behind an element, None for an elementary part."""
        if element.device is not None:
            return None
        if element.module is not None:
            return element.module
        if element.kind in DEVICES:
            if not element.model or element.kind not in CARDS_OF:
                return None
            card, _ = self.cards.find(element, self.lanes.corners[0])
            return (
                None
                if card.kind in CARDS_OF[element.kind]
                else self.cards.module_of(element, card, self.lanes.corners[0])
            )
        return self.cards.rows_of(element).module

    def of(self, element: Element) -> Iterator[DeviceInstance]:
        """One element; coupled inductors are an item for each pair. Raises CircuitError."""
        hot = next((part for part in self.lanes.hot if is_in(element.name, part)), None)
        if hot is not None:
            yield from self._at(hot).of(element)
        elif element.kind in ELEMENTS and ELEMENTS[element.kind].couples:
            yield from self._couplings(element)
        elif self._module_of(element) is None:
            yield self._elementary(element, element.device or DEVICES[element.kind])
        else:
            yield self._module_item(element)

    def _at(self, part: str) -> DeviceInstances:
        """The same where everything has the temperature of a hot part."""
        if part not in self._hot:
            lanes = replace(self.lanes, celsius=self.lanes.hot[part], hot={})
            self._hot[part] = DeviceInstances(self.netlist, self.models, lanes)
        return self._hot[part]

    # modules
    def _module_item(self, element: Element) -> DeviceInstance:
        rows, heat = self.cards.rows_of(element), self._heat_of(element)
        if heat is not None:
            rows = replace(rows, module=hot_variant(rows.module))
        module, given, values = rows.module, rows.given.copy(), rows.values.copy()
        parallel = np.ones(len(self.lanes))
        allowed = module.instance_names if element.model in self.cards.names else tuple(module.index)
        nets = (*element.nets, *(BRANCH + name for name in element.control.split()))
        self._check_nodes(element, module, len(nets))
        for name, expression in element.values.items():
            if expression is None:
                continue
            value = as_array(self._expression(element, name, expression), len(self.lanes))
            if name == MULTIPLICITY and name not in allowed:
                if (value <= 0).any():
                    raise complain(element, f"m must be above 0, and is {value.min():g}")
                parallel = value
                continue
            if name not in allowed:
                raise complain(
                    element, f"there is no parameter '{name}'; there are {', '.join([MULTIPLICITY, *allowed])}"
                )
            values[:, module.index[name]], given[:, module.index[name]] = value, 1.0
        for name in self.deviating.get(element.name, ()):
            if name not in module.index:
                raise complain(element, f"{module.name} has no parameter '{name}' that could deviate")
            k = module.index[name]
            usual = self._usual(element, module, name) if (given[:, k] == 0).any() else 0.0
            values[:, k] = np.where(given[:, k] != 0, values[:, k], usual) + self.lanes.mismatch[element.name, name]
            given[:, k] = 1.0
        module, prepared = self._prepare(element, nets, rows, given, values, parallel)
        own = tuple(f"{element.name}.{t.name}" for t in module.terminals if t.kind in ("current", "state"))
        if element.kind == "B" and own:
            own = (element.name, *own[1:])
        return DeviceInstance(
            element.name, kind_of(module), _with_heat(element, prepared.nets, heat), prepared.values, "", own,
            prepared.messages, initial=self._initial(element),
        )  # fmt: skip

    def _heat_of(self, element: Element) -> str | None:
        """The net of its heat, where it stands on a die."""
        return None if self.on_die is None else self.on_die.net_of(element.name)

    @staticmethod
    def _usual(element: Element, module: Module, name: str) -> float:
        """What a parameter that is not given is. Raises CircuitError where other parameters say that."""
        try:
            return float(next(one.default for one in module.parameters if one.name.lower() == name.lower()))
        except ValueError:
            raise complain(
                element, f"{name} follows from other parameters and cannot deviate; give it a value in the model"
            ) from None

    @staticmethod
    def _check_nodes(element: Element, module: Module, count: int) -> None:
        if not 0 < count <= module.ports:
            names = " ".join(module.port_names)
            raise complain(element, f"has {len(element.nets)} nodes; {module.name} has {names}")

    def _prepare(self, element: Element, nets, rows: CardRows, given, values, parallel) -> tuple[Module, Prepared]:
        """The module as this instance needs it, and the instance."""
        module = rows.module
        try:
            done = self._set_up(element.name, module, len(nets), given, values, parallel)
            if all_collapsed(module, done):
                module = module.collapsed
                done = self._set_up(element.name, module, len(nets), given, values, parallel)
            return module, prepare(module, element.name, nets, done, element.name not in self.deviating)
        except OutOfRangeError as error:
            on_instance = error.parameter.lower() in element.values or error.parameter in element.values
            if rows.card is None or on_instance or error.parameter.lower() not in rows.card.values:
                raise complain(element, str(error)) from None
            raise card_error(rows.card, str(error)) from None
        except RefusedError as error:
            raise complain(element, str(error)) from None

    def _set_up(self, name: str, module: Module, ports: int, given, values, parallel) -> SetUp:
        """What the setup gives; once for all instances that are alike, as none is that deviates by itself."""
        if name in self.deviating:
            return set_up(module, ports, given, values, self.kelvin, parallel)
        key = (id(module), ports, given.tobytes(), values.tobytes(), parallel.tobytes())
        if key not in self.set_ups:
            self.set_ups[key] = set_up(module, ports, given, values, self.kelvin, parallel)
        return self.set_ups[key]

    # elementary parts
    def _elementary(self, element: Element, kind: DeviceKind) -> DeviceInstance:
        heat = self._heat_of(element)
        if heat is not None and kind is DEVICES["R"]:
            return self._hot_resistor(element, kind, heat)
        numbers, card_numbers = self._told(element, kind)
        values = _prepared(element, kind, numbers, card_numbers, self.lanes.celsius)
        own = tuple(element.name + suffix for suffix in kind.unknowns)
        table = np.column_stack(values)
        wave, initial = self._wave(element), self._initial(element)
        phasor = None
        if "mag" in numbers:
            phasor = numbers["mag"] * np.exp(1j * np.radians(numbers["phase"]))
        return DeviceInstance(
            element.name, kind, element.nets, table, element.control, own, kind.messages, wave, initial, phasor
        )

    def _told(self, element: Element, kind: DeviceKind) -> tuple[Numbers, Numbers]:
        """What an elementary part says of itself, and its card of all."""
        card, card_numbers = self.cards.numbers_of(element, kind)
        check_names(element, kind, card)
        numbers = {name: self._number(element, name, default) for name, default in kind.defaults.items()}
        self._check_numbers(element, kind, numbers)
        return numbers, card_numbers

    def _hot_resistor(self, element: Element, kind: DeviceKind, heat: str) -> DeviceInstance:
        """One that heats itself is the library's, with the same numbers."""
        numbers, card_numbers = self._told(element, kind)
        tnom = card_numbers["tnom"] * np.ones(len(self.lanes))
        (conductance,) = _prepared(element, kind, numbers, card_numbers, tnom)
        module = hot_variant(library_module("resistor"))
        given, values = np.zeros((2, len(self.lanes), len(module.parameters)))
        told = {"r": 1.0 / conductance, "tnom": tnom}
        told |= {name: card_numbers[name] if numbers[name] is None else numbers[name] for name in ("tc1", "tc2")}
        for name, value in told.items():
            if value is not None:
                values[:, module.index[name]], given[:, module.index[name]] = value, 1.0
        found, prepared = self._prepare(
            element, element.nets, CardRows(module, None, given, values), given, values, np.ones(len(self.lanes))
        )
        own = tuple(f"{element.name}.{t.name}" for t in found.terminals if t.kind in ("current", "state"))
        return DeviceInstance(
            element.name, kind_of(found), _with_heat(element, prepared.nets, heat), prepared.values, "", own
        )

    def _initial(self, element: Element) -> np.ndarray | None:
        if element.initial is None:
            return None
        return as_array(self._expression(element, "ic", element.initial), len(self.lanes))

    def _wave(self, element: Element) -> WaveInLanes | None:
        """Its waveform. Raises CircuitError for one that cannot be."""
        if element.wave is None:
            return None
        numbers = [
            as_array(self._expression(element, element.wave.kind, n), len(self.lanes)) for n in element.wave.numbers
        ]
        kind = NAMES.index(element.wave.kind)
        if kind == PWL:
            times = np.array(numbers[::2])
            if len(numbers) % 2 or (np.diff(times, axis=0) <= 0).any():
                raise complain(element, "pwl needs pairs of time and value, each time after the one before")
        for name, k in MUST_NOT_BE_NEGATIVE[kind].items():
            if k < len(numbers) and (numbers[k] < 0).any():
                raise complain(
                    element, f"the {name} of its {NAMES[kind]} must not be below 0, and is {numbers[k].min():g}"
                )
        return WaveInLanes(kind, np.column_stack(numbers))

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
            return self.cards.plain(default)
        value = self._expression(element, name, expression)
        return self.cards.plain(value) if isinstance(value, float) else as_array(value, len(self.lanes))

    def _expression(self, element: Element, name: str, expression):
        try:
            value = self.environment.value(expression, element.scope)
        except ExpressionError as error:
            raise complain(element, f"{name}: {error}") from None
        share = self.lanes.shares.get((element.name, name))
        return value if share is None else value * (1.0 + share)

    def _of_process(self, name: str, template: str) -> np.ndarray:
        """A parameter of the process's sections, as the corner of each lane has it, with what the lane deviates by."""
        if (name, template) not in self._process:
            values = np.empty(len(self.lanes))
            for corner in dict.fromkeys(self.lanes.corners):
                here = np.array([one == corner for one in self.lanes.corners])
                scope = self.models.corner(corner).scope_of(template)
                values[here] = as_array(self.cards.environment.value(Expression.parse(name), scope), len(self.lanes))[
                    here
                ]
            self._process[name, template] = values
        return self._process[name, template]


def _prepared(
    element: Element, kind: DeviceKind, numbers: Numbers, card_numbers: Numbers, celsius: np.ndarray
) -> list[np.ndarray]:
    """Values of its kernel. Raises CircuitError."""
    try:
        return kind.prepare(numbers, card_numbers, celsius)
    except ValueError as error:
        raise complain(element, str(error)) from None


def _with_heat(element: Element, nets: tuple[str, ...], heat: str | None) -> tuple[str, ...]:
    """With the net of its part's heat in the place of its own."""
    inner = f"{element.name}.{HEAT}"
    return nets if heat is None else tuple(heat if net == inner else net for net in nets)


@cache
def _joined_ports(kind: ModuleKind, ports: int) -> tuple[tuple[int, int], ...]:
    """Pairs of the first `ports` terminals that conduct to each other, through inner nets too."""
    group: Mapping[int, set[int]] = {k: {k} for k in range(kind.width)}
    for a, b in kind.conducting:
        if group[a] is not group[b]:
            group[a] |= group[b]
            for member in group[b]:
                group[member] = group[a]
    return tuple((a, b) for a in range(ports) for b in range(a + 1, ports) if group[a] is group[b])
