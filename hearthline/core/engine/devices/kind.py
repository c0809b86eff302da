"""What the engine must know about a kind of part, beside its kernel."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

import numpy as np

from hearthline.core.circuit.netlist import Card, Element
from hearthline.core.errors import CircuitError
from hearthline.core.models.signature import Kernel

Numbers = Mapping[str, np.ndarray]


@dataclass(frozen=True)
class Readout:
    """An operating-point variable: its name and SI unit."""

    name: str
    unit: str


@dataclass(frozen=True)
class DeviceKind:
    """A kind of elementary part as the engine sees it.

    `prepare_card(card, celsius)` works out once for each model what its instances share; `prepare(instance, card, celsius)`
    turns that and the instance's parameters, each an array with one entry a lane, into the values of the kernel. Both
    raise ValueError in a designer's words. `defaults` are of the instance, `card_defaults` of its model; what has None
    there is left to these functions, unless it is `needed`.

    `drives` is the unit of an independent source, whose direct value is the first of its values. `thermal` kinds are a
    conductance (the first of the values) that makes noise. `late` entries of the slopes act a delay later: which entry, by
    which factor, and whether the first value, an impedance, multiplies it too; the second value is the delay.
    """

    kernel: Kernel
    terminals: int
    prepare: Callable[[Numbers, Numbers, np.ndarray], list[np.ndarray]]
    values: int
    readouts: tuple[Readout, ...]
    defaults: Mapping[str, float | None] = field(default_factory=dict)
    card_kinds: tuple[str, ...] = ()
    card_defaults: Mapping[str, float | None] = field(default_factory=dict)
    prepare_card: Callable[[Numbers, np.ndarray], Numbers] = lambda card, celsius: card
    needed: tuple[str, ...] = ()
    branch: bool = False
    controlled_by_branch: bool = False
    must_be_positive: tuple[str, ...] = ()
    charged: bool = False
    drives: str = ""
    thermal: bool = False
    late: tuple[tuple[int, float, bool], ...] = ()

    memory = 0
    noise = 0

    @property
    def slope(self) -> tuple[tuple[int, int], ...]:
        """Which (row, column) its kernel writes slopes for, in that order."""
        return tuple((row, column) for row in range(self.width) for column in range(self.width))

    @property
    def capacitance(self) -> tuple[tuple[int, int], ...]:
        """The same for charges, which most kinds do not have."""
        return self.slope if self.charged else ()

    @property
    def width(self) -> int:
        """Terminals with the branch currents among them."""
        return self.terminals + self.branch + self.controlled_by_branch


def complain(element: Element, message: str) -> CircuitError:
    """A CircuitError about `element`, with its place."""
    return CircuitError(f"{element.name}: {message}", element.name, "", element.place.file, element.place.line)


def check_names(element: Element, kind: DeviceKind, card: Card | None) -> None:
    """Raises CircuitError for a parameter that the kind of part or its model does not have."""
    for name in element.values:
        if name not in kind.defaults:
            raise complain(element, f"there is no parameter '{name}'; there are {', '.join(kind.defaults)}")
    if card is None:
        return
    for name in card.values:
        if name not in kind.card_defaults:
            raise CircuitError(
                f"model {card.name}: there is no parameter '{name}'; there are {', '.join(kind.card_defaults)}",
                file=card.place.file,
                line=card.place.line,
            )
