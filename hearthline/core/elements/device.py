"""What an elementary part does: its kernel, the numbers that kernel reads, and what the engine must know beside them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from importlib import import_module

import numpy as np

from hearthline.core.constants import REFERENCE_TEMPERATURE
from hearthline.core.models.signature import Kernel

Numbers = Mapping[str, np.ndarray]

TEMPERED = {"tc1": None, "tc2": None, "tnom": REFERENCE_TEMPERATURE}
"""Of a card whose value follows the temperature."""


@dataclass(frozen=True)
class Readout:
    """An operating-point variable: its name and SI unit."""

    name: str
    unit: str


@dataclass(frozen=True)
class Thermal:
    """Thermal noise at the circuit's temperature, 4kT times one of the kernel's values: a conductance between two of the
    terminals, or a resistance in the equation of one, its branch."""

    value: int
    ends: tuple[int, ...]


@dataclass(frozen=True)
class Dispersion:
    """What entries of a matrix have beside conductance and capacitance at each frequency: `entries` (count,) of the kind's
    conductances, what they gain (frequencies, count), and the slopes of that by the angular frequency."""

    entries: np.ndarray
    gains: np.ndarray
    slopes: np.ndarray


def joined(parts: list[Dispersion], frequencies: int) -> Dispersion:
    """Several in one."""
    if not parts:
        nothing = np.zeros((frequencies, 0), complex)
        return Dispersion(np.zeros(0, np.int64), nothing, nothing)
    return Dispersion(
        np.concatenate([one.entries for one in parts]).astype(np.int64),
        np.ascontiguousarray(np.hstack([one.gains for one in parts]), complex),
        np.ascontiguousarray(np.hstack([one.slopes for one in parts]), complex),
    )


CURRENT_READOUT, VOLTAGE_READOUT = Readout("i", "A"), Readout("v", "V")


@dataclass(frozen=True, eq=False)
class DeviceKind:
    """A kind of elementary part as the engine sees it.

    `prepare_card(card, celsius)` works out once for each model what its instances share; `prepare(instance, card, celsius)`
    turns that and the instance's parameters, each an array with one entry a lane, into the values of the kernel. Both
    raise ValueError in a designer's words. `defaults` are of the instance, `card_defaults` of its model; what has None
    there is left to these functions, unless it is `needed`.

    `terminals` are nets, or the currents of parts that control it. `unknowns` are those of its own, by what stands behind its
    name: "" is its current. `controlled_by_branch` kinds have the current of one source behind their nets.

    `drives` is the unit of an independent source, whose direct value is the first of its values. `dispersion(values, omega)` is
    what small signals have of it at angular frequencies beside what its kernel says; a `delayed` kind is an ideal line.
    `correlation(values, omega, kelvin)` is the noise of its own unknowns' equations (frequencies, unknowns, unknowns), where
    they are correlated.

    A kind of its own for each file of S-parameters says which entries it has, conductances by its `pattern` and capacitances
    by its `slopes`, between which terminals a direct current flows, and, where it has gain, what its conductances are
    `without_gain` and which `share` of its dispersion is left then; by its `fingerprint` it is known again, `known` is the
    range of its frequencies [Hz], `messages` what a person must know, `again` what another process calls to have it, and
    `poles` [1/s] say where it may change within a narrow band.
    """

    kernel: Kernel
    terminals: int
    prepare: Callable[[Numbers, Numbers, np.ndarray], list[np.ndarray]]
    values: int
    readouts: tuple[Readout, ...]
    defaults: Mapping[str, float | None] = field(default_factory=dict)
    card_defaults: Mapping[str, float | None] = field(default_factory=dict)
    prepare_card: Callable[[Numbers, np.ndarray], Numbers] = lambda card, celsius: card
    needed: tuple[str, ...] = ()
    unknowns: tuple[str, ...] = ()
    controlled_by_branch: bool = False
    must_be_positive: tuple[str, ...] = ()
    charged: bool = False
    drives: str = ""
    thermal: Thermal | None = None
    dispersion: Callable[[np.ndarray, np.ndarray], Dispersion] | None = None
    delayed: bool = False
    correlation: Callable[[np.ndarray, np.ndarray, float], np.ndarray] | None = None
    pattern: tuple[tuple[int, int], ...] = ()
    slopes: tuple[tuple[int, int], ...] = ()
    conducts: tuple[tuple[int, int], ...] = ()
    without_gain: Callable[[np.ndarray], np.ndarray] | None = None
    share: float = 1.0
    fingerprint: str = ""
    known: tuple[float, float] | None = None
    messages: tuple[str, ...] = ()
    again: tuple[Callable, tuple] | None = None
    poles: tuple[complex, ...] = ()

    memory = 0
    abreast = 0
    noise = 0

    def __reduce__(self) -> tuple[Callable, tuple]:
        return self.again or (kind_with, (self.kernel,))

    @property
    def branch(self) -> bool:
        """Whether its current is an unknown."""
        return "" in self.unknowns

    @cached_property
    def conductance(self) -> tuple[tuple[int, int], ...]:
        """Which (row, column) its kernel writes conductances for, in that order."""
        if self.pattern:
            return self.pattern
        return tuple((row, column) for row in range(self.width) for column in range(self.width))

    @cached_property
    def capacitance(self) -> tuple[tuple[int, int], ...]:
        """The same for charges, which most kinds do not have."""
        return self.conductance if self.charged else self.slopes

    @cached_property
    def width(self) -> int:
        """Terminals with the branch currents among them."""
        return self.terminals + len(self.unknowns) + self.controlled_by_branch


BRANCH = ("",)
"""The unknowns of what has its current as one."""


def as_given(name: str) -> Callable[[Numbers, Numbers, np.ndarray], list[np.ndarray]]:
    """The `prepare` of a kernel that reads one parameter as it is."""
    return lambda instance, card, celsius: [instance[name]]


def tempered(instance: Numbers, card: Numbers, celsius: np.ndarray) -> np.ndarray:
    """By how much a value at `celsius` is above that at the temperature it is given for."""
    rise = celsius - card["tnom"]
    tc1 = instance["tc1"] if instance["tc1"] is not None else card["tc1"]
    tc2 = instance["tc2"] if instance["tc2"] is not None else card["tc2"]
    return 1.0 + (0.0 if tc1 is None else tc1) * rise + (0.0 if tc2 is None else tc2) * rise**2


def kind_with(kernel: Kernel) -> DeviceKind:
    """The kind of part that a kernel of ours belongs to, as its file has it."""
    return import_module(kernel.function.__module__).DEVICE
