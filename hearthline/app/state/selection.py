"""What is selected on the drawing, as panels speak of it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from hearthline.core.circuit.edit.picked import Picked
from hearthline.core.elements.kind import Point


@dataclass(frozen=True)
class Selection:
    """What is selected on the drawing: a `part`, a `pin` or a `net`, by name; nothing where the kind is empty."""

    kind: str = ""
    name: str = ""


def selection_of(picked: Picked, net_at: Callable[[Point], str]) -> Selection:
    """What panels show of what is picked; `net_at` tells the net of the end of a wire."""
    if len(picked) != 1:
        nets = {net_at(wire.points[0]) for wire in picked.wires}
        if len(nets) == 1 and len(picked.wires) == len(picked):
            return Selection("net", nets.pop())
        return Selection("several", "") if picked else Selection()
    if picked.parts:
        return Selection("part", next(iter(picked.parts)))
    if picked.pins:
        return Selection("pin", next(iter(picked.pins)))
    if picked.notes:
        return Selection("note", next(iter(picked.notes)).text)
    if picked.labels:
        return Selection("label", next(iter(picked.labels)).net)
    return Selection("net", net_at(next(iter(picked.wires)).points[0]))


def picked_by_name(kind: str, name: str) -> Picked:
    """A part or pin as what is picked; a net is not picked by its name."""
    found = {"part": Picked(parts=frozenset((name,))), "pin": Picked(pins=frozenset((name,)))}
    return found.get(kind, Picked())
