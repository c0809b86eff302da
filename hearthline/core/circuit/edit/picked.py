"""What of a drawing an operation is about: parts and pins by name, wires, labels and notes as they are."""

from __future__ import annotations

from dataclasses import dataclass

from hearthline.core.circuit.cell import Cell, Label, Note, Part, Pin, Wire
from hearthline.core.elements.kind import Point


@dataclass(frozen=True)
class Picked:
    """Frozen like the cell it belongs to."""

    parts: frozenset[str] = frozenset()
    pins: frozenset[str] = frozenset()
    wires: frozenset[Wire] = frozenset()
    labels: frozenset[Label] = frozenset()
    notes: frozenset[Note] = frozenset()

    def __bool__(self) -> bool:
        return bool(self.parts or self.pins or self.wires or self.labels or self.notes)

    def __len__(self) -> int:
        return sum(len(kind) for kind in (self.parts, self.pins, self.wires, self.labels, self.notes))

    def __or__(self, other: Picked) -> Picked:
        return Picked(*(a | b for a, b in zip(self.sets, other.sets, strict=True)))

    def __sub__(self, other: Picked) -> Picked:
        return Picked(*(a - b for a, b in zip(self.sets, other.sets, strict=True)))

    @property
    def sets(self) -> tuple[frozenset, ...]:
        """Parts, pins, wires, labels, notes."""
        return self.parts, self.pins, self.wires, self.labels, self.notes

    def __contains__(self, item: Part | Pin | Wire | Label | Note) -> bool:
        if isinstance(item, Part):
            return item.name in self.parts
        if isinstance(item, Pin):
            return item.name in self.pins
        return item in self.wires or item in self.labels or item in self.notes

    def within(self, cell: Cell) -> Picked:
        """What of it the cell still has."""
        return self & everything(cell)

    def __and__(self, other: Picked) -> Picked:
        return Picked(*(a & b for a, b in zip(self.sets, other.sets, strict=True)))


NOTHING = Picked()


def everything(cell: Cell) -> Picked:
    """All of a cell."""
    return Picked(
        frozenset(part.name for part in cell.parts), frozenset(pin.name for pin in cell.pins), frozenset(cell.wires),
        frozenset(cell.labels), frozenset(cell.notes),
    )  # fmt: skip


def inside(cell: Cell, picked: Picked) -> Cell:
    """A cell of just what was picked."""
    return Cell(
        cell.name, tuple(p for p in cell.pins if p in picked), tuple(p for p in cell.parts if p in picked),
        tuple(w for w in cell.wires if w in picked), tuple(one for one in cell.labels if one in picked), {}, "",
        tuple(n for n in cell.notes if n in picked),
    )  # fmt: skip


def places_of(cell: Cell) -> list[Point]:
    """Where everything on a cell stands, wires by their points."""
    places = [
        *(p.at for p in cell.parts),
        *(p.at for p in cell.pins),
        *(m.at for m in cell.labels),
        *(n.at for n in cell.notes),
    ]
    return places + [point for wire in cell.wires for point in wire.points]
