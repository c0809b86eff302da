"""Wires that end in the open, terminals without a connection, nets with two names, marks that touch nothing."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator

from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.nets import WireIndex
from hearthline.core.circuit.rules.finding import ERROR, WARNING, CheckedDrawing, Finding
from hearthline.core.circuit.symbols import GROUND_SYMBOL


def dangling_wires(drawing: CheckedDrawing) -> Iterator[Finding]:
    """A wire whose end touches nothing."""
    cell = drawing.cell
    index = WireIndex(cell.wires)
    tied = {*drawing.terminals.values(), *(pin.at for pin in cell.pins), *(label.at for label in cell.labels)}
    for wire in cell.wires:
        for place in {wire.points[0], wire.points[-1]}:
            pieces = index.through(place)
            if place not in tied and len(pieces) < 2:
                net = drawing.connections.at.get(place, "") if drawing.connections else ""
                yield Finding(
                    "loose wire", WARNING,
                    f"a wire{f' of net {net}' if net else ''} ends in the open; draw it on to something or delete it",
                    net=net, places=(place,),
                )  # fmt: skip


def dangling_terminals(drawing: CheckedDrawing) -> Iterator[Finding]:
    """A terminal or pin that nothing touches, unless it is marked as meant to be open."""
    cell = drawing.cell
    index = WireIndex(cell.wires)
    count = Counter([*drawing.terminals.values(), *(p.at for p in cell.pins), *(one.at for one in cell.labels)])
    parts = {part.name: part for part in cell.parts}

    def alone(place: tuple[int, int]) -> bool:
        return count[place] == 1 and not index.through(place)

    for (name, terminal), place in drawing.terminals.items():
        part = parts[name]
        if terminal in part.open or not alone(place):
            continue
        if part.device == GROUND_SYMBOL:
            yield Finding(
                "loose mark", WARNING, f"{name} grounds nothing; move it to a net or delete it", name, "", (place,)
            )
        else:
            yield Finding(
                "open terminal", WARNING,
                f"{name}: terminal {terminal} is not connected; wire it, or mark it as left open", name, "", (place,),
                "open", f"{name}.{terminal}",
            )  # fmt: skip
    for name, place in [(pin.name, pin.at) for pin in cell.pins if alone(pin.at)]:
        if not any(label.net.lower() == name.lower() for label in cell.labels):
            yield Finding(
                "loose pin", WARNING, f"pin {name} is not connected; wire it or delete it", name, name, (place,)
            )
    for label in cell.labels:
        if alone(label.at):
            yield Finding(
                "loose mark", WARNING, f"the name {label.net} touches nothing; move it to a wire or delete it", "",
                label.net, (label.at,),
            )  # fmt: skip


def two_names(drawing: CheckedDrawing) -> Iterator[Finding]:
    """A net that is called two things."""
    first: dict = {}
    for name, place in _names(drawing.cell):
        root = drawing.joined.root(place)
        other, at = first.setdefault(root, (name, place))
        if other.lower() != name.lower():
            shown = [("ground" if one == "0" else f"'{one}'") for one in (other, name)]
            yield Finding(
                "two names", ERROR, f"one net is called {shown[0]} and {shown[1]}; take one name away or cut the wire",
                "", other, (at, place),
            )  # fmt: skip


def _names(cell: Cell) -> list[tuple[str, tuple[int, int]]]:
    grounds = [("0", part.at) for part in cell.parts if part.device == GROUND_SYMBOL]
    return grounds + [(pin.name, pin.at) for pin in cell.pins] + [(label.net, label.at) for label in cell.labels]


def shorted_parts(drawing: CheckedDrawing) -> Iterator[Finding]:
    """A part all of whose terminals are on one net, drawn so by mistake."""
    places = defaultdict(list)
    for (name, _), place in drawing.terminals.items():
        places[name].append(place)
    for name, ends in places.items():
        if len(ends) > 1 and len({drawing.joined.root(place) for place in ends}) == 1:
            yield Finding(
                "shorted part", WARNING, f"{name}: all its terminals are on one net; does a wire run across it?",
                name, "", tuple(ends[:1]),
            )  # fmt: skip
