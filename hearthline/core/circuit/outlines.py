"""Outlines of the symbols in grid steps, after the conventions of IEC 60617 and IEEE 315, in our own proportions."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cache

from hearthline.core.circuit.body import body_of
from hearthline.core.circuit.cell import Body, Cell, Part
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.elements.kind import Symbol

Place = tuple[float, float]
Line = tuple[Place, ...]
ARROW = 0.62


@dataclass(frozen=True)
class Outline:
    """What a symbol is drawn of: thin and heavy polylines, filled polygons, circles (x, y, radius), and words in it (x, y,
    text), which stay upright."""

    thin: tuple[Line, ...] = ()
    heavy: tuple[Line, ...] = ()
    filled: tuple[Line, ...] = ()
    circles: tuple[tuple[float, float, float], ...] = ()
    words: tuple[tuple[float, float, str], ...] = ()

    def line(self, *points: Place, heavy: bool = False) -> Outline:
        """With another polyline; `heavy` for plates and channels."""
        return replace(self, heavy=(*self.heavy, points)) if heavy else replace(self, thin=(*self.thin, points))

    def circle(self, x: float, y: float, radius: float) -> Outline:
        """With a circle around (x, y)."""
        return replace(self, circles=(*self.circles, (x, y, radius)))

    def box(self, left: float, top: float, right: float, bottom: float, heavy: bool = False) -> Outline:
        """With a rectangle."""
        corners = ((left, top), (right, top), (right, bottom), (left, bottom), (left, top))
        return self.line(*corners, heavy=heavy)

    def arrow(self, x: float, y: float, dx: float, dy: float, size: float = ARROW) -> Outline:
        """With a filled head whose tip is at (x, y), pointing along the unit vector (dx, dy)."""
        bx, by, sx, sy = x - size * dx, y - size * dy, -dy * size * 0.45, dx * size * 0.45
        return replace(self, filled=(*self.filled, ((x, y), (bx + sx, by + sy), (bx - sx, by - sy), (x, y))))

    def word(self, x: float, y: float, text: str) -> Outline:
        """With a word around (x, y)."""
        return replace(self, words=(*self.words, (x, y, text)))


def _arc(x: float, y: float, radius: float, start: float, stop: float, pieces: int = 10) -> Line:
    angles = [math.radians(start + (stop - start) * k / pieces) for k in range(pieces + 1)]
    return tuple((x + radius * math.cos(a), y + radius * math.sin(a)) for a in angles)


def _leads() -> Outline:
    return Outline().line((0, -2), (0, -1.3)).line((0, 1.3), (0, 2))


def _mos(n: bool) -> Outline:
    shape = Outline().line((-2, 0), (-0.55, 0)).line((-0.55, -1.25), (-0.55, 1.25), heavy=True)
    for top, bottom in ((-1.55, -0.75), (-0.4, 0.4), (0.75, 1.55)):
        shape = shape.line((0, top), (0, bottom), heavy=True)
    shape = shape.line((0, -1.15), (2, -1.15), (2, -2)).line((0, 1.15), (2, 1.15), (2, 2)).line((0, 0), (2, 0))
    return shape.arrow(0.12, 0, -1, 0) if n else shape.arrow(0.95, 0, 1, 0)


def _bipolar(n: bool) -> Outline:
    shape = Outline().line((-2, 0), (-0.2, 0)).line((-0.2, -1.2), (-0.2, 1.2), heavy=True)
    shape = shape.line((-0.2, -0.5), (2, -1.5), (2, -2)).line((-0.2, 0.5), (2, 1.5), (2, 2))
    dx, dy = 0.9104, 0.4138
    return shape.arrow(1.45, 1.25, dx, dy) if n else shape.arrow(0.35, 0.75, -dx, -dy)


def _jfet(n: bool) -> Outline:
    shape = Outline().line((0, -1.5), (0, 1.5), heavy=True).line((-2, 0), (0, 0))
    shape = shape.line((0, -1.0), (2, -1.0), (2, -2)).line((0, 1.0), (2, 1.0), (2, 2))
    return shape.arrow(-0.1, 0, 1, 0) if n else shape.arrow(-0.9, 0, -1, 0)


def _tube() -> Outline:
    """A transistor whose channel is a tube."""
    shape = Outline().line((-2, 0), (-0.75, 0)).line((-0.75, -1.2), (-0.75, 1.2), heavy=True)
    shape = shape.box(-0.3, -1.4, 0.3, 1.4)
    return shape.line((0.3, -1.0), (2, -1.0), (2, -2)).line((0.3, 1.0), (2, 1.0), (2, 2))


def _diode() -> Outline:
    shape = Outline().line((0, -2), (0, -0.7)).line((0, 0.6), (0, 2)).line((-0.8, 0.6), (0.8, 0.6), heavy=True)
    return shape.line((-0.8, -0.7), (0.8, -0.7), (0, 0.6), (-0.8, -0.7))


def _resistor() -> Outline:
    return _leads().box(-0.5, -1.3, 0.5, 1.3)


def _capacitor() -> Outline:
    shape = Outline().line((0, -2), (0, -0.25)).line((0, 0.25), (0, 2))
    return shape.line((-1, -0.25), (1, -0.25), heavy=True).line((-1, 0.25), (1, 0.25), heavy=True)


def _coil() -> Outline:
    points = [(0.0, -2.0)]
    for k in range(4):
        points += _arc(0, -1.2 + 0.8 * k, 0.4, -90, 90, 8)
    return Outline().line(*points, (0.0, 2.0))


def _memory() -> Outline:
    """A resistor with a meander in it: it remembers."""
    meander = (
        (0, -1.3),
        (0, -0.9),
        (0.3, -0.9),
        (0.3, -0.3),
        (-0.3, -0.3),
        (-0.3, 0.3),
        (0.3, 0.3),
        (0.3, 0.9),
        (0, 0.9),
    )
    return _resistor().line(*meander, (0, 1.3)).line((-0.5, 1.1), (0.5, 1.1), heavy=True)


def _source(mark: str) -> Outline:
    shape = Outline().line((0, -2), (0, -1.2)).line((0, 1.2), (0, 2)).circle(0, 0, 1.2)
    if mark == "voltage":
        return shape.line((0, -1.2), (0, 1.2)).line((0.6, -1.75), (1.1, -1.75)).line((0.85, -2.0), (0.85, -1.5))
    return shape.line((-1.2, 0), (1.2, 0)).arrow(0.0, 1.95, 0, 1)


def _controlled(mark: str, at: float) -> Outline:
    """A diamond at x = `at`, as controlled sources are."""
    shape = Outline().line((at, -2), (at, -1.2)).line((at, 1.2), (at, 2))
    shape = shape.line((at, -1.2), (at + 1, 0), (at, 1.2), (at - 1, 0), (at, -1.2))
    if mark == "voltage":
        return (
            shape.line((at, -1.2), (at, 1.2))
            .line((at + 0.5, -1.75), (at + 1, -1.75))
            .line((at + 0.75, -2.0), (at + 0.75, -1.5))
        )
    return shape.line((at - 1, 0), (at + 1, 0)).arrow(at, 1.95, 0, 1)


def _with_input(shape: Outline) -> Outline:
    """The two terminals of a controlling voltage, with their signs."""
    shape = (
        shape.line((-2, -2), (-1.2, -2), (-1.2, -1.3)).line((-2, 2), (-1.2, 2), (-1.2, 1.3)).circle(-1.2, -1.2, 0.12)
    )
    shape = shape.circle(-1.2, 1.2, 0.12).line((-1.9, -1.2), (-1.5, -1.2)).line((-1.7, -1.4), (-1.7, -1.0))
    return shape.line((-1.9, 1.2), (-1.5, 1.2))


def _switch() -> Outline:
    shape = Outline().line((2, -2), (2, -0.9)).line((2, 0.9), (2, 2)).line((2, 0.9), (1.1, -0.75)).circle(2, -0.8, 0.12)
    shape = shape.line((-0.6, 0), (0.2, 0)).line((0.6, 0), (1.4, 0)).box(-1.6, -0.8, -0.6, 0.8)
    return shape.line((-2, -2), (-1.1, -2), (-1.1, -0.8)).line((-2, 2), (-1.1, 2), (-1.1, 0.8))


def _line() -> Outline:
    shape = Outline().box(-2.6, -2.5, 2.6, -1.5).box(-2.6, 1.5, 2.6, 2.5)
    for y in (-2, 2):
        shape = shape.line((-4, y), (-2.6, y)).line((2.6, y), (4, y))
    return shape


def _coupling() -> Outline:
    return (
        Outline()
        .line(*_arc(0, 0, 1.2, 200, 340))
        .arrow(-1.13, -0.41, -0.34, 0.94, 0.5)
        .arrow(1.13, -0.41, 0.34, 0.94, 0.5)
    )


def _ground() -> Outline:
    shape = Outline().line((0, 0), (0, 1)).line((-1.1, 1), (1.1, 1), heavy=True)
    return shape.line((-0.7, 1.4), (0.7, 1.4)).line((-0.3, 1.8), (0.3, 1.8))


def _varactor() -> Outline:
    return _capacitor().line((-1.1, 0.9), (0.85, -0.85)).arrow(1.1, -1.07, 0.7526, -0.6585, 0.5)


_OUTLINES = {
    "NMOS": lambda: _mos(True),
    "PMOS": lambda: _mos(False),
    "NPN": lambda: _bipolar(True),
    "PNP": lambda: _bipolar(False),
    "NJF": lambda: _jfet(True),
    "PJF": lambda: _jfet(False),
    "tube": _tube,
    "D": _diode,
    "resistor": _resistor,
    "strip resistor": _resistor,
    "capacitor": _capacitor,
    "plate capacitor": _capacitor,
    "varactor": _varactor,
    "inductor": _coil,
    "spiral": lambda: _coil().line((0.8, -1.6), (0.8, 1.6)),
    "memory": _memory,
    "voltage source": lambda: _source("voltage"),
    "current source": lambda: _source("current"),
    "voltage-controlled voltage": lambda: _with_input(_controlled("voltage", 2)),
    "voltage-controlled current": lambda: _with_input(_controlled("current", 2)),
    "current-controlled voltage": lambda: _controlled("voltage", 0),
    "current-controlled current": lambda: _controlled("current", 0),
    "switch": _switch,
    "transmission line": _line,
    "coupling": _coupling,
    GROUND_SYMBOL: _ground,
}
_LIKE = {
    "diode": "D", "bipolar": "NPN", "jfet": "NJF", "mesfet": "NJF", "hemt": "NJF", "nanotube": "tube", "mos1": "NMOS",
    "mos": "NMOS", "mos_hot": "NMOS", "memristor": "memory", "peak_switch": "memory", "cnt_fet": "tube",
}  # fmt: skip
"""Modules whose names the trade draws in a certain way."""


@cache
def outline_named(name: str) -> Outline | None:
    """The outline of a primitive by its symbol name, None where there is none of that name."""
    make = _OUTLINES.get(_LIKE.get(name, name))
    return make() if make else None


def outline_of(part: Part, library: Library) -> Outline:
    """How a part is drawn, before it is turned and moved."""
    if not library.knows(part):
        return outline_unknown()
    symbol = library.symbol(part)
    if symbol is None:
        return outline_named(GROUND_SYMBOL)
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
