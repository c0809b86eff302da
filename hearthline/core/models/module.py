"""A compiled module: what the engine and a person must know about it, and its two functions."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, Protocol

import numpy as np

SAID_WARNING, SAID_FINISH = "warning", "finish"


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


class Code(Protocol):
    """Where the machine code comes from."""

    @property
    def again(self) -> tuple[Callable, tuple]:
        """What another process calls, with what, to have the module."""

    @property
    def loaded(self) -> Any:
        """The two functions, made or loaded when first asked for."""


@dataclass(frozen=True, eq=False)
class Module:
    """A Verilog-A module as the compiler leaves it.

    `conductance` and `capacitance` are the (row, column) pairs of terminals whose derivatives can be non-zero, in the order in
    which the kernel writes them. `checks[k]` is the parameter whose range note k of the setup is about. `abreast` says how
    many numbers of each instance stand in lanes too. `collapsed` is the same module for instances of which every collapse
    holds: without the inner nets, and faster for it.
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
    abreast: int
    conductance: tuple[tuple[int, int], ...]
    capacitance: tuple[tuple[int, int], ...]
    readouts: tuple[ModuleReadout, ...]
    noise: tuple[NoiseSource, ...]
    checks: tuple[int, ...]
    collapses: tuple[Collapse, ...]
    said: tuple[Said, ...]
    warnings: tuple[tuple[str, int, str], ...]
    meaning: str
    source: str
    collapsed: Module | None
    code: Code = field(repr=False)

    def __reduce__(self) -> tuple[Callable, tuple]:
        return self.code.again

    @classmethod
    def of(cls, description: dict, code: Code) -> Module:
        """The module of a description as the compiler writes it."""
        tuples = {
            "terminals": Terminal, "parameters": ModuleParameter, "readouts": ModuleReadout, "noise": NoiseSource,
            "collapses": Collapse, "said": Said,
        }  # fmt: skip
        made = {key: tuple(kind(*entry) for entry in description[key]) for key, kind in tuples.items()}
        for key in ("conductance", "capacitance", "warnings"):
            made[key] = tuple(tuple(entry) for entry in description[key])
        for key in ("strings", "checks"):
            made[key] = tuple(description[key])
        return cls(**{**description, **made}, code=code)

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
    def instance_names(self) -> tuple[str, ...]:
        """Parameters that an instance of a model card may set: those marked so, or all where none is."""
        marked = tuple(parameter.name for parameter in self.parameters if parameter.instance)
        return tuple(self.index) if not marked else tuple(dict.fromkeys([*marked, *map(str.lower, marked)]))

    @property
    def address(self) -> int:
        """Of the kernel, for compiled callers; the machine code is made or loaded when it is first asked for."""
        return self.code.loaded.address

    def setup(
        self, p: np.ndarray, given: np.ndarray, connected: np.ndarray, environment: np.ndarray, out: np.ndarray,
        notes: np.ndarray,
    ) -> None:  # fmt: skip
        """Fills `out` and `notes`, a row for each instance and lane; all are arrays (rows, ...) of float64."""
        arrays = (p, given, connected, environment, out, notes)
        self.code.loaded.setup(len(p), *(np.ascontiguousarray(a).ctypes.data for a in arrays))
