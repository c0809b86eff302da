"""Looks at one instance of a cell inside another: which cell it is, and what its nets and parts are called when flat."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from hearthline.core.circuit.cell import ARRAY, Cell
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.netlist import GROUND
from hearthline.core.errors import CircuitError


@dataclass(frozen=True)
class Instance:
    """A cell at the end of a path of blocks. `prefix` begins the flat names of its parts; `outside` are its nets that go on
    outside, by their flat names."""

    cell: Cell
    prefix: str = ""
    outside: Mapping[str, str] = field(default_factory=dict)

    def net(self, name: str) -> str:
        """The flat name of one of its nets."""
        name = name.lower()
        return name if name == GROUND else self.outside.get(name, self.prefix + name)

    def part(self, name: str) -> str:
        """The flat name of one of its parts; of an array that of the first."""
        match = ARRAY.fullmatch(name)
        return self.prefix + (f"{match[1]}[1]" if match else name).lower()

    def inside(self, block: str, library: Library) -> Instance:
        """The instance that a block in it is; of an array the first. Raises CircuitError where there is no such block."""
        part = next((part for part in self.cell.parts if part.name == block), None)
        cell = library.cells.get(part.device) if part else None
        if part is None or cell is None:
            raise CircuitError(f"{self.cell.name} has no block {block}", part=block)
        nets = library.connections(self.cell).terminals
        shown = [name for name, _ in library.terminals(part)]
        outside = {pin.lower(): self.net(nets[block, pin]) for pin in shown}
        return Instance(cell, f"{self.prefix}{part.instances[0].lower()}.", outside)


def instance_at(top: Cell, trail: tuple[str, ...], library: Library) -> Instance:
    """The instance that the blocks of `trail` lead to from `top`. Raises CircuitError where a block is gone."""
    found = Instance(top)
    for block in trail:
        found = found.inside(block, library)
    return found
