"""Model cards by corner: what a kit or a deck offers to the circuit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from hearthline.core.circuit.netlist import Card, Scope
from hearthline.core.errors import CircuitError


@dataclass(frozen=True)
class Corner:
    """One corner section: its cards by lower-case name, and the parameters their values may use."""

    cards: Mapping[str, Card]
    scope: Scope = field(default_factory=Scope)


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
