"""Lowering: a flat netlist, the models of the process and the lanes become the arrays that compiled code runs on."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from functools import cache, cached_property, lru_cache
from typing import NamedTuple

import numpy as np

from hearthline.core.circuit.checks import check
from hearthline.core.circuit.netlist import GROUND, Netlist
from hearthline.core.collection import no_collection
from hearthline.core.compiled.codes import Words
from hearthline.core.constants import BELOW_ZERO, kelvin
from hearthline.core.elements import DEVICES, ELEMENTS
from hearthline.core.elements.device import DeviceKind, Dispersion, joined
from hearthline.core.engine.complaints import complain
from hearthline.core.engine.instances import BRANCH, DeviceInstance, DeviceInstances
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.linear.pattern import Pattern, pattern_of
from hearthline.core.engine.module import ModuleKind
from hearthline.core.engine.on_die import HEAT, OnDie
from hearthline.core.engine.parameters import Environment
from hearthline.core.engine.recall import Recall
from hearthline.core.engine.side_by_side import SIDE_BY_SIDE, SideBySide, lengths_of, side_by_side
from hearthline.core.engine.transient.waves import WaveInLanes
from hearthline.core.engine.worker import CIRCUIT, END_PLACE, VALUE_PLACE, CircuitArrays
from hearthline.core.errors import CircuitError, ExpressionError
from hearthline.core.expression import Expression
from hearthline.core.models.layout import COUNT
from hearthline.core.models.module import Module
from hearthline.core.models.signature import SETTINGS
from hearthline.core.process.models import ModelSet
from hearthline.core.quantity import write


class Variable(NamedTuple):
    """One operating-point variable of one element."""

    element: str
    name: str
    unit: str

    @property
    def label(self) -> str:
        """As in files and formulas: `m1.gm`."""
        return f"{self.element}.{self.name}"

    @property
    def hidden(self) -> bool:
        """Whether it only says if a message of a device text is to be given, or what numbers stand in it."""
        return self.name[0] == "@"


@dataclass(frozen=True)
class Unknown:
    """One unknown: the voltage of a net (`V`, net), the current of a branch (`I`, element), or a state inside a device
    (no kind, `m1.state`)."""

    kind: str
    name: str

    @property
    def label(self) -> str:
        """As in files and formulas: `V(out)`, `I(vdd)`."""
        return f"{self.kind}({self.name})" if self.kind else self.name


class InstancePlace(NamedTuple):
    """Where an instance begins: among the nodes, the values, the conductances and the capacitances of its circuit."""

    name: str
    kind: DeviceKind | ModuleKind
    node: int
    value: int
    conductance: int
    capacitance: int


class Matrix(NamedTuple):
    """The pattern of a circuit's matrix, and the circuit as compiled code takes it."""

    pattern: Pattern
    circuit: CircuitArrays


OWN = ("static", "dynamic", "copies", "handed")
"""What holds addresses of this process."""


@dataclass(frozen=True)
class System:
    """A circuit ready to be solved in `values.shape[0]` lanes.

    `unknowns[k]` stands at index k + 1 of a solution vector, and `nodes` are such indices; `slots` and
    `capacitance_slots` are where conductances and capacitances belong in the matrix; `variables[k]` at index k of
    the readout array; `kinds[k]` is what the kernel and span k are of, `instances` the elements in the order of the
    kernels; `source_slots` says where in `values` the direct value of each independent source is. `messages` is what
    device texts said about their parameters; `modules` the module of each element that is one; `waves` the sources that
    change in time; `initial` (lanes, unknowns + 1) what a transient may begin with, and `held` the unknowns for which it
    is given by net; `phasors` what each source adds to a small signal.
    """

    netlist: Netlist
    lanes: Lanes
    unknowns: tuple[Unknown, ...]
    variables: tuple[Variable, ...]
    kernels: tuple
    spans: np.ndarray
    nodes: np.ndarray
    slots: np.ndarray
    capacitance_slots: np.ndarray
    values: np.ndarray
    guesses: np.ndarray
    places: np.ndarray
    net_count: int
    source_slots: Mapping[str, int]
    kinds: tuple[DeviceKind | ModuleKind, ...]
    instances: tuple[str, ...]
    messages: tuple[str, ...] = ()
    modules: Mapping[str, Module] = field(default_factory=dict)
    waves: Mapping[str, WaveInLanes] = field(default_factory=dict)
    initial: np.ndarray = field(default_factory=lambda: np.zeros((0, 0)))
    held: np.ndarray = field(default_factory=lambda: np.zeros(0, np.int64))
    phasors: Mapping[str, np.ndarray] = field(default_factory=dict)

    def __getstate__(self) -> dict:
        """Without the addresses of kernels, which are found anew where it arrives."""
        return {name: value for name, value in self.__dict__.items() if name not in OWN}

    def lines(self, lane: int) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """The ideal lines in a lane: unknowns (lines, 6), where the wave that arrives at port 1 stands in the values,
        impedances [Ω], delays [s]."""
        nodes, slots = [], []
        for one in self.instance_places:
            if one.kind.delayed:
                nodes.append(self.nodes[one.node : one.node + 6])
                slots.append(one.value + 2)
        slots = np.array(slots, np.int64)
        values = self.values[lane]
        return np.array(nodes, np.int64).reshape(-1, 6), slots, values[slots - 2], values[slots - 1]

    @cached_property
    def instance_places(self) -> tuple[InstancePlace, ...]:
        """Where each instance stands, in the order of `instances`."""
        found, names = [], iter(self.instances)
        node = value = conductance = capacitance = 0
        for span, kind in zip(self.spans, self.kinds, strict=True):
            for _ in range(span[COUNT]):
                found.append(InstancePlace(next(names), kind, node, value, conductance, capacitance))
                node, value = node + kind.width, value + kind.values
                conductance, capacitance = conductance + len(kind.conductance), capacitance + len(kind.capacitance)
        return tuple(found)

    def dispersion(self, lane: int, frequencies: np.ndarray, passive: bool = False) -> Dispersion:
        """What conductances gain at frequencies [Hz] beside what their kernels say; `entries` count all of the circuit's. Made
        `passive`, parts from files with gain have a share of theirs."""
        omega = 2.0 * np.pi * frequencies
        found = []
        for at in self.instance_places:
            if at.kind.dispersion is not None:
                one = at.kind.dispersion(self.values[lane, at.value : at.value + at.kind.values], omega)
                share = at.kind.share if passive else 1.0
                found.append(replace(one, entries=one.entries + at.conductance, gains=share * one.gains))
        return joined(found, len(frequencies))

    def beyond(self, frequencies: np.ndarray) -> list[str]:
        """What is to be said of frequencies [Hz] outside of those that parts from files are known at."""
        found, low, high = [], float(frequencies[0]), float(frequencies[-1])
        for at in self.instance_places:
            if at.kind.known is None:
                continue
            first, last = at.kind.known
            sides = [f"below {write(first, 'Hz', 4)}"] * (0 < low < first) + [f"above {write(last, 'Hz', 4)}"] * (
                high > last
            )
            if sides:
                found.append(
                    f"{at.name}: {' and '.join(sides)} its file says nothing; a rational model stands in there"
                )
        return found

    def with_values(self, values: np.ndarray) -> System:
        """The same circuit with other numbers in its kernels (lanes, values); the matrices stay."""
        made = replace(self, values=values)
        for name in ("static", "dynamic"):
            if name in self.__dict__:
                made.__dict__[name] = self.__dict__[name]
        return made

    @cached_property
    def static(self) -> Matrix:
        """The matrix of direct current: conductances alone."""
        return self._matrix(np.zeros(0, np.int64))

    @cached_property
    def dynamic(self) -> Matrix:
        """The matrix of everything else: charges count too."""
        return self._matrix(self.capacitance_slots)

    def _matrix(self, capacitance_slots: np.ndarray) -> Matrix:
        size = len(self.unknowns)
        diagonal = np.arange(self.net_count + 1) * (size + 2)
        pattern, (slots, capacitances, places) = pattern_of(size, self.slots, capacitance_slots, diagonal)
        circuit = CircuitArrays(
            np.array([kernel.address for kernel in self.kernels], np.int64), self.spans.ravel(),
            self.nodes + np.int32(SETTINGS), self.nodes.astype(np.uint32), slots.astype(np.uint32),
            capacitances.astype(np.uint32), places.astype(np.uint32), self.places, self.net_count,
            *_gathered(slots, len(pattern.rows)), *_gathered(capacitances, len(pattern.rows)),
            *_gathered(self.nodes, size + 1), *_gathered(self.nodes, size + 1, self._charged),
        )  # fmt: skip
        return Matrix(pattern, circuit)

    @cached_property
    def copies(self) -> SideBySide:
        """Several of it side by side, as it is in time."""
        return side_by_side(self.kinds, [int(span[COUNT]) for span in self.spans], self.dynamic.circuit)

    @cached_property
    def handed(self) -> tuple[Words, Words]:
        """The same for compiled code, and behind it the circuit itself."""
        return Words.of(SIDE_BY_SIDE, self.copies), Words.of(CIRCUIT, self.dynamic.circuit)

    @property
    def _charged(self) -> np.ndarray:
        """Of each terminal of each instance whether there may be a charge."""
        widths = [
            (span[COUNT] * kind.width, bool(kind.capacitance))
            for span, kind in zip(self.spans, self.kinds, strict=True)
        ]
        return np.concatenate([np.zeros(0, bool), *(np.full(count, there) for count, there in widths)])

    @property
    def capacitance_pairs(self) -> tuple[np.ndarray, np.ndarray]:
        """Row and column of each capacitance, with ground as 0."""
        rows, columns = np.divmod(self.capacitance_slots, len(self.unknowns) + 1)
        return rows.astype(np.uint32), columns.astype(np.uint32)

    @property
    def hidden(self) -> list[int]:
        """Indices of the variables that are for messages of device texts."""
        return [k for k, variable in enumerate(self.variables) if variable.hidden]

    def owner_of_current(self, current: int) -> str:
        """The element that entry `current` of the currents belongs to."""
        names = iter(self.instances)
        for span, kind in zip(self.spans, self.kinds, strict=True):
            for _ in range(span[COUNT]):
                name = next(names)
                if current < kind.width:
                    return name
                current -= kind.width
        return ""

    @property
    def nets(self) -> tuple[str, ...]:
        """Names of the nets, in the order of the unknowns."""
        return tuple(unknown.name for unknown in self.unknowns[: self.net_count])


def lower(
    netlist: Netlist, models: ModelSet, lanes: Lanes, recall: Recall | None = None, on_die: OnDie | None = None,
    common: dict[str, tuple[DeviceInstance, ...]] | None = None,
) -> System:  # fmt: skip
    """The system of `netlist` in all `lanes`; `recall` keeps what may be used again for a circuit much like it. With parts that
    stand `on_die` it heats itself: their temperatures are unknowns too. `common` keeps what the same circuit has as well in
    lanes that differ in what is hot alone.

    Raises CircuitError, naming part and place, for a circuit that cannot be solved, an unknown model or parameter, or
    a value out of its range.
    """
    if (kelvin(lanes.celsius) <= 0).any():
        raise CircuitError(f"{lanes.celsius.min():g} °C is {BELOW_ZERO}")
    checked = bool(common)  # as the same circuit, at other temperatures
    with no_collection():
        items = DeviceInstances(netlist, models, lanes, recall, on_die, common)
        if not checked:
            check(netlist, items.paths)
        return _Layout(netlist, lanes, items.all()).system()


def carried(of: tuple[Unknown, ...], values: np.ndarray, to: tuple[Unknown, ...]) -> np.ndarray:
    """Values (..., unknowns) of the unknowns of one system as those of another; 0 of what it does not have."""
    place = {one: k for k, one in enumerate(of)}
    found = np.zeros((*values.shape[:-1], len(to)), values.dtype)
    there = [(k, place[one]) for k, one in enumerate(to) if one in place]
    found[..., [k for k, _ in there]] = values[..., [k for _, k in there]]
    return found


class _Layout:
    """Gives every terminal, value and slot its place in the flat arrays."""

    def __init__(self, netlist: Netlist, lanes: Lanes, items: list[DeviceInstance]):
        self.netlist, self.lanes = netlist, lanes
        order = {id(kind): position for position, kind in enumerate(DEVICES.values())}
        for item in items:
            order.setdefault(id(item.kind), len(order))
        self.items = sorted(items, key=lambda item: order[id(item.kind)])
        nets = dict.fromkeys(netlist.nets) | dict.fromkeys(net for item in items for net in item.nets)
        nets = [net for net in nets if net != GROUND and net[0] != BRANCH]
        own = [(item, name) for item in items for name in item.unknowns]
        self.unknowns = (
            *(Unknown("" if net.endswith(HEAT) else "V", net) for net in nets),
            *(Unknown("I" if name == item.name else "", name) for item, name in own),
        )
        self.net_count = len(nets)
        self.index = {net: k + 1 for k, net in enumerate(nets)} | {GROUND: 0}
        self.branch = {name: len(nets) + 1 + k for k, (_, name) in enumerate(own)}

    def system(self) -> System:
        groups, size = self.groups, len(self.unknowns) + 1
        nodes = [self._nodes(kind, items) for kind, items in groups]
        tables = list(zip((kind for kind, _ in groups), nodes, strict=True))
        return System(
            self.netlist, self.lanes, self.unknowns,
            tuple(variable for i in self.items for variable in _variables(i.name, i.kind.readouts)),
            tuple(kind.kernel for kind, _ in groups),
            self._spans(),
            np.concatenate([table.ravel() for table in nodes]).astype(np.int32),
            np.concatenate([_slots(kind.conductance, table, size) for kind, table in tables]),
            np.concatenate([_slots(kind.capacitance, table, size) for kind, table in tables]),
            np.ascontiguousarray(np.hstack([item.values for item in self.items])),
            self._guesses(size),
            self._places(),
            self.net_count,
            self._source_slots(),
            tuple(kind for kind, _ in groups),
            tuple(item.name for _, items in groups for item in items),
            tuple(f"{item.name}: {message}" for item in self.items for message in item.messages),
            {item.name: item.kind.module for item in self.items if isinstance(item.kind, ModuleKind)},
            {item.name: item.wave for item in self.items if item.wave is not None},
            self._initial(size),
            np.array([self.index[net] for net in self.netlist.initial if net in self.index], np.int64),
            {item.name: item.phasor for item in self.items if item.phasor is not None},
        )  # fmt: skip

    @cached_property
    def groups(self) -> list[tuple[DeviceKind | ModuleKind, list[DeviceInstance]]]:
        """Instances by their kinds, in the order of both."""
        groups: dict[int, tuple[DeviceKind | ModuleKind, list[DeviceInstance]]] = {}
        for item in self.items:
            groups.setdefault(id(item.kind), (item.kind, []))[1].append(item)
        return list(groups.values())

    def _nodes(self, kind: DeviceKind | ModuleKind, items: list[DeviceInstance]) -> np.ndarray:
        """The unknown at each terminal: (instances, terminals)."""
        return np.array([self._terminals(item) for item in items], np.int64).reshape(len(items), kind.width)

    def _terminals(self, item: DeviceInstance) -> list[int]:
        index, branch = self.index, self.branch
        terminals = [self._branch(item, net[1:]) if net[0] == BRANCH else index[net] for net in item.nets]
        if item.control:
            terminals += [self._branch(item, name) for name in item.control.split()]
        return terminals + [branch[name] for name in item.unknowns] if item.unknowns else terminals

    def _branch(self, item: DeviceInstance, name: str) -> int:
        if name not in self.branch:
            element = next(e for e in self.netlist.elements if e.name == item.name.partition("@")[0])
            wanted = ELEMENTS[ELEMENTS[element.kind].couples or "V"].title
            raise complain(element, f"there is no {wanted} '{name}' whose current could control it")
        return self.branch[name]

    def _places(self) -> np.ndarray:
        """Where each stretch of the work array begins, and its end; see `signature`."""
        each = np.sum([lengths_of(kind, len(items)) for kind, items in self.groups], axis=0)
        return np.concatenate([[0, SETTINGS], SETTINGS + np.cumsum([len(self.unknowns) + 1, *each[1:]])])

    def _spans(self) -> np.ndarray:
        """How many instances of each model, and where its stretches begin: in `nodes`, then in the work array."""
        spans, start = [], np.concatenate([[0], self._places()[VALUE_PLACE:END_PLACE]])
        for kind, items in self.groups:
            spans.append([len(items), *start])
            start = start + np.array(lengths_of(kind, len(items)))
        return np.array(spans, np.int64)

    def _guesses(self, size: int) -> np.ndarray:
        found = self._voltages(self.netlist.guesses, size)
        for net, volts in self.netlist.near.items():
            if net in self.index and net not in self.netlist.guesses:
                found[:, self.index[net]] = volts
        return found

    def _voltages(self, given: Mapping[str, Expression], size: int) -> np.ndarray:
        found = np.zeros((len(self.lanes), size))
        environment = Environment(self.lanes.parameters, self.lanes.celsius)
        for net, expression in given.items():
            if net not in self.index:
                raise CircuitError(f"a starting voltage is given for net {net}, and there is no such net", net=net)
            try:
                found[:, self.index[net]] = environment.value(expression, self.netlist.root)
            except ExpressionError as error:
                raise CircuitError(f"starting voltage of net {net}: {error}", net=net) from None
        found[:, 0] = 0.0
        return found

    def _initial(self, size: int) -> np.ndarray:
        """What a transient begins with that has no operating point: given voltages and currents, and what follows from
        voltages across parts with one end known; the rest is 0."""
        found = self._voltages(self.netlist.initial, size)
        self._check_initial(found)
        known = {0, *(self.index[net] for net in self.netlist.initial)}
        across = []
        for item in self.items:
            if item.initial is None:
                continue
            if item.kind.branch:  # the current of an inductor
                found[:, self.branch[item.name]] = item.initial
            else:
                across.append((self.index[item.nets[0]], self.index[item.nets[1]], item.initial))
        while across:
            ready = [one for one in across if (one[0] in known) != (one[1] in known)]
            if not ready:  # of a part between nets of which nothing is known, the second is at 0
                free = [one for one in across if one[0] not in known]
                if not free:
                    break
                known.add(free[0][1])
                continue
            plus, minus, voltage = ready[0]
            if minus in known:
                found[:, plus] = found[:, minus] + voltage
            else:
                found[:, minus] = found[:, plus] - voltage
            known |= {plus, minus}
        return found

    def _check_initial(self, found: np.ndarray) -> None:
        """Raises CircuitError for a net that is to begin at another voltage than sources hold it at."""
        stiff = {one.name for one in self.netlist.elements if ELEMENTS[one.kind].holds_voltage}
        sources = [item for item in self.items if item.kind.drives == "V" and item.name in stiff]
        held: dict[int, tuple[np.ndarray, str]] = {0: (np.zeros(len(self.lanes)), "")}
        while True:
            ready = [s for s in sources if (self.index[s.nets[0]] in held) != (self.index[s.nets[1]] in held)]
            if not ready:
                break
            for source in ready:
                plus, minus = (self.index[net] for net in source.nets)
                volts = (
                    source.values[:, 0] if source.wave is None else source.wave.at_the_beginning(source.values[:, 0])
                )
                if minus in held:
                    held.setdefault(plus, (held[minus][0] + volts, source.name))
                else:
                    held.setdefault(minus, (held[plus][0] - volts, source.name))
        for net in self.netlist.initial:
            k = self.index.get(net)
            if k not in held:
                continue
            volts, name = held[k]
            off = np.abs(found[:, k] - volts) > 1e-6 + 1e-6 * np.abs(volts)
            if off.any():
                lane = int(np.argmax(off))
                raise CircuitError(
                    f"net {net} is to begin at {found[lane, k]:g} V, and {name or 'ground'} holds it at {volts[lane]:g} V; "
                    "take one of them away",
                    part=name, net=net,
                )  # fmt: skip

    def _source_slots(self) -> dict[str, int]:
        slots, position = {}, 0
        for item in self.items:
            if item.kind.drives:
                slots[item.name] = position
            position += item.kind.values
        return slots


@lru_cache(maxsize=8192)
def _variables(name: str, readouts: tuple) -> tuple[Variable, ...]:
    """The operating-point variables of one instance."""
    return tuple(Variable(name, readout.name, readout.unit) for readout in readouts)


@cache
def _pattern(pattern) -> tuple[np.ndarray, np.ndarray]:
    """Rows and columns of a kind's pattern as arrays."""
    rows, columns = np.array(pattern, np.int64).reshape(-1, 2).T
    return np.ascontiguousarray(rows), np.ascontiguousarray(columns)


def _slots(pattern, nodes: np.ndarray, size: int) -> np.ndarray:
    """Where in the matrix each conductance or capacitance of instances (instances, terminals) belongs."""
    rows, columns = _pattern(pattern)
    return (nodes[:, rows] * size + nodes[:, columns]).ravel()


def _gathered(places: np.ndarray, size: int, wanted: np.ndarray | None = None) -> tuple[np.ndarray, np.ndarray]:
    """What goes to each of `size` places, in its order: where its sources begin (size + 1,), and all sources. What goes
    elsewhere, or is not `wanted`, is left out."""
    goes = np.asarray(places, np.int64)
    sources = np.flatnonzero((goes < size) & (True if wanted is None else wanted))
    sources = sources[np.argsort(goes[sources], kind="stable")]
    starts = np.searchsorted(goes[sources], np.arange(size + 1))
    return starts.astype(np.uint32), np.append(sources, 0).astype(np.uint32)
