"""A Verilog-A module as a kind of part: from cards and instance values to the numbers of its kernel."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cache, cached_property

import numpy as np

from hearthline.core.circuit.netlist import GROUND
from hearthline.core.elements.device import Readout
from hearthline.core.models.module import SAID_FINISH, Module, Said

UNITS = {"Ohm": "Ω"}
"""Units that a text spells out."""

SHORT = 1e9
"""Joins two terminals [S] that are one in some lanes and not in others."""


@dataclass(frozen=True, eq=False)
class ModuleKind:
    """What the engine must know about a module. Its kernel is `module.compiled`."""

    module: Module

    branch = False
    controlled_by_branch = False
    drives = ""
    thermal = None
    dispersion = None
    delayed = False
    correlation = None
    without_gain = None
    share = 1.0
    known = None

    def __reduce__(self) -> tuple[Callable, tuple]:
        return kind_of, (self.module,)

    @property
    def kernel(self) -> Module:
        """What has the compiled kernel."""
        return self.module

    @property
    def width(self) -> int:
        """Terminals, with inner nets, currents and states."""
        return len(self.module.terminals)

    @property
    def values(self) -> int:
        """Numbers that the kernel reads for each instance."""
        return self.module.values

    @property
    def abreast(self) -> int:
        """Numbers of each instance that stand in lanes too."""
        return self.module.abreast

    @property
    def memory(self) -> int:
        """Numbers that limiting remembers for each instance."""
        return self.module.memory

    @property
    def noise(self) -> int:
        """Sources of noise."""
        return len(self.module.noise)

    @property
    def conductance(self) -> tuple[tuple[int, int], ...]:
        """Where the derivatives of the currents belong."""
        return self.module.conductance

    @property
    def capacitance(self) -> tuple[tuple[int, int], ...]:
        """Where the derivatives of the charges belong."""
        return self.module.capacitance

    @cached_property
    def readouts(self) -> tuple[Readout, ...]:
        """Operating-point variables, and behind them the hidden ones (`@`) for messages of the text."""
        shown = [Readout(r.name, UNITS.get(r.unit, r.unit)) for r in self.module.readouts]
        hidden = [
            Readout(f"@{number}.{k}", "")
            for number, said in enumerate(self.module.said)
            if said.by_solution
            for k in range(1 + said.arguments)
        ]
        return tuple(shown + hidden)

    @cached_property
    def conducting(self) -> tuple[tuple[int, int], ...]:
        """Pairs of terminals between which a direct current flows: each reacts on the other."""
        known = set(self.module.conductance)
        pairs = [(a, b) for a, b in known if a < b and (b, a) in known]
        return tuple(sorted(pairs + [(c.plus, c.minus) for c in self.module.collapses if c.minus >= 0]))


@cache
def kind_of(module: Module) -> ModuleKind:
    """The one kind for a module."""
    return ModuleKind(module)


@dataclass(frozen=True)
class Prepared:
    """An instance in all lanes: the net of each terminal that is one, values (lanes, values), and messages."""

    nets: tuple[str, ...]
    values: np.ndarray
    messages: tuple[str, ...]


@dataclass(frozen=True)
class OutOfRangeError(Exception):
    """A parameter outside of what its declaration allows; `lane` is the first where it is."""

    parameter: str
    value: float
    allowed: str

    def __str__(self) -> str:
        return f"{self.parameter} must be {self.allowed}, and is {self.value:g}"


class RefusedError(Exception):
    """The text itself asked to finish."""


@dataclass(frozen=True)
class SetUp:
    """What a module's setup gave for an instance: values and notes, (lanes, ...) each."""

    values: np.ndarray
    notes: np.ndarray


def set_up(module: Module, ports: int, given: np.ndarray, values: np.ndarray, kelvin: np.ndarray,
           parallel: np.ndarray) -> SetUp:  # fmt: skip
    """Runs the module's setup for an instance of which the first `ports` ports are connected.

    given, values (lanes, parameters); kelvin [K] and parallel (lanes,). Raises OutOfRangeError.
    """
    lanes = len(kelvin)
    connected = np.zeros((lanes, module.ports))
    connected[:, :ports] = 1.0
    environment = np.column_stack([kelvin, parallel])
    out, notes = np.zeros((lanes, module.values)), np.zeros((lanes, module.notes))
    module.setup(values, given, connected, environment, out, notes)
    first = len(module.checks)
    if notes[:, :first].any():
        k = int(np.argmax(notes[:, :first].any(axis=0)))
        raise _out_of_range(module, module.checks[k], values, given, int(np.argmax(notes[:, k])))
    return SetUp(out, notes)


def all_collapsed(module: Module, done: SetUp) -> bool:
    """Whether the instance is one for `module.collapsed`: every collapse holds in every lane."""
    first = len(module.checks)
    return module.collapsed is not None and bool(done.notes[:, first : first + len(module.collapses)].all())


def prepare(module: Module, name: str, nets: Sequence[str], done: SetUp, shared: bool = True) -> Prepared:
    """The instance `name` between `nets`, from what its setup gave, which it may have to itself. Raises RefusedError."""
    first = len(module.checks)
    out = done.values.copy() if module.collapses and shared else done.values
    joined = _join(module, name, nets, done.notes[:, first : first + len(module.collapses)], out)
    messages = _messages(module, done.notes[:, first + len(module.collapses) :])
    return Prepared(joined, out, (*_left_open(module, name, nets, joined), *messages))


def _left_open(module: Module, name: str, nets: Sequence[str], joined: tuple[str, ...]) -> Iterator[str]:
    """A word for each electrical port that is not connected and that the text does not join to anything."""
    for k in range(len(nets), module.ports):
        terminal = module.terminals[k]
        if terminal.discipline == "electrical" and joined[k] == f"{name}.{terminal.name}":
            yield f"port {terminal.name} of {module.name} is not connected; connect it, to 0 if it is not needed"


def _out_of_range(module: Module, index: int, values: np.ndarray, given: np.ndarray, lane: int) -> OutOfRangeError:
    parameter = module.parameters[index]
    value = values[lane, index] if given[lane, index] else float("nan")
    return OutOfRangeError(parameter.name, value, in_words(parameter.allowed))


def in_words(allowed: str) -> str:
    """A declared range as a person says it: `from (0:inf)` is "above 0"."""
    if match := re.fullmatch(r"from ([(\[])(.*):(.*)([)\]])", allowed):
        opening, low, high, closing = match.groups()
        minimum = f"above {low}" if opening == "(" else f"{low} or more"
        maximum = f"below {high}" if closing == ")" else f"{high} or less"
        if high == "inf":
            return minimum
        return maximum if low == "-inf" else f"{minimum} and {maximum}"
    return allowed.replace("from ", "in ").replace("exclude", "other than")


def _join(module: Module, name: str, nets: Sequence[str], shorted: np.ndarray, out: np.ndarray) -> tuple[str, ...]:
    """The net of each port and inner net; those that are shorted in every lane become one."""
    names = list(nets)
    names += [f"{name}.{t.name}" for t in module.terminals[len(nets) :] if t.kind in ("port", "net")]
    above: dict[int, int] = {}

    def final(terminal: int) -> int:
        while terminal in above:
            terminal = above[terminal]
        return terminal

    for k, collapse in enumerate(module.collapses):
        here, inner = shorted[:, k] != 0, final(collapse.plus)
        outer = collapse.minus if collapse.minus < 0 else final(collapse.minus)
        if inner < len(nets) <= outer:
            inner, outer = outer, inner
        if here.all() and inner >= len(nets) and inner != outer:
            above[inner] = outer
        elif here.any() and collapse.slot >= 0:
            out[:, collapse.slot] = np.where(here, SHORT, 0.0)
    ends = [final(k) for k in range(len(names))]
    return tuple(GROUND if end < 0 else names[end] for end in ends)


def _messages(module: Module, notes: np.ndarray) -> tuple[str, ...]:
    """What the text says about its parameters; each once."""
    found, column = [], 0
    if not notes.any():
        return ()
    for said in module.said:
        if said.by_solution:
            continue
        hits = np.flatnonzero(notes[:, column])
        if len(hits):
            text = spoken(said, notes[hits[0], column + 1 : column + 1 + said.arguments])
            if said.kind == SAID_FINISH:
                raise RefusedError(f"{module.file}:{said.line}: {text}")
            found.append(text)
        column += 1 + said.arguments
    return tuple(found)


def spoken(said: Said, arguments: Sequence[float] | np.ndarray) -> str:
    """A message with its numbers: %g, %d, %e, %f and their like."""
    rest, pieces = list(arguments), []
    parts = said.text.replace("%%", "\0").split("%")
    pieces.append(parts[0])
    for part in parts[1:]:
        stripped = part.lstrip("0123456789.+- ")
        letter, tail = stripped[:1], stripped[1:]
        if not rest or letter not in "gdefhsxrm":
            pieces.append("%" + part)
            continue
        value = rest.pop(0)
        pieces.append((f"{value:.0f}" if letter in "dhx" else f"{value:g}") + tail)
    return "".join(pieces).replace("\0", "%").strip()
