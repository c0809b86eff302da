"""Adds to a drawing: wires that find their way, parts that cut the wire they are dropped on, marks; and takes away."""

from __future__ import annotations

from dataclasses import replace

from hearthline.core.circuit.cell import Cell, Label, Note, Part, Pin, Wire
from hearthline.core.circuit.edit.move import anchors, body_box, terminals_of, tidied
from hearthline.core.circuit.edit.picked import Picked
from hearthline.core.circuit.edit.route import Field, Way, region_of, route
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.nets import WireIndex, islands, terminal_points
from hearthline.core.elements.kind import Point


def field_around(cell: Cell, library: Library, own: tuple[Point, ...], places: tuple[Point, ...] = ()) -> Field:
    """What a wire that joins the places in `own` must keep away from, in the region of `places` that it runs between."""
    joined = islands(cell, {part.name: terminals_of(library, part) for part in cell.parts})
    index = WireIndex(cell.wires)
    for point in own:
        for piece in index.through(point):
            joined.join(piece[0], point)
    nets = {joined.root(point) for point in own}
    field = Field(region_of(places or own))
    field.block(at for at in anchors(cell, library).values() if joined.root(at) not in nets)
    for wire in cell.wires:
        if joined.root(wire.points[0]) not in nets:
            field.add_wire(wire.points)
    for part in cell.parts:
        field.add_body(body_box(part, library))
    return field


def way_between(cell: Cell, start: Point, end: Point, library: Library) -> Way:
    """A way for a wire from one place to another, around everything else."""
    return route(start, end, field_around(cell, library, (start, end)))


def wired(cell: Cell, start: Point, end: Point, library: Library) -> Cell:
    """The cell with a wire that finds its way."""
    return with_wire(cell, way_between(cell, start, end, library), library)


def with_wire(cell: Cell, way: Way, library: Library) -> Cell:
    """The cell with a wire along `way`."""
    return tidied(replace(cell, wires=(*cell.wires, Wire(way))), library)


def with_part(cell: Cell, part: Part, library: Library) -> Cell:
    """The cell with a new part; a wire that runs straight from one of its terminals to another is cut there."""
    new = tidied(replace(cell, parts=(*cell.parts, part)), library)
    points = set(terminal_points(part, terminals_of(library, part)).values())
    bridged = [wire for wire in new.wires if len(wire.points) == 2 and set(wire.points) <= points]
    return replace(new, wires=tuple(wire for wire in new.wires if wire not in bridged))


def with_items(cell: Cell, library: Library, *items: Pin | Label | Note) -> Cell:
    """The cell with further pins, labels and notes."""
    new = replace(
        cell,
        pins=(*cell.pins, *(item for item in items if isinstance(item, Pin))),
        labels=(*cell.labels, *(item for item in items if isinstance(item, Label))),
        notes=(*cell.notes, *(item for item in items if isinstance(item, Note))),
    )
    return tidied(new, library)


def without(cell: Cell, picked: Picked, library: Library) -> Cell:
    """The cell without what was picked."""
    new = replace(
        cell,
        parts=tuple(part for part in cell.parts if part not in picked),
        pins=tuple(pin for pin in cell.pins if pin not in picked),
        wires=tuple(wire for wire in cell.wires if wire not in picked),
        labels=tuple(label for label in cell.labels if label not in picked),
        notes=tuple(note for note in cell.notes if note not in picked),
    )
    return tidied(new, library)


def rerouted(cell: Cell, wires: frozenset[Wire], library: Library) -> Cell:
    """The cell with some of its wires led anew, from end to end, around what is there now."""
    for wire in wires:
        rest = replace(cell, wires=tuple(other for other in cell.wires if other != wire))
        ends = (wire.points[0], wire.points[-1])
        if wire in cell.wires and ends[0] != ends[1]:
            way = route(*ends, _field_of_net(cell, rest, ends[0], library))
            cell = tidied(replace(rest, wires=(*rest.wires, Wire(way))), library)
    return cell


def _field_of_net(cell: Cell, rest: Cell, place: Point, library: Library) -> Field:
    """What a wire of the net at `place` must keep away from; the net is that of `cell`, the wires those of `rest`."""
    joined = islands(cell, {part.name: terminals_of(library, part) for part in cell.parts})
    net = joined.root(place)
    field = Field()
    field.block(at for at in anchors(cell, library).values() if joined.root(at) != net)
    for wire in rest.wires:
        if joined.root(wire.points[0]) != net:
            field.add_wire(wire.points)
    for part in cell.parts:
        field.add_body(body_box(part, library))
    return field
