"""The state of working through one module: its graph, what each variable is at this point, and what has been gathered."""

from __future__ import annotations

import difflib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from hearthline.core import limits
from hearthline.core.models.veriloga.declarations import BranchKey, Declared, Terminal
from hearthline.core.models.veriloga.graph import Graph
from hearthline.core.models.veriloga.node import Branching, Node
from hearthline.core.models.veriloga.problems import TooLargeError, UnusableError
from hearthline.core.models.veriloga.quantity import Quantity, choose


@dataclass(frozen=True)
class Unset:
    """A variable that nothing has been assigned to, or only on one side of a condition (`line` of it)."""

    line: int = 0
    partly: Quantity | None = None


@dataclass(frozen=True)
class NoiseSource:
    """`white` or `flicker` noise as it was written; its density and exponent are in the environment."""

    name: str
    kind: str
    line: int


@dataclass(frozen=True)
class Message:
    """A `$strobe`, `$warning` or `$finish` with its format; its arguments are in the environment."""

    kind: str
    text: str
    arguments: int
    line: int


@dataclass
class Work:
    """What all stages share. `values` maps variables and gathered sums to what they are now; keys are names of variables
    or tuples such as ("flow", branch). `heat` is the net whose potential is what the device is warmer by [K], in a variant that
    heats itself."""

    declared: Declared
    graph: Graph = field(default_factory=Graph)
    values: dict[object, Quantity | Unset] = field(default_factory=dict)
    parameters: dict[str, Node | tuple[Node, ...]] = field(default_factory=dict)
    given: dict[str, Node] = field(default_factory=dict)
    strings: dict[str, int] = field(default_factory=dict)
    scopes: list[dict[str, str]] = field(default_factory=list)
    calls: list[str] = field(default_factory=list)
    guards: list[Node] = field(default_factory=list)
    branches: dict[BranchKey, int | None] = field(default_factory=dict)
    states: list[tuple[int, Quantity]] = field(default_factory=list)
    noise: list[NoiseSource] = field(default_factory=list)
    messages: list[Message] = field(default_factory=list)
    in_loop: int = 0
    steps: int = 0
    heat: int | None = None

    @property
    def problems(self):
        """Where mistakes go."""
        return self.declared.problems

    @property
    def terminals(self) -> list[Terminal]:
        """The unknowns so far."""
        return self.declared.terminals

    def new_terminal(self, name: str, kind: str, discipline: str = "electrical") -> int:
        """One more unknown of the module."""
        self.terminals.append(Terminal(name, kind, discipline))
        return len(self.terminals) - 1

    def new_state(self, word: str) -> int:
        """One more that is a state, called the same whether the device heats itself or not."""
        return self.new_terminal(f"{word}{len(self.terminals) - (self.heat is not None)}", "state")

    def step(self, line: int) -> None:
        """Counts a statement or call that is gone through. Raises TooLargeError where there are too many."""
        self.steps += 1
        if self.steps > limits.STEPS:
            self.problems.mistake(
                line,
                f"with its loops unrolled and its functions written out, the text comes to more than {limits.STEPS} statements",
            )
            raise TooLargeError()

    def text(self, text: str) -> Node:
        """A string as a number: equal strings are equal numbers."""
        return self.graph.const(self.strings.setdefault(text, len(self.strings)))

    def default(self, key: object) -> Quantity | Unset:
        """What a sum or variable is before anything was added or assigned."""
        return Quantity(self.graph.const(0.0)) if isinstance(key, tuple) and isinstance(key[0], str) else Unset()

    def get(self, key: object) -> Quantity | Unset:
        """What it is now."""
        found = self.values.get(key)
        return self.default(key) if found is None else found

    @contextmanager
    def side(self, branching: Branching, yes: bool) -> Iterator[None]:
        """One side of a condition: new values live there."""
        with self.graph.within(branching.yes if yes else branching.no):
            self.guards.append(branching.condition)
            try:
                yield
            finally:
                self.guards.pop()

    def merge(self, branching: Branching, yes: dict, no: dict, line: int) -> None:
        """After both sides of a condition: each variable is what it became on the one or on the other."""
        merged = {}
        for key in dict.fromkeys([*yes, *no]):
            a, b = (side[key] if key in side else self.default(key) for side in (yes, no))
            if isinstance(a, Quantity) and isinstance(b, Quantity):
                merged[key] = a if a is b else choose(self.graph, branching, a, b)
            elif isinstance(a, Unset) and isinstance(b, Unset):
                merged[key] = a if a.line else b
            else:
                zero = Quantity(self.graph.const(0.0))
                sides = [x if isinstance(x, Quantity) else x.partly or zero for x in (a, b)]
                merged[key] = Unset(line, choose(self.graph, branching, *sides))
        self.values = merged

    def unknown(self, name: str, line: int, known: list[str], what: str = "name") -> UnusableError:
        """A mistake about a name, with the nearest one that there is."""
        near = difflib.get_close_matches(name, known, 1, 0.6)
        hint = f"; did you mean '{near[0]}'?" if near else f"; declare it first, as in `real {name};`"
        return self.problems.mistake(line, f"unknown {what} '{name}'{hint}")
