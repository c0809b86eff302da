"""Model cards by corner: what a kit or a deck offers to the circuit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from hearthline.core.circuit.netlist import Card, Scope
from hearthline.core.errors import CircuitError
from hearthline.core.models.module import Module


@dataclass(frozen=True)
class Corner:
    """One corner section: its cards by lower-case name, the parameters their values may use, and Verilog-A modules by
    lower-case name, beside those that come with Hearthline."""

    cards: Mapping[str, Card]
    scope: Scope = field(default_factory=Scope)
    modules: Mapping[str, Module] = field(default_factory=dict)


@dataclass(frozen=True)
class ModelSet:
    """All corners of a process; a deck without corners has the single one `""`."""

    corners: Mapping[str, Corner]

    def corner(self, name: str) -> Corner:
        """The corner of that name; CircuitError listing the known ones."""
        if name not in self.corners:
            raise CircuitError(f"there is no corner '{name}'; the process has {', '.join(self.corners)}")
        return self.corners[name]

    @property
    def names(self) -> tuple[str, ...]:
        """The corners, the typical one first as the process lists them."""
        return tuple(self.corners)
