"""What a check of a drawing finds, and what the checks are given."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property

from hearthline.core.circuit.cell import Cell, Part
from hearthline.core.circuit.edit.move import terminals_of
from hearthline.core.circuit.flatten import Library
from hearthline.core.circuit.nets import Connections, islands, terminal_points
from hearthline.core.circuit.sets import DisjointSets
from hearthline.core.elements.kind import Point

ERROR, WARNING = "error", "warning"


@dataclass(frozen=True)
class Finding:
    """One thing that is wrong (`error`: no run is possible) or suspicious (`warning`).

    `message` names the part or net and says what to do; `places` are where it is on the drawing; `mend` names a step that
    would mend it (`open`: mark the terminal as meant to be open; `body`: bring the symbol in line with the pins), for the
    part or cell `of`.
    """

    rule: str
    weight: str
    message: str
    part: str = ""
    net: str = ""
    places: tuple[Point, ...] = ()
    fix: str = ""
    of: str = ""


@dataclass(frozen=True)
class CheckedDrawing:
    """A cell with what its parts may be. `size_error(device, value name, value, unit)` says why a size is not allowed;
    `outer` are parameters known from outside the cell, such as those of the bench."""

    cell: Cell
    library: Library
    size_error: Callable[[str, str, float, str], str] = lambda device, name, value, unit: ""
    outer: Mapping[str, float] = field(default_factory=dict)

    @cached_property
    def terminals(self) -> dict[tuple[str, str], Point]:
        """Where each (part, terminal) lies; of parts that are known."""
        return {
            (part.name, name): place
            for part in self.cell.parts
            for name, place in terminal_points(part, terminals_of(self.library, part)).items()
        }

    @cached_property
    def joined(self) -> DisjointSets:
        """What is joined to what."""
        return islands(self.cell, {part.name: terminals_of(self.library, part) for part in self.cell.parts})

    @cached_property
    def connections(self) -> Connections | None:
        """The nets; None where the drawing contradicts itself or has unknown parts."""
        return self.library.nets(self.cell)

    def known(self, part: Part) -> bool:
        """Whether kit or project have the part's device."""
        return self.library.knows(part)
