"""Connections between a terminal and the net it is on: what is asked for by `m1.g`, and what stands at it in the equations."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from hearthline.core.circuit.netlist import Element
from hearthline.core.elements import ELEMENTS, n_port
from hearthline.core.elements.device import DeviceKind
from hearthline.core.engine.module import ModuleKind
from hearthline.core.engine.system import InstancePlace, System
from hearthline.core.errors import CircuitError

Ends = tuple[tuple[str, int], ...]
"""Terminals of elements, by name and position."""


@dataclass(frozen=True)
class Connection:
    """A terminal `name` (`m1.g`) on a net: its unknown, 0 for ground, and the terminals of elements that it is made of."""

    name: str
    net: int
    ends: Ends


def terminal_names(element: Element, system: System) -> tuple[str, ...]:
    """Those of an element that are on nets, in their order."""
    module = system.modules.get(element.name)
    if element.device is not None:
        return n_port.terminal_names(len(element.nets) - 1)
    if element.kind == "B":
        names: tuple[str, ...] = ("p", "n")
    elif module is not None and element.kind == "X":
        names = module.port_names
    else:
        form = next(iter(ELEMENTS[element.kind].symbols.values()), None)
        names = tuple(name for name, _ in form.terminals) if form else ()
    if element.kind == "Q":
        names = ("c", "b", "e", "s")
    return names[: len(element.nets)]


def connection_of(system: System, text: str, inside: Callable[[str, str], Ends]) -> Connection:
    """What `text` asks for; `inside` tells what a terminal of a block is made of. Raises CircuitError naming part or terminal
    that is not there, or that is on no net."""
    name, _, terminal = text.strip().lower().rpartition(".")
    elements = {one.name: one for one in system.netlist.elements}
    if name in elements:
        known = terminal_names(elements[name], system)
        if terminal not in known:
            raise _no_terminal(elements[name], terminal, known, system)
        ends: Ends = ((name, known.index(terminal)),)
    else:
        ends = inside(name, terminal) if name else ()
        if not ends:
            raise _no_such(name, terminal, text, elements)
    found = elements[ends[0][0]].nets[ends[0][1]]
    others = [(one.name, k) for one in elements.values() for k, net in enumerate(one.nets) if net == found]
    if not set(others) - set(ends):
        raise CircuitError(f"{text} is on no net: nothing else is connected there", part=name)
    return Connection(f"{name}.{terminal}", _unknown(system, found), ends)


def _no_terminal(element: Element, terminal: str, known: Sequence[str], system: System) -> CircuitError:
    module = system.modules.get(element.name)
    if module is not None and terminal in module.port_names:
        return CircuitError(f"{element.name}.{terminal} is on no net; connect it first", part=element.name)
    return CircuitError(f"{element.name} has no terminal '{terminal}'; it has {', '.join(known)}", part=element.name)


def _no_such(name: str, terminal: str, text: str, elements: dict[str, Element]) -> CircuitError:
    if not name:
        return CircuitError(f"'{text}' is no terminal; say which of which part, as in m1.g")
    blocks = [other for other in elements if other.startswith(f"{name}.")]
    if blocks:
        return CircuitError(f"{name} has no terminal '{terminal}', or it is on no net", part=name)
    return CircuitError(f"there is no part '{name}'; there are {', '.join(list(elements)[:12])}", part=name)


def _unknown(system: System, net: str) -> int:
    return 1 + system.nets.index(net) if net in system.nets else 0


def all_connections(system: System, letters: str = "MQJ") -> tuple[Connection, ...]:
    """Every terminal of every transistor."""
    return tuple(
        Connection(f"{one.name}.{terminal}", _unknown(system, one.nets[k]), ((one.name, k),))
        for one in system.netlist.elements
        if one.kind in letters
        for k, terminal in enumerate(terminal_names(one, system))
    )


@dataclass(frozen=True)
class Terms:
    """Connections as compiled code takes them; see `kernels.look`."""

    connections: np.ndarray
    terms: np.ndarray
    lists: np.ndarray


def terms_of(system: System, connections: Sequence[Connection], entries: np.ndarray) -> Terms:
    """What stands at each; `entries` are the conductances that have gains of their own."""
    places = {one.name: one for one in system.instance_places}
    gains = {int(entry): k for k, entry in enumerate(entries)}
    rows: list[tuple[int, ...]] = []
    spans: list[tuple[int, ...]] = []
    lists: list[int] = []
    for connection in connections:
        found = [one for name, terminal in connection.ends for one in _terms(system, places[name], terminal, gains)]
        down = {row: k for k, row in enumerate(dict.fromkeys(one[2] for one in found if one[5] and one[2]))}
        along = {column: k for k, column in enumerate(dict.fromkeys(one[3] for one in found if one[4] and one[3]))}
        first = len(lists)
        lists += [*down, *along]
        spans.append((connection.net, len(rows), len(rows) + len(found), first, first + len(down), len(lists)))
        rows += [
            (*one, down.get(one[2], -1) if one[5] else -1, along.get(one[3], -1) if one[4] else -1) for one in found
        ]
    return Terms(
        np.array(spans, np.int64).reshape(-1, 6), np.array(rows, np.int64).reshape(-1, 9), np.array(lists, np.int64)
    )


def _terms(system: System, at: InstancePlace, terminal: int, gains: dict[int, int]) -> Iterator[tuple[int, ...]]:
    """The conductances and capacitances of an instance that are in the row or the column of a terminal, those of the same place
    together."""
    nodes = system.nodes[at.node : at.node + at.kind.width].tolist()
    here = frozenset(_one_with(at.kind, terminal, system.nodes[at.node : at.node + at.kind.width]))
    for g, c, row, column, row_here, column_here in _entries_at(at.kind, here):
        entry = at.conductance + g if g >= 0 else -1
        slope = at.capacitance + c if c >= 0 else -1
        yield entry, slope, nodes[row], nodes[column], row_here, column_here, gains.get(entry, -1)


@lru_cache(maxsize=1024)
def _entries_at(kind: DeviceKind | ModuleKind, here: frozenset[int]) -> tuple[tuple[int, int, int, int, int, int], ...]:
    """Of a kind: conductance, capacitance (or -1), row, column, and whether these are at the terminal."""
    slopes = {place: k for k, place in enumerate(kind.capacitance)}
    found = []
    for k, (row, column) in enumerate(kind.conductance):
        if row in here or column in here:
            found.append((k, slopes.pop((row, column), -1), row, column, int(row in here), int(column in here)))
    for (row, column), k in slopes.items():
        if row in here or column in here:
            found.append((-1, k, row, column, int(row in here), int(column in here)))
    return tuple(found)


def _one_with(kind: object, terminal: int, nodes: np.ndarray) -> set[int]:
    """A terminal with the inner nets that are the same, since nothing lies between."""
    here = {terminal}
    if isinstance(kind, ModuleKind):
        for collapse in kind.module.collapses * 2:
            pair = {collapse.plus, collapse.minus}
            if collapse.minus >= 0 and pair & here and nodes[collapse.plus] == nodes[collapse.minus]:
                here |= {k for k in pair if k == terminal or k >= kind.module.ports}
    return here
