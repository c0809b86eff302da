"""Parts become a block in one step, and a block dissolves into its parts; what is joined stays joined."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Mapping
from contextlib import suppress
from dataclasses import dataclass, replace

from hearthline.core.circuit.body import default_body, terminals_of_block
from hearthline.core.circuit.cell import Cell, Label, Part, Pin, Wire
from hearthline.core.circuit.edit.draw import with_items, without
from hearthline.core.circuit.edit.join import joined_islands, joined_up, pruned
from hearthline.core.circuit.edit.motion import Motion
from hearthline.core.circuit.edit.move import anchors, body_box, moved, tidied
from hearthline.core.circuit.edit.names import free_name
from hearthline.core.circuit.edit.paste import pasted
from hearthline.core.circuit.edit.picked import Picked, places_of
from hearthline.core.circuit.edit.route import Field
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.netlist import GROUND
from hearthline.core.circuit.nets import terminal_points
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.elements.kind import Point
from hearthline.core.errors import CircuitError, QuantityError
from hearthline.core.tolerance import split

ROOM = 4
"""Grid steps between the parts of a new cell and its pins."""


@dataclass(frozen=True)
class Made:
    """The cell with the block in it, the new cell, and the block's name."""

    outer: Cell
    inner: Cell
    block: str


def with_body(cell: Cell) -> Cell:
    """The cell with a body of its own, so that later pins do not move those that are there."""
    return cell if cell.body else replace(cell, body=default_body(cell))


# -- making


def made_block(cell: Cell, picked: Picked, name: str, library: Library) -> Made:
    """The picked parts as a new cell called `name`, and a block of it in their place.

    Raises CircuitError where no part is picked, the name is taken, or two names contradict on a net.
    """
    if not picked.parts:
        raise CircuitError("no part is selected; select the parts that shall become a block")
    if name.lower() in {known.lower() for known in library.cells}:
        raise CircuitError(f"there is a cell called {name} already; choose another name")
    return _Making(cell, picked, name, library).made()


class _Making:
    def __init__(self, cell: Cell, picked: Picked, name: str, library: Library):
        self.cell, self.name, self.library = cell, name, library
        nets = library.connections(cell)
        self.inside: dict[str, list[Point]] = {}
        self.outside: dict[str, list[Point]] = {}
        self.gates: dict[str, bool] = {}
        for part in cell.parts:
            for terminal, place in terminal_points(part, library.terminals(part)).items():
                net = nets.terminals[part.name, terminal]
                (self.inside if part.name in picked.parts else self.outside).setdefault(net, []).append(place)
                if part.name in picked.parts:
                    self.gates[net] = self.gates.get(net, True) and terminal == "g"
        for mark in (*cell.pins, *cell.labels):
            net = nets.at[mark.at]
            if net != GROUND:
                self.outside.setdefault(net, []).append(mark.at)
        self.kept = [net for net in self.inside if net not in self.outside or net == GROUND]
        self.crossing = [net for net in self.inside if net in self.outside and net != GROUND]
        labels = frozenset(one for one in cell.labels if one in picked.labels and nets.at[one.at] in self.kept)
        whole = {net for net in self.kept if net != GROUND}
        wires = frozenset(
            wire
            for wire in cell.wires
            if (net := nets.at[wire.points[0]]) in whole or (net in self.inside and wire in picked.wires)
        )
        self.taken = Picked(picked.parts, frozenset(), wires, labels, picked.notes)
        self.wires = wires
        self.supplies = {label.net for label in cell.labels if label.kind == "supply"}
        self.pin_kinds = {pin.name: pin.kind for pin in cell.pins}

    def made(self) -> Made:
        inner = self._inner()
        part = Part(free_name((p.name for p in self.cell.parts), "X1"), self.name, (0, 0))
        return Made(self._outer(inner, part), inner, part.name)

    def _kind(self, net: str) -> str:
        if net in self.pin_kinds:
            return self.pin_kinds[net]
        return "supply" if net in self.supplies else "input" if self.gates[net] else "inout"

    def _inner(self) -> Cell:
        parts = tuple(part for part in self.cell.parts if part.name in self.taken.parts)
        labels = tuple(label for label in self.cell.labels if label in self.taken.labels)
        notes = tuple(note for note in self.cell.notes if note in self.taken.notes)
        inner = Cell(self.name, (), parts, tuple(self.wires), labels, {}, "", notes)
        inner = replace(inner, parameters=used_parameters(inner, self.cell.parameters))
        inner = grounded(inner, self.inside.get(GROUND, ()), self.library)
        pins = self._pins(inner)
        for pin in pins:  # all of them before any wire, so that no wire is led where a pin will stand
            inner = with_items(inner, self.library, pin)
        for pin in pins:
            inner = joined_up(inner, [pin.at, *self.inside[pin.name]], self.library)
        for net in self.kept:
            if net != GROUND:
                inner = joined_up(inner, self.inside[net], self.library)
        return with_body(pruned(tidied(inner, self.library), self.library))

    def _pins(self, inner: Cell) -> list[Pin]:
        """A pin for each net that goes out, at its side of the parts."""
        left, top, right, bottom = _box(places_of(inner))
        pins, used = [], {"left": 0, "right": 0, "above": 0, "below": 0}
        for net in self.crossing:
            kind = self._kind(net)
            x, y = self.inside[net][0]
            if kind == "supply":
                pins.append(Pin(net, kind, (left + ROOM * used["above"], top - ROOM)))
                used["above"] += 1
            elif kind == "ground":
                pins.append(Pin(net, kind, (left + ROOM * used["below"], bottom + ROOM)))
                used["below"] += 1
            elif kind == "output" or (kind == "inout" and 2 * x > left + right):
                pins.append(Pin(net, kind, (right + ROOM, y), 2 if kind == "inout" else 0))
            else:
                pins.append(Pin(net, kind, (left - ROOM, y)))
        taken: set[Point] = set()
        for k, pin in enumerate(pins):
            while pin.at in taken:
                pin = replace(pin, at=(pin.at[0], pin.at[1] + 2))
            taken.add(pin.at)
            pins[k] = pin
        return pins

    def _outer(self, inner: Cell, part: Part) -> Cell:
        library = replace(self.library, cells={**self.library.cells, inner.name: inner})
        outer = pruned(without(self.cell, self.taken, self.library), self.library)
        outer = grounded(outer, self.outside.get(GROUND, ()), library)
        left, top, right, bottom = _box([place for places in self.inside.values() for place in places])
        shift = free_shift(Cell("", parts=(part,)), outer, ((left + right) // 2, (top + bottom) // 2), library)
        part = replace(part, at=shift)
        outer = tidied(replace(outer, parts=(*outer.parts, part)), library)
        terminals = terminal_points(part, terminals_of_block(inner))
        for net in self.crossing:
            outer = joined_up(outer, [terminals[net], *self.outside[net]], library)
        return outer


MOST_FURTHER = 40
"""Grid steps that something is moved further than it must be, to find free room."""


def grounded(cell: Cell, places: Iterable[Point], library: Library) -> Cell:
    """The cell with ground marks at those of `places` that are not joined to ground."""
    for place in places:
        tied = joined_islands(cell, library)
        if not any(tied.joined(place, part.at) for part in cell.parts if part.device == GROUND_SYMBOL):
            name = free_name((p.name for p in cell.parts), "GND1")
            cell = replace(cell, parts=(*cell.parts, Part(name, GROUND_SYMBOL, place)))
    return cell


def free_shift(piece: Cell, cell: Cell, wanted: Point, library: Library) -> Point:
    """How far to move `piece` so that it lies near `wanted` and touches nothing of the cell."""
    taken = _covered(cell, library)
    own = _covered(piece, library)
    for ring in range(0, 400, 2):
        for dx, dy in _ring(ring):
            shift = (wanted[0] + dx, wanted[1] + dy)
            if not any((x + shift[0], y + shift[1]) in taken for x, y in own):
                return shift
    return wanted


def _ring(radius: int) -> Iterator[Point]:
    """Places on a square around the origin, downwards and to the right first."""
    if radius == 0:
        yield 0, 0
        return
    for k in range(0, radius + 1, 2):
        yield from ((k, radius), (radius, k), (-k, radius), (radius, -k), (k, -radius), (-radius, k))


def _covered(cell: Cell, library: Library) -> set[Point]:
    """Every grid place that a drawing takes: wires, terminals, and the insides of parts."""
    field = Field()
    for wire in cell.wires:
        field.add_wire(wire.points)
    for part in cell.parts:
        field.add_body(body_box(part, library))
    return {*field.passing, *field.bodies, *anchors(cell, library).values()}


def used_parameters(cell: Cell, parameters: Mapping[str, str]) -> dict[str, str]:
    """The parameters that values of the cell speak of, and those that these speak of."""
    texts = [text for part in cell.parts for text in part.values.values()]
    found: dict[str, str] = {}
    while texts:
        words = set(re.findall(r"[A-Za-z_]\w*", texts.pop()))
        for name in words & set(parameters) - set(found):
            found[name] = parameters[name]
            texts.append(parameters[name])
    return {name: text for name, text in parameters.items() if name in found}


def _box(places: list[Point]) -> tuple[int, int, int, int]:
    xs, ys = [p[0] for p in places], [p[1] for p in places]
    return min(xs), min(ys), max(xs), max(ys)


# -- dissolving


def dissolved(cell: Cell, block: str, library: Library) -> tuple[Cell, Picked]:
    """The cell with the insides of a block in the block's place, and what they are. Raises CircuitError for a part that is
    no block, or one of an array."""
    part = cell.part(block)
    inner = library.symbol(part)
    if not isinstance(inner, Cell):
        raise CircuitError(f"{block} is no block; only a block dissolves", part=block)
    if len(part.instances) > 1:
        raise CircuitError(f"{block} is an array; give it a plain name, then dissolve it", part=block)
    outside = terminal_points(part, library.terminals(part))
    outer, places = _with_room(cell, part, inner, outside, library)
    groups = _groups(outer, part, outside, places, library)
    outer = pruned(without(outer, Picked(frozenset((block,))), library), library)
    piece, ties = _opened(part, inner, library)
    left, top, _, _ = _box([*places_of(piece), *(p for ps in ties.values() for p in ps)])
    at = _box(list(outside.values()) or [part.at])
    shift = free_shift(piece, outer, (at[0] - left, at[1] - top), library)
    outer, picked = pasted(outer, piece, shift, library)
    for pin, inside in ties.items():
        shifted = [(x + shift[0], y + shift[1]) for x, y in inside]
        outer = joined_up(outer, [*groups.get(pin, ()), *shifted], library)
    return pruned(tidied(outer, library), library), picked.within(outer)


def _groups(outer: Cell, part: Part, outside, places: Mapping[str, Point], library: Library) -> dict[str, list[Point]]:
    """For each pin of the block the anchors that it is joined to outside."""
    joined = joined_islands(outer, library)
    mine = set(places.values())
    found: dict[str, list[Point]] = {}
    for pin, place in places.items():
        others = [at for at in anchors(outer, library).values() if joined.joined(at, place) and at not in mine]
        others += [p for w in outer.wires for p in w.points if joined.joined(p, place) and p not in mine]
        found[pin] = others[:1]
    return found


def _with_room(cell: Cell, part: Part, inner: Cell, outside, library: Library) -> tuple[Cell, dict[str, Point]]:
    """The cell with what lies right of and below the block moved away by what its insides need more."""
    wide, tall = (b - a for a, b in zip(_box(places_of(inner))[:2], _box(places_of(inner))[2:], strict=True))
    left, top, right, bottom = _box(list(outside.values()) or [part.at])
    for axis, edge, more in ((0, right, wide - (right - left) + 8), (1, bottom, tall - (bottom - top) + 8)):
        if more > 0:
            beyond = Picked(
                frozenset(p.name for p in cell.parts if p.at[axis] >= edge and p.name != part.name),
                frozenset(p.name for p in cell.pins if p.at[axis] >= edge),
                frozenset(w for w in cell.wires if all(p[axis] > edge for p in w.points)),
                frozenset(one for one in cell.labels if one.at[axis] > edge),
                frozenset(n for n in cell.notes if n.at[axis] >= edge),
            )
            cell = _moved_clear(cell, beyond, library, more, axis)
    return cell, terminal_points(cell.part(part.name), library.terminals(part))


def _moved_clear(cell: Cell, beyond: Picked, library: Library, more: int, axis: int) -> Cell:
    """What is `beyond` moved by at least so much, to where it touches nothing that it was not joined to."""
    before, found = _joints(cell, library), cell
    for further in range(0, MOST_FURTHER, 2):
        way = (more + further, 0) if axis == 0 else (0, more + further)
        found, _ = moved(cell, beyond, library, Motion(way))
        if _joints(found, library) == before:
            break
    return found


def _joints(cell: Cell, library: Library) -> set[frozenset]:
    """The terminals and pins that are joined, whatever their nets are called; nothing where names contradict each other."""
    nets = library.nets(cell)
    groups: dict[str, set] = {}
    for terminal, net in (nets.terminals if nets else {}).items():
        groups.setdefault(net, set()).add(terminal)
    for pin in cell.pins if nets else ():
        groups.setdefault(nets.at[pin.at], set()).add(pin.name)
    return {frozenset(group) for group in groups.values()}


def _opened(part: Part, inner: Cell, library: Library) -> tuple[Cell, dict[str, list[Point]]]:
    """The insides without pins, with the block's values in the place of its parameters, and for each pin the places in
    them that belong to it."""
    given = {name: part.values.get(name, text) for name, text in inner.parameters.items()}
    parts = tuple(replace(p, values={k: _with_given(t, given) for k, t in p.values.items()}) for p in inner.parts)
    names = {pin.name.lower() for pin in inner.pins}
    labels = tuple(
        Label(f"{part.name.lower()}_{one.net}", one.at, one.kind)
        for one in inner.labels
        if one.net.lower() not in names
    )
    nets = library.connections(inner)
    ties: dict[str, list[Point]] = {}
    for pin in inner.pins:
        places = [
            place for place in anchors(inner, library).values() if nets.at[place] == nets.at[pin.at] and place != pin.at
        ]
        places += [wire.points[0] for wire in inner.wires if nets.at[wire.points[0]] == nets.at[pin.at]]
        ties[pin.name] = [place for place in places if place != pin.at] or [pin.at]
    piece = Cell("piece", (), parts, tuple(Wire(w.points) for w in inner.wires), labels, {}, "", inner.notes)
    return pruned(tidied(piece, library), library), ties


def _with_given(text: str, given: Mapping[str, str]) -> str:
    """The same of a value that may have a tolerance."""
    with suppress(QuantityError):
        plain, tolerance = split(text)
        return f"{_filled(plain, given)} {tolerance.text}" if tolerance else _filled(text, given)
    return text


def _filled(text: str, given: Mapping[str, str]) -> str:
    """A value with parameters exchanged for what they were given."""

    def fill(match: re.Match) -> str:
        name = match[0]
        if name not in given:
            return name
        inside = _filled(given[name], {k: v for k, v in given.items() if k != name})
        return inside if inside.replace(".", "").isalnum() and match.span() == (0, len(text.strip())) else f"({inside})"

    return re.sub(r"(?<![\w.])[A-Za-z_]\w*", fill, text)
