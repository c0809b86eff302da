"""A compiled module: what the engine and a person must know about it, and its two functions."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from types import ModuleType

SAID_NOTE, SAID_WARNING, SAID_FINISH = "note", "warning", "finish"


@dataclass(frozen=True)
class ModuleParameter:
    """A parameter: type (`real`, `integer`, `string`), default and allowed range as they are written, SI unit, meaning."""

    name: str
    type: str
    default: str
    allowed: str = ""
    unit: str = ""
    meaning: str = ""
    instance: bool = False


@dataclass(frozen=True)
class ModuleReadout:
    """An operating-point variable with its SI unit."""

    name: str
    unit: str
    meaning: str = ""


@dataclass(frozen=True)
class NoiseSource:
    """A noise current from terminal `plus` to `minus` (-1: ground); `kind` is white or flicker."""

    name: str
    kind: str
    plus: int
    minus: int


@dataclass(frozen=True)
class Collapse:
    """Two terminals that may be one; where they are in some lanes only, `slot` of the values takes a conductance [S]."""

    plus: int
    minus: int
    slot: int


@dataclass(frozen=True)
class Said:
    """A message of the text: its kind, format, number of arguments, line, and whether it depends on the solution."""

    kind: str
    text: str
    arguments: int
    line: int
    by_solution: bool


@dataclass(frozen=True)
class Terminal:
    """An unknown of the module: kind `port`, `net`, `current` or `state`."""

    name: str
    kind: str
    discipline: str


@dataclass(frozen=True, eq=False)
class Module:
    """A Verilog-A module as the compiler leaves it.

    `slope` and `capacity` are the (row, column) pairs of terminals whose derivatives can be non-zero, in the order in
    which the kernel writes them. `checks[k]` is the parameter whose range note k of the setup is about.
    """

    name: str
    file: str
    ports: int
    terminals: tuple[Terminal, ...]
    parameters: tuple[ModuleParameter, ...]
    aliases: dict[str, str]
    strings: tuple[str, ...]
    values: int
    memory: int
    slope: tuple[tuple[int, int], ...]
    capacity: tuple[tuple[int, int], ...]
    readouts: tuple[ModuleReadout, ...]
    noise: tuple[NoiseSource, ...]
    checks: tuple[int, ...]
    collapses: tuple[Collapse, ...]
    said: tuple[Said, ...]
    warnings: tuple[tuple[str, int, str], ...]
    meaning: str
    source: str
    code: ModuleType = field(repr=False)

    @classmethod
    def of(cls, code: ModuleType) -> Module:
        """The module that a generated file describes."""
        d = code.MODULE
        return cls(
            d["name"], d["file"], d["ports"], tuple(Terminal(*t) for t in d["terminals"]),
            tuple(ModuleParameter(*i) for i in d["inputs"]), d["aliases"], tuple(d["strings"]), d["values"], d["memory"],
            tuple(d["slope"]), tuple(d["capacity"]), tuple(ModuleReadout(*r) for r in d["readouts"]),
            tuple(NoiseSource(*n) for n in d["noise"]), tuple(d["checks"]), tuple(Collapse(*c) for c in d["collapses"]),
            tuple(Said(*s) for s in d["said"]), tuple(d["warnings"]), d["meaning"], d["source"], code,
        )  # fmt: skip

    @property
    def port_names(self) -> tuple[str, ...]:
        """The ports in order."""
        return tuple(terminal.name for terminal in self.terminals[: self.ports])

    @property
    def notes(self) -> int:
        """How many notes the setup writes for each row."""
        said = sum(1 + s.arguments for s in self.said if not s.by_solution)
        return len(self.checks) + len(self.collapses) + said

    @cached_property
    def index(self) -> dict[str, int]:
        """Where each parameter stands, by its name and by its lower-case name; aliases too."""
        found = {parameter.name: k for k, parameter in enumerate(self.parameters)}
        found.update({name: found[target] for name, target in self.aliases.items() if target in found})
        return {name.lower(): k for name, k in found.items()} | found

    @cached_property
    def _functions(self) -> tuple[Callable, Callable]:
        return self.code.compiled()

    @property
    def compiled(self) -> Callable:
        """The kernel, of the signature of all kernels: compiled, or read from the cache, when first asked for."""
        return self._functions[0]

    @property
    def setup(self) -> Callable:
        """`setup(p, given, connected, environment, out, notes)`, a row for each instance and lane."""
        return self._functions[1]
