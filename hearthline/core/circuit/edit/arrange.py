"""Places and wires the parts of a netlist as a readable drawing: supply up, ground down, signals from left to right.

Parts that carry a current from a supply to ground stand above each other in a column; columns are ordered so that what drives
stands left of what is driven. Short nets are wired, long ones and supplies are named.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from itertools import pairwise

from hearthline.core.circuit.cell import Cell, Label, Part, Pin, Wire
from hearthline.core.circuit.edit.move import body_box, tidied
from hearthline.core.circuit.edit.names import free_name
from hearthline.core.circuit.edit.route import BEND, Field, region_of, route, steps_between
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.netlist import GROUND
from hearthline.core.circuit.nets import terminal_points
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.elements.kind import Point

SUPPLIES = ("vdd", "vcc", "avdd", "dvdd", "vddd", "vdda", "vpos", "vp")
GROUNDS = ("vss", "gnd", "avss", "dvss", "vee")
_NAMELESS = re.compile(r"\d+|(net|n|wire)_?\d+(_\d+)?|.+_[a-z]\d?")
"""Names of nets that a program gave."""

ACROSS, DOWN = 20, 12
"""Grid steps from column to column and from part to part."""

MOST_WIRED, LONGEST = 6, 90
"""Up to how many terminals a net is wired, and how long a wire may be; beyond, the net is named."""

UPPER = {"M": ("d", "s"), "Q": ("c", "e"), "J": ("d", "s")}
INPUTS = ("g", "b", "cp", "cn", "inp", "inn", "in", "p1")


@dataclass
class Places:
    """What is known while a drawing is made: parts, the net of each (part, terminal), and the places found."""

    parts: list[Part]
    nets: Mapping[tuple[str, str], str]
    pins: tuple[Pin, ...]
    library: Library
    columns: list[list[str]] = field(default_factory=list)


def arranged(
    name: str, parts: Iterable[Part], nets: Mapping[tuple[str, str], str], pins: Iterable[Pin], library: Library
) -> Cell:
    """The cell with its parts placed and wired. `nets` gives the net of each (part, terminal)."""
    work = Places(list(parts), nets, tuple(pins), library)
    _columns(work)
    cell = Cell(name, (), _placed(work))
    cell = _with_pins(cell, work)
    cell = _with_bulks(cell, work)
    cell = _with_rails(cell, work)
    signals = _Signals(cell, work)
    for net in _signal_nets(work):
        signals.join(net)
    return tidied(signals.done(), library)


def is_supply(net: str) -> bool:
    """Whether a net is a supply by its name."""
    return net.lower() in SUPPLIES


def _is_rail(net: str) -> bool:
    return net == GROUND or is_supply(net) or net.lower() in GROUNDS


# -- columns


def _ends(work: Places, part: Part) -> tuple[str, str] | None:
    """The nets between which a part carries its current, the upper one first."""
    terminals = [name for name, _ in work.library.terminals(part)]
    if len(terminals) == 2:
        upper, lower = terminals
    elif set(UPPER.get(_kind(work, part), ("?",))) <= set(terminals):
        upper, lower = UPPER[_kind(work, part)]
    else:
        return None
    if _is_p(work, part):
        upper, lower = lower, upper
    return work.nets[part.name, upper], work.nets[part.name, lower]


def _kind(work: Places, part: Part) -> str:
    return getattr(work.library.symbol(part), "kind", "X")


def _is_p(work: Places, part: Part) -> bool:
    return work.library.devices.get(part.device, part.device) in ("PMOS", "PNP", "PJF")


def _columns(work: Places) -> None:
    """Stacks of parts from a supply down, then what hangs on them, then the rest one by one."""
    left = {part.name: part for part in work.parts if part.device != GROUND_SYMBOL}
    ends = {name: _ends(work, part) for name, part in left.items()}

    def stack(first: str) -> list[str]:
        column = [first]
        left.pop(first)
        while True:
            lower = ends[column[-1]][1]
            if _is_rail(lower):
                return column
            below = [n for n in left if ends[n] and ends[n][0] == lower]
            if not below:
                return column
            column.append(below[0])
            left.pop(below[0])

    for top in (lambda upper: is_supply(upper), lambda upper: True):
        for name in [n for n in left if ends[n] and top(ends[n][0])]:
            if name in left and not _is_source(work, left[name]):
                work.columns.append(stack(name))
    work.columns += [[name] for name in left]
    _order(work)


def _is_source(work: Places, part: Part) -> bool:
    """A source to ground stands by itself at the left."""
    return _kind(work, part) in ("V", "I") and GROUND in (work.nets[part.name, "p"], work.nets[part.name, "n"])


def _order(work: Places) -> None:
    """Sources first, then columns by how far their inputs are from what drives the cell."""
    parts = {part.name: part for part in work.parts}
    known = {pin.name.lower() for pin in work.pins if pin.kind in ("input", "inout")}
    sources = [column for column in work.columns if _is_source(work, parts[column[0]])]
    rest = [column for column in work.columns if column not in sources]
    known |= {work.nets[column[0], t] for column in sources for t in ("p", "n")}
    ordered = []
    while rest:
        best = max(rest, key=lambda column: _readiness(work, parts, column, known))
        rest.remove(best)
        ordered.append(best)
        known |= {net for name in best for net in _nets_of(work, parts[name]) if not _is_rail(net)}
    work.columns = [*sources, *ordered]


def _nets_of(work: Places, part: Part) -> list[str]:
    return [work.nets[part.name, name] for name, _ in work.library.terminals(part)]


def _readiness(work: Places, parts: Mapping[str, Part], column: list[str], known: set[str]) -> float:
    """How much of what controls a column is there already."""
    controls = [
        work.nets[name, terminal]
        for name in column
        for terminal, _ in work.library.terminals(parts[name])
        if terminal in INPUTS and not (terminal == "b" and _kind(work, parts[name]) == "M")
    ]
    controls = [net for net in controls if not _is_rail(net)]
    share = sum(net in known for net in controls) / len(controls) if controls else 0.4
    touching = sum(net in known for name in column for net in _nets_of(work, parts[name]))
    return share + 0.01 * touching


def _placed(work: Places) -> tuple[Part, ...]:
    parts = {part.name: part for part in work.parts}
    tallest = max((len(column) for column in work.columns), default=1)
    found = []
    for k, column in enumerate(work.columns):
        ends = _ends(work, parts[column[0]])
        hangs = ends is not None and is_supply(ends[0])
        start = 0 if hangs else tallest - len(column)
        for row, name in enumerate(column):
            found.append(_upright(work, replace(parts[name], at=(ACROSS * k, DOWN * (start + row)))))
    return tuple(found)


def _upright(work: Places, part: Part) -> Part:
    """A two-terminal part with the net that is nearer to the supply at its upper end."""
    two = len(work.library.terminals(part)) == 2
    return replace(part, turn=2) if two and is_supply(work.nets.get((part.name, "n"), "")) else part


# -- pins and rails


def _with_pins(cell: Cell, work: Places) -> Cell:
    places = _places(cell, work)
    right = max((x for x, _ in places.values()), default=0)
    top = min((y for _, y in places.values()), default=0)
    bottom = max((y for _, y in places.values()), default=0)
    pins, taken = [], set()
    for pin in work.pins:
        ys = [place[1] for key, place in places.items() if work.nets[key] == pin.name.lower()] or [0]
        if pin.kind == "supply":
            at = (4 * len(pins), top - 10)
        elif pin.kind == "ground":
            at = (4 * len(pins), bottom + 10)
        elif pin.kind == "output":
            at = (right + 12, ys[-1])
        else:
            at = (-12, ys[0])
        while at in taken:
            at = (at[0], at[1] + 3)
        taken.add(at)
        pins.append(replace(pin, at=at))
    return replace(cell, pins=tuple(pins))


def _places(cell: Cell, work: Places) -> dict[tuple[str, str], Point]:
    return {
        (part.name, name): place
        for part in cell.parts
        for name, place in terminal_points(part, work.library.terminals(part)).items()
    }


def _with_bulks(cell: Cell, work: Places) -> Cell:
    """Bulks: wired to their source where it is the same net, else named at the side."""
    wires, labels, parts = list(cell.wires), list(cell.labels), list(cell.parts)
    places = _places(cell, work)
    for part in cell.parts:
        if (part.name, "b") not in work.nets or _kind(work, part) != "M":
            continue
        bulk, at = work.nets[part.name, "b"], places[part.name, "b"]
        tied = next((t for t in ("s", "d") if work.nets[part.name, t] == bulk), None)
        if tied:
            wires.append(Wire((at, places[part.name, tied])))
            continue
        side = (at[0] + 3, at[1])
        wires.append(Wire((at, side)))
        if bulk == GROUND:
            parts.append(Part(free_name((p.name for p in parts), "GND1"), GROUND_SYMBOL, side, 3))
        else:
            labels.append(Label(bulk, side))
    return replace(cell, wires=tuple(wires), labels=tuple(labels), parts=tuple(parts))


def _with_rails(cell: Cell, work: Places) -> Cell:
    """A mark at every terminal on ground or a supply; marks at a short lead, up or down."""
    wires, labels, parts = list(cell.wires), list(cell.labels), list(cell.parts)
    by_name = {part.name: part for part in cell.parts}
    for (name, terminal), at in _places(cell, work).items():
        if name not in by_name or (name, terminal) not in work.nets:
            continue
        net = work.nets[name, terminal]
        if not (net == GROUND or is_supply(net)) or (terminal == "b" and _kind(work, by_name[name]) == "M"):
            continue
        dx, dy = at[0] - by_name[name].at[0], at[1] - by_name[name].at[1]
        sideways = abs(dx) > abs(dy)
        step = (3 if dx > 0 else -3) if sideways else 0
        end = (at[0] + step, at[1]) if sideways else (at[0], at[1] + (3 if net == GROUND else -3))
        blocked = not sideways and (dy < 0) == (net == GROUND)
        if blocked:  # the mark would lie on the part: lead it to the side
            end = (at[0] + 3, at[1])
        wires.append(Wire((at, end)))
        if net == GROUND:
            parts.append(Part(free_name((p.name for p in parts), "GND1"), GROUND_SYMBOL, end))
        else:
            labels.append(Label(net, end, "supply"))
    for pin in cell.pins:
        if is_supply(pin.name):
            wires.append(Wire((pin.at, (pin.at[0], pin.at[1] + 3))))
            labels.append(Label(pin.name.lower(), (pin.at[0], pin.at[1] + 3)))
    return replace(cell, wires=tuple(wires), labels=tuple(labels), parts=tuple(parts))


# -- signals


def _signal_nets(work: Places) -> list[str]:
    """Nets to be wired, those with the fewest terminals first."""
    count: dict[str, int] = {}
    for net in work.nets.values():
        count[net] = count.get(net, 0) + 1
    named = {pin.name.lower() for pin in work.pins}
    wanted = [n for n in count if n != GROUND and not is_supply(n) and (count[n] > 1 or n in named)]
    return sorted(wanted, key=lambda net: count[net])


class _Signals:
    """Wires signal nets one after the other; knows whose each wire and each anchor is, so that none touches another."""

    def __init__(self, cell: Cell, work: Places):
        self.cell, self.work = cell, work
        self.places = _places(cell, work)
        net_at = {place: work.nets[key] for key, place in self.places.items() if key in work.nets}
        net_at |= {part.at: GROUND for part in cell.parts if part.device == GROUND_SYMBOL}
        net_at |= {pin.at: pin.name.lower() for pin in cell.pins} | {one.at: one.net.lower() for one in cell.labels}
        self.anchors = list(net_at.items())
        self.wires = [(w, net_at.get(w.points[0], net_at.get(w.points[-1], ""))) for w in cell.wires]
        self.bodies = [body_box(part, work.library) for part in cell.parts]
        self.pins = {pin.at for pin in cell.pins}
        self.labels = list(cell.labels)
        kinds = {part.name: _kind(work, part) for part in work.parts}
        self.ends: dict[str, list[Point]] = {}
        for key, net in work.nets.items():
            if key in self.places and not (key[1] == "b" and kinds[key[0]] == "M"):
                self.ends.setdefault(net, []).append(self.places[key])
        for pin in cell.pins:
            self.ends.setdefault(pin.name.lower(), []).append(pin.at)

    def join(self, net: str) -> None:
        """Wires a net where its ways are short; names its ends where they would be long."""
        ends = list(dict.fromkeys(self.ends.get(net, ())))
        if len(ends) > MOST_WIRED:
            self._name(net, ends)
            return
        done, todo = ends[:1], ends[1:]
        while todo:
            _, a, b = min((_distance(a, b), a, b) for a in done for b in todo)
            way = route(a, b, self._field(net, (a, b)))
            length = sum(_distance(p, q) for p, q in pairwise(way)) + BEND * (len(way) - 2)
            if length > LONGEST or any(p[0] != q[0] and p[1] != q[1] for p, q in pairwise(way)):
                self._name(net, [a, *todo])
                return
            self.wires.append((Wire(way), net))
            todo.remove(b)
            done.append(b)
        self._mark(net)

    def _field(self, net: str, places: tuple[Point, ...]) -> Field:
        field = Field(region_of(places))
        field.block(at for at, other in self.anchors if other != net)
        for wire, other in self.wires:
            if other != net:
                field.add_wire(wire.points)
        for box in self.bodies:
            field.add_body(box)
        return field

    def _name(self, net: str, ends: Iterable[Point]) -> None:
        """The name of a net at each of its ends."""
        named = [place for place in ends if place not in self.pins]
        self.labels += [Label(net, place) for place in named]
        self.anchors += [(place, net) for place in named]

    def _mark(self, net: str) -> None:
        """The name of a wired net on its longest level piece, where nothing else passes; unless a pin says it, or no person
        gave it."""
        if any(at in self.pins for at in self.ends.get(net, ())) or _NAMELESS.fullmatch(net):
            return
        pieces = [(a, b) for w, other in self.wires if other == net for a, b in pairwise(w.points) if a[1] == b[1]]
        if not pieces:
            self._name(net, self.ends[net][:1])
            return
        a, b = max(pieces, key=lambda piece: abs(piece[0][0] - piece[1][0]))
        field = self._field(net, (a, b))
        middle = (a[0] + b[0]) // 2
        along = sorted(steps_between(a, b), key=lambda place: abs(place[0] - middle))
        free = [place for place in along if place not in field.passing and place not in field.blocked]
        self._name(net, free[:1])

    def done(self) -> Cell:
        """The wired cell."""
        return replace(self.cell, wires=tuple(wire for wire, _ in self.wires), labels=tuple(self.labels))


def _distance(a: Point, b: Point) -> int:
    return abs(a[0] - b[0]) + abs(a[1] - b[1])
