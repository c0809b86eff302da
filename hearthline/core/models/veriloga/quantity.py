"""A value while a module is worked through: its static part, what stands under d/dt, and the noise it carries."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from hearthline.core.models.veriloga.graph import Graph
from hearthline.core.models.veriloga.node import Branching, Node


@dataclass(frozen=True)
class Quantity:
    """`value` + d/dt `charge` + the noise sources times their factors."""

    value: Node
    charge: Node | None = None
    noise: dict[int, Node] = field(default_factory=dict)

    @property
    def plain(self) -> bool:
        """Whether it is a value alone."""
        return self.charge is None and not self.noise

    def each(self, change: Callable[[Node], Node]) -> Quantity:
        """Every part changed in the same linear way."""
        charge = None if self.charge is None else change(self.charge)
        return Quantity(change(self.value), charge, {k: change(factor) for k, factor in self.noise.items()})


def add(graph: Graph, a: Quantity, b: Quantity) -> Quantity:
    """The sum."""
    if a.charge is None or b.charge is None:
        charge = b.charge if a.charge is None else a.charge
    else:
        charge = graph.add(a.charge, b.charge)
    noise = dict(a.noise)
    for k, factor in b.noise.items():
        noise[k] = graph.add(noise[k], factor) if k in noise else factor
    return Quantity(graph.add(a.value, b.value), charge, noise)


def choose(graph: Graph, branching: Branching, a: Quantity, b: Quantity) -> Quantity:
    """One or the other by a condition, part by part."""
    zero = graph.const(0.0)
    charge = None
    if a.charge is not None or b.charge is not None:
        charge = graph.phi(branching, zero if a.charge is None else a.charge, zero if b.charge is None else b.charge)
    noise = {
        k: graph.phi(branching, a.noise.get(k, zero), b.noise.get(k, zero)) for k in dict.fromkeys([*a.noise, *b.noise])
    }
    return Quantity(graph.phi(branching, a.value, b.value), charge, noise)
