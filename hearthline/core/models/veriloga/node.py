"""What the graph of a module is made of: values, the regions that they live in, and what they are differentiated by."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any


class Region:
    """Where values live: the whole of an evaluation, one side of a condition, or the body of a loop."""

    def __init__(self, parent: Region | None = None, owner: object = None):
        self.parent, self.owner = parent, owner
        self.depth: int = 0 if parent is None else parent.depth + 1

    def inside(self, other: Region) -> bool:
        """Whether values of `other` can be seen from here."""
        region: Region | None = self
        while region is not None:
            if region is other:
                return True
            region = region.parent
        return False


class Node:
    """One value."""

    __slots__ = ("args", "high", "level", "low", "number", "op", "region", "seeds", "slopes", "whole")

    def __init__(
        self, op: str, args: tuple[Any, ...], level: int, seeds: int, whole: bool, region: Region,
        bounds: tuple[float, float], number: int,
    ) -> None:  # fmt: skip
        self.op, self.args, self.level, self.seeds, self.whole = op, args, level, seeds, whole
        self.region, self.number = region, number
        self.low, self.high = bounds
        self.slopes: dict[int, Node | None] = {}

    @property
    def constant(self) -> bool:
        """Whether it is a number."""
        return self.op == "const"

    @property
    def value(self) -> Any:
        """The number that a constant is."""
        return self.args[0]

    @property
    def operands(self) -> tuple[Node, ...]:
        """The nodes it is computed from."""
        return tuple(a for a in self.args if isinstance(a, Node))

    def __repr__(self) -> str:
        return f"{self.number}:{self.op}"


@dataclass(eq=False)
class Branching:
    """A condition of level 2, or one that decides about values of level 2, with the regions of its two sides."""

    condition: Node
    region: Region
    yes: Region = field(init=False)
    no: Region = field(init=False)

    def __post_init__(self) -> None:
        self.yes, self.no = Region(self.region, self), Region(self.region, self)


@dataclass(eq=False)
class Loop:
    """A loop whose number of turns is not known: variables carried from turn to turn, and the condition to go on.

    `carried[k]` is (variable node, first value, next value).
    """

    region: Region
    level: int
    body: Region = field(init=False)
    condition: Node | None = None
    carried: list[list[Node | None]] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.body = Region(self.region, self)


@dataclass(frozen=True)
class Probe:
    """A seed: the difference of two unknowns, as indices of terminals, -1 for ground."""

    plus: int
    minus: int = -1


@dataclass(frozen=True)
class Limited:
    """A seed: a value that Newton's step is limited in. `value` is the unlimited one, `at` what the equations are
    linearised at, worked out from it and from what place `memory` remembers of the last iteration; all of it in `region`."""

    kind: str
    value: Node
    arguments: tuple[Node, ...]
    at: Node
    memory: int
    region: Region
