"""The flat circuit: elements between named nets, with values that are still expressions of parameters.

Both a drawing and a deck become a `Netlist`; the engine sees nothing else.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from hearthline.core.elements.device import DeviceKind
from hearthline.core.elements.nets import GROUND as GROUND
from hearthline.core.elements.wave import Wave
from hearthline.core.expression import Expression
from hearthline.core.models.module import Module


@dataclass(frozen=True)
class Place:
    """Where a person wrote something: a file and line, or a cell and the part in it."""

    file: str = ""
    line: int = 0
    part: str = ""


@dataclass(frozen=True)
class InDevice:
    """What the inside of a device that is a small circuit belongs to: the instance, its template, and which of its parameters
    are the process's, and so those of the corner of each lane."""

    device: str
    template: str
    process: frozenset[str] = frozenset()


@dataclass(frozen=True, eq=False)
class Scope:
    """The parameters that hold inside one block: its definitions, and what the instance gave from outside; or inside a device
    that is a small circuit.

    `given` is evaluated in the parent's scope, `defined` in this one; `given` wins.
    """

    parent: Scope | None = None
    defined: Mapping[str, Expression] = field(default_factory=dict)
    given: Mapping[str, Expression] = field(default_factory=dict)
    inside: InDevice | None = None


@dataclass(frozen=True)
class Element:
    """One primitive part. `nets` in the order of its terminals; `control` names the sources whose currents control it
    (of coupled inductors: those), `module` is what it does where that is written with it; `initial` is the voltage across
    it, or the current through an inductor, that a transient may begin with; `device` has the equations of a part that a file
    is."""

    name: str
    kind: str
    nets: tuple[str, ...]
    values: Mapping[str, Expression] = field(default_factory=dict)
    model: str = ""
    scope: Scope = field(default_factory=Scope)
    place: Place = field(default_factory=Place)
    control: str = ""
    wave: Wave | None = None
    initial: Expression | None = None
    module: Module | None = None
    device: DeviceKind | None = None


@dataclass(frozen=True)
class Card:
    """A model card: `kind` is the type (NMOS, D, ...), values are expressions of global parameters."""

    name: str
    kind: str
    values: Mapping[str, Expression]
    place: Place = field(default_factory=Place)


@dataclass(frozen=True)
class Template:
    """A device that is a small circuit: its nodes, what an instance may set, and its parts between nodes and inner nets.

    `inputs` and `defined` are parameters, `process` those of `defined` that the process's sections set; elements are evaluated
    in a scope made of both for each instance.
    """

    name: str
    nodes: tuple[str, ...]
    inputs: Mapping[str, Expression]
    defined: Mapping[str, Expression]
    elements: tuple[Element, ...]
    process: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Netlist:
    """A flat circuit. `root` holds the global parameters, `guesses` starting voltages of nets [V] for the search of an
    operating point, `initial` the voltages [V] that a transient begins with, `near` those of a circuit much like this one:
    the search begins there, as far as this one has such nets."""

    elements: tuple[Element, ...]
    root: Scope = field(default_factory=Scope)
    guesses: Mapping[str, Expression] = field(default_factory=dict)
    initial: Mapping[str, Expression] = field(default_factory=dict)
    near: Mapping[str, float] = field(default_factory=dict)

    @property
    def nets(self) -> tuple[str, ...]:
        """Every net but ground, in the order of first mention."""
        seen = dict.fromkeys(net for element in self.elements for net in element.nets)
        seen.pop(GROUND, None)
        return tuple(seen)
