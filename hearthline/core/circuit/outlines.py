"""Outlines of the symbols in grid steps, after the conventions of IEC 60617 and IEEE 315, in our own proportions."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache

from hearthline.core.circuit.body import body_of
from hearthline.core.circuit.cell import Body, Cell, Part
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.elements import ELEMENTS
from hearthline.core.elements.kind import Symbol
from hearthline.core.elements.outline import Outline, Place
from hearthline.core.registry import Derived


def _ground() -> Outline:
    shape = Outline().line((0, 0), (0, 1)).line((-1.1, 1), (1.1, 1), heavy=True)
    return shape.line((-0.7, 1.4), (0.7, 1.4)).line((-0.3, 1.8), (0.3, 1.8))


_OUTLINES: Mapping[str, Outline] = Derived(
    ELEMENTS,
    lambda: (
        {name: one for kind in ELEMENTS.values() for name, one in kind.outlines.items()} | {GROUND_SYMBOL: _ground()}
    ),
)
_LIKE = {
    "diode": "D", "bipolar": "NPN", "jfet": "NJF", "mesfet": "NJF", "hemt": "NJF", "nanotube": "tube", "mos1": "NMOS",
    "mos": "NMOS", "mos_rf": "NMOS", "memristor": "memory", "peak_switch": "memory", "cnt_fet": "tube",
}  # fmt: skip
"""Modules whose names the trade draws in a certain way."""


def outline_named(name: str) -> Outline | None:
    """The outline of a primitive by its symbol name, None where there is none of that name."""
    return _OUTLINES.get(_LIKE.get(name, name))


def outline_of(part: Part, library: Library) -> Outline:
    """How a part is drawn, before it is turned and moved."""
    if not library.knows(part):
        return outline_unknown()
    symbol = library.symbol(part)
    if symbol is None:
        return _OUTLINES[GROUND_SYMBOL]
    if isinstance(symbol, Cell):
        return outline_of_block(symbol)
    name = library.devices.get(part.device, part.device)
    found = outline_named(name)
    return found if found and _fits(symbol, found) else outline_of_terminals(symbol)


def _fits(symbol: Symbol, outline: Outline) -> bool:
    """Whether an outline has a lead to each terminal."""
    ends = {point for line in outline.thin for point in (line[0], line[-1])}
    return all(place in ends for _, place in symbol.terminals)


@cache
def outline_unknown() -> Outline:
    """The outline of something that neither kit nor project has."""
    return Outline().box(-2, -2, 2, 2).line((-2, -2), (2, 2)).line((-2, 2), (2, -2))


@cache
def outline_of_terminals(symbol: Symbol) -> Outline:
    """A box with a lead to each terminal, for a module that has no symbol of its own."""
    xs, ys = ([place[k] for _, place in symbol.terminals] or [0] for k in (0, 1))
    right, bottom = max(1.2, max(xs) - 0.8), max(1.3, max(ys) - (0.7 if max(xs) == 0 else -0.8))
    shape = Outline().box(-right, min(-1.3, min(ys) + (0.7 if max(xs) == 0 else -0.8)), right, bottom)
    for name, (x, y) in symbol.terminals:
        edge = (max(-right, min(right, x)), y) if x else (0, max(-1.3, min(1.3, y)))
        shape = shape.line((x, y), edge)
        if x:
            shape = shape.word(edge[0] * 0.55, y, name)
    return shape.line((-right, bottom - 0.35), (right, bottom - 0.35))


def outline_of_block(cell: Cell) -> Outline:
    """The body of a cell: box or triangle, a lead and a name for each pin."""
    return _outline_of_body(cell.name, _Frozen(body_of(cell)))


class _Frozen:
    """A body as a key."""

    def __init__(self, body: Body):
        self.body, self._key = body, (body.box, tuple(body.places.items()), body.shape, body.label)

    def __hash__(self) -> int:
        return hash(self._key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Frozen) and self._key == other._key


@cache
def _outline_of_body(name: str, frozen: _Frozen) -> Outline:
    body = frozen.body
    left, top, right, bottom = body.box
    middle = (top + bottom) / 2
    shape = Outline()
    if body.shape == "amplifier":
        shape = shape.line((left, top), (right, middle), (left, bottom), (left, top))
    else:
        shape = shape.box(left, top, right, bottom)
    for pin, (x, y) in body.places.items():
        edge = _edge(body, x, y)
        shape = shape.line((x, y), edge) if edge != (x, y) else shape
        inward = (0.55 * len(pin) + 0.3) if x < left else -(0.55 * len(pin) + 0.3) if x > right else 0.0
        if body.shape == "box" or (x < left and sum(place[0] < left for place in body.places.values()) > 1):
            dy = 0.9 if y < top else -0.9 if y > bottom else 0.0
            shape = shape.word(edge[0] + inward / 1.6, edge[1] + dy, pin)
    return shape


def _edge(body: Body, x: float, y: float) -> Place:
    """Where the lead of a terminal meets the body."""
    left, top, right, bottom = body.box
    if body.shape == "amplifier" and x >= left:
        half, middle = (bottom - top) / 2, (top + bottom) / 2
        if y == middle:
            return (right, y) if x > right else (x, y)
        reach = half * (right - max(left, min(right, x))) / (right - left)
        return (x, middle - reach) if y < middle else (x, middle + reach)
    return max(left, min(right, x)), max(top, min(bottom, y))


@cache
def outline_of_pin(kind: str, letters: int = 3) -> Outline:
    """The flag of a pin with room for a name of some letters, the net at the origin; supplies are a bar, grounds a bar
    below."""
    if kind == "supply":
        return Outline().line((0, 0), (0, -0.8)).line((-1.5, -0.8), (1.5, -0.8), heavy=True)
    if kind == "ground":
        return Outline().line((0, 0), (0, 0.8)).line((-1.5, 0.8), (1.5, 0.8), heavy=True)
    long = max(2.8, 0.66 * letters + 1.2)
    if kind == "output":
        return Outline().line((0, 0), (0, -0.8), (long - 0.8, -0.8), (long, 0), (long - 0.8, 0.8), (0, 0.8), (0, 0))
    if kind == "inout":
        flag = ((0, 0), (-0.7, -0.8), (0.7 - long, -0.8), (-long, 0), (0.7 - long, 0.8), (-0.7, 0.8), (0, 0))
        return Outline().line(*flag)
    return Outline().line((0, 0), (-0.8, -0.8), (-long, -0.8), (-long, 0.8), (-0.8, 0.8), (0, 0))
