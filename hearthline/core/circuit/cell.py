"""A cell: pins, parts, wires, labels and parameters, as drawn. All frozen; an edit makes a new cell."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

from hearthline.core import limits
from hearthline.core.elements.kind import Point

PIN_KINDS = ("input", "output", "inout", "supply", "ground")
LABEL_KINDS = ("name", "supply")
BODY_SHAPES = ("box", "amplifier")
ARRAY = re.compile(r"(.+)\[(\d+)\]")


@dataclass(frozen=True)
class Pin:
    """A connection to the outside; the net it lies on takes its name."""

    name: str
    kind: str
    at: Point
    turn: int = 0


@dataclass(frozen=True)
class Part:
    """A placed device, primitive, ground or block; `device` says which, `values` are expressions as typed, `open` names
    terminals that are meant to stay without a connection."""

    name: str
    device: str
    at: Point
    turn: int = 0
    flip: bool = False
    values: Mapping[str, str] = field(default_factory=dict)
    open: tuple[str, ...] = ()

    @property
    def instances(self) -> tuple[str, ...]:
        """Names of the devices that it stands for: itself, or `M1[1]` to `M1[4]` of `M1[4]`, all in parallel; one more than
        are allowed, of more."""
        match = ARRAY.fullmatch(self.name)
        if not match:
            return (self.name,)
        return tuple(f"{match[1]}[{k}]" for k in range(1, min(int(match[2][:9]), limits.COPIES + 1) + 1))

    def with_value(self, name: str, text: str) -> Part:
        """The same part with one value changed."""
        return replace(self, values={**self.values, name: text})


@dataclass(frozen=True)
class Wire:
    """A run of straight pieces through `points`."""

    points: tuple[Point, ...]


@dataclass(frozen=True)
class Label:
    """A name put on the net at a point: a plain `name`, or the bar of a `supply`."""

    net: str
    at: Point
    kind: str = "name"


@dataclass(frozen=True)
class Note:
    """Text on the drawing; what stands in braces is a formula of the operating point: `gain {m1.gm / m1.gds}`."""

    text: str
    at: Point


@dataclass(frozen=True)
class Body:
    """How a cell looks as a block: its box (left, top, right, bottom), where the terminal of each pin lies, the outline
    (`box` or `amplifier`, a triangle that points right) and what is written in it (the cell's name where empty)."""

    box: tuple[int, int, int, int]
    places: Mapping[str, Point]
    shape: str = "box"
    label: str = ""


@dataclass(frozen=True)
class Cell:
    """A drawn circuit. `parameters` are expressions with their defaults; pins are also its terminals as a block, placed by
    `body`, or by a rule where it has none."""

    name: str
    pins: tuple[Pin, ...] = ()
    parts: tuple[Part, ...] = ()
    wires: tuple[Wire, ...] = ()
    labels: tuple[Label, ...] = ()
    parameters: Mapping[str, str] = field(default_factory=dict)
    note: str = ""
    notes: tuple[Note, ...] = ()
    body: Body | None = None

    def part(self, name: str) -> Part:
        """The part of that name; KeyError where there is none."""
        for part in self.parts:
            if part.name == name:
                return part
        raise KeyError(name)

    def with_part(self, new: Part) -> Cell:
        """The same cell with the part of that name exchanged."""
        return replace(self, parts=tuple(new if part.name == new.name else part for part in self.parts))
