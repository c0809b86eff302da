"""Another body for a cell: wherever a block of it stands, its wires follow the terminals that moved."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from hearthline.core.circuit.cell import Cell, Wire
from hearthline.core.circuit.edit.draw import field_around
from hearthline.core.circuit.edit.move import anchors, tidied
from hearthline.core.circuit.edit.route import route
from hearthline.core.circuit.flatten import Library


def reshaped(cells: Mapping[str, Cell], new: Cell, library: Library) -> dict[str, Cell]:
    """Every cell that changes when `new`, with another body, takes the place of the cell of its name."""
    after = replace(library, cells={**cells, new.name: new})
    changed = {new.name: new}
    for name, cell in cells.items():
        if name != new.name and any(part.device == new.name for part in cell.parts):
            followed = _followed(cell, library, after)
            if followed != cell:
                changed[name] = followed
    return changed


def _followed(cell: Cell, before: Library, after: Library) -> Cell:
    """The cell with wires from where terminals were to where they are."""
    old, now = anchors(cell, before), anchors(cell, after)
    held = {place for key, place in now.items() if old.get(key) == place}
    held |= {point for wire in cell.wires for point in (wire.points[0], wire.points[-1])}
    for key, place in old.items():
        if key in now and now[key] != place and place in held:
            way = route(place, now[key], field_around(cell, after, (place, now[key])))
            cell = replace(cell, wires=(*cell.wires, Wire(way)))
    return tidied(cell, after)
