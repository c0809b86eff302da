"""What each drawable part is: its terminals on the grid, and the values it takes.

Positions are in grid steps relative to the part's origin, y downwards; the drawing of the symbol itself is the
canvas's business. Graphic conventions after IEC 60617 and IEEE 315 in our own proportions.
"""

from __future__ import annotations

from collections.abc import Mapping

from hearthline.core.elements import ELEMENTS
from hearthline.core.elements.kind import PARALLEL, Point, Symbol, ValueField
from hearthline.core.models.module import Module
from hearthline.core.registry import Derived

SYMBOLS: Mapping[str, Symbol] = Derived(
    ELEMENTS, lambda: {name: symbol for one in ELEMENTS.values() for name, symbol in one.symbols.items()}
)
"""Drawable primitives by the name that a cell file gives them; kit devices use the entry of their model type."""

GROUND_SYMBOL = "ground"
_FIELD_UNITS = {"Ohm": "Ω", "m": "m", "V": "V", "A": "A", "F": "F", "H": "H", "s": "s"}
_LIKE_A_TRANSISTOR = {"d": (2, -2), "c": (2, -2), "g": (-2, 0), "b": (2, 0), "s": (2, 2), "e": (2, 2)}


def symbol_of_module(module: Module) -> Symbol:
    """A symbol for a Verilog-A module from its ports: two above each other with what lies below them at the side, a
    transistor's as a transistor's are, others along both sides of a box."""
    ports = module.port_names
    places = dict(_LIKE_A_TRANSISTOR)
    if "c" in ports:
        places["b"] = (-2, 0)
    if len(ports) == 2:
        terminals = tuple(zip(ports, ((0, -2), (0, 2)), strict=True))
    elif len(ports) == 3 and ports[:2] == ("p", "n"):
        terminals = tuple(zip(ports, ((0, -2), (0, 2), (2, 0)), strict=True))
    elif len(ports) <= 4 and all(port in places for port in ports):
        terminals = tuple((port, places[port]) for port in ports)
    else:
        terminals = tuple((port, (-2 if k % 2 == 0 else 2, 2 * (k // 2) - 2)) for k, port in enumerate(ports))
    marked = [p for p in module.parameters if p.instance] or list(module.parameters)
    fields = tuple(
        ValueField(p.name, _FIELD_UNITS.get(p.unit, ""), p.meaning, optional=True) for p in marked if p.type != "string"
    )
    return Symbol("X", terminals, (*fields, PARALLEL), True)


def place_terminal(at: Point, turn: int, flip: bool, offset: Point) -> Point:
    """Where a place of a symbol lies, such as a terminal: flip left to right first, then `turn` quarter turns clockwise, then
    moved to `at`."""
    x, y = offset
    if flip:
        x = -x
    for _ in range(turn % 4):
        x, y = -y, x
    return at[0] + x, at[1] + y
