"""A cell as a block: the body that is drawn for it, its terminals, and how body and pins drift apart and are mended."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

from hearthline.core.circuit.cell import Body, Cell
from hearthline.core.elements.kind import Point

LEAD, PITCH, HALF_WIDTH = 2, 4, 4
"""Grid steps from the box to a terminal, between two terminals of a side, and half the width of an ordinary box."""


def body_of(cell: Cell) -> Body:
    """The body of `cell`, the one that follows from its pins where it has none of its own."""
    return cell.body or default_body(cell)


def default_body(cell: Cell) -> Body:
    """Inputs at the left, outputs at the right, supplies above, grounds below."""
    sides = _sides(cell)
    tall = max(len(sides["left"]), len(sides["right"]), 1)
    wide = max(len(sides["above"]), len(sides["below"]), 1)
    half_width = max(HALF_WIDTH, PITCH // 2 * wide, 2 + math.ceil(0.36 * len(cell.name)))
    half_height = max(3, PITCH // 2 * tall)
    box = (-half_width, -half_height, half_width, half_height)
    places: dict[str, Point] = {}
    for side, names in sides.items():
        for k, name in enumerate(names):
            places[name] = _place(box, side, PITCH * k - PITCH * (len(names) - 1) // 2)
    return Body(box, {pin.name: places[pin.name] for pin in cell.pins})


def _sides(cell: Cell) -> dict[str, list[str]]:
    sides: dict[str, list[str]] = {"left": [], "right": [], "above": [], "below": []}
    for pin in cell.pins:
        sides[_SIDE_OF[pin.kind]].append(pin.name)
    return sides


_SIDE_OF = {"input": "left", "inout": "left", "output": "right", "supply": "above", "ground": "below"}


def _place(box: tuple[int, int, int, int], side: str, along: int) -> Point:
    left, top, right, bottom = box
    return {
        "left": (left - LEAD, along), "right": (right + LEAD, along),
        "above": (along, top - LEAD), "below": (along, bottom + LEAD),
    }[side]  # fmt: skip


def terminals_of_block(cell: Cell) -> tuple[tuple[str, Point], ...]:
    """Names and places of the pins that the body shows, in the order of the pins."""
    places = body_of(cell).places
    return tuple((pin.name, places[pin.name]) for pin in cell.pins if pin.name in places)


def pins_gained(cell: Cell) -> tuple[str, ...]:
    """Pins that the body does not show yet."""
    return tuple(pin.name for pin in cell.pins if pin.name not in body_of(cell).places)


def pins_lost(cell: Cell) -> tuple[str, ...]:
    """Places of the body whose pin the cell has no more."""
    known = {pin.name for pin in cell.pins}
    return tuple(name for name in body_of(cell).places if name not in known)


def mended(cell: Cell) -> Cell:
    """The cell with every new pin placed at the first free place of its side, and places of lost pins taken away."""
    body = body_of(cell)
    known = {pin.name: pin for pin in cell.pins}
    places = {name: place for name, place in body.places.items() if name in known}
    box = body.box
    for name in pins_gained(cell):
        side, taken = _SIDE_OF[known[name].kind], set(places.values())
        along = next(a for a in _outwards() if not any(_near(_place(box, side, a), other) for other in taken))
        box = _grown(box, side, along)
        places = {other: _pushed(place, body.box, box) for other, place in places.items()}
        places[name] = _place(box, side, along)
        body = replace(body, box=box)
    return replace(cell, body=replace(body, places={pin.name: places[pin.name] for pin in cell.pins}))


def _outwards() -> Iterator[int]:
    """0, 2, -2, 4, -4, ..."""
    yield 0
    step = 2
    while True:
        yield step
        yield -step
        step += 2


def _near(a: Point, b: Point) -> bool:
    return abs(a[0] - b[0]) + abs(a[1] - b[1]) < 2


def _grown(box: tuple[int, int, int, int], side: str, along: int) -> tuple[int, int, int, int]:
    """The box, large enough for a terminal at `along`."""
    left, top, right, bottom = box
    if side in ("left", "right"):
        return left, min(top, along - 1), right, max(bottom, along + 1)
    return min(left, along - 1), top, max(right, along + 1), bottom


def _pushed(place: Point, old: tuple[int, int, int, int], new: tuple[int, int, int, int]) -> Point:
    """A terminal that stays as far from its side of the box as it was when the box grows."""
    x, y = place
    x += new[0] - old[0] if x < old[0] else new[2] - old[2] if x > old[2] else 0
    y += new[1] - old[1] if y < old[1] else new[3] - old[3] if y > old[3] else 0
    return x, y
