"""A cell: pins, parts, wires, labels and parameters, as drawn. All frozen; an edit makes a new cell."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from hearthline.core.circuit.symbols import Point

PIN_KINDS = ("input", "output", "inout", "supply", "ground")


@dataclass(frozen=True)
class Pin:
    """A connection to the outside; the net it lies on takes its name."""

    name: str
    kind: str
    at: Point
    turn: int = 0


@dataclass(frozen=True)
class Part:
    """A placed device, primitive, ground or block; `device` says which, `values` are expressions as typed."""

    name: str
    device: str
    at: Point
    turn: int = 0
    flip: bool = False
    values: Mapping[str, str] = field(default_factory=dict)

    def with_value(self, name: str, text: str) -> Part:
        """The same part with one value changed."""
        return replace(self, values={**self.values, name: text})


@dataclass(frozen=True)
class Wire:
    """A run of straight pieces through `points`."""

    points: tuple[Point, ...]


@dataclass(frozen=True)
class Label:
    """A name put on the net at a point."""

    net: str
    at: Point


@dataclass(frozen=True)
class Cell:
    """A drawn circuit. `parameters` are expressions with their defaults; pins are also its terminals as a block."""

    name: str
    pins: tuple[Pin, ...] = ()
    parts: tuple[Part, ...] = ()
    wires: tuple[Wire, ...] = ()
    labels: tuple[Label, ...] = ()
    parameters: Mapping[str, str] = field(default_factory=dict)
    note: str = ""

    def part(self, name: str) -> Part:
        """The part of that name; KeyError where there is none."""
        for part in self.parts:
            if part.name == name:
                return part
        raise KeyError(name)

    def with_part(self, new: Part) -> Cell:
        """The same cell with the part of that name exchanged."""
        return replace(self, parts=tuple(new if part.name == new.name else part for part in self.parts))


BLOCK_PITCH = 4


def block_terminals(cell: Cell) -> tuple[tuple[str, Point], ...]:
    """Terminals of `cell` as a block: inputs at the left, outputs at the right, supplies above, grounds below."""
    sides = {"input": [], "inout": [], "output": [], "supply": [], "ground": []}
    for pin in cell.pins:
        sides[pin.kind].append(pin.name)
    left, right = sides["input"] + sides["inout"], sides["output"]
    half = BLOCK_PITCH // 2
    placed = {name: (-2 * BLOCK_PITCH // 2, half * 2 * k) for k, name in enumerate(left)}
    placed |= {name: (BLOCK_PITCH, half * 2 * k) for k, name in enumerate(right)}
    bottom = BLOCK_PITCH * max(1, len(left), len(right))
    placed |= {name: (half * 2 * k, -BLOCK_PITCH) for k, name in enumerate(sides["supply"])}
    placed |= {name: (half * 2 * k, bottom) for k, name in enumerate(sides["ground"])}
    return tuple((pin.name, placed[pin.name]) for pin in cell.pins)
