"""Puts a piece of a drawing into another: names that are taken get new ones, and what refers to them follows."""

from __future__ import annotations

from dataclasses import replace

from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.edit.motion import Motion
from hearthline.core.circuit.edit.move import tidied
from hearthline.core.circuit.edit.names import free_name, with_names
from hearthline.core.circuit.edit.picked import Picked, everything
from hearthline.core.circuit.flatten import Library
from hearthline.core.elements.kind import Point


def pasted(cell: Cell, piece: Cell, shift: Point, library: Library) -> tuple[Cell, Picked]:
    """The cell with `piece` moved by `shift` in it, and what came in."""
    piece = _placed(renamed_apart(piece, cell, library), Motion(shift))
    new = replace(
        cell, pins=(*cell.pins, *piece.pins), parts=(*cell.parts, *piece.parts), wires=(*cell.wires, *piece.wires),
        labels=(*cell.labels, *(one for one in piece.labels if one not in cell.labels)), notes=(*cell.notes, *piece.notes),
        parameters={**piece.parameters, **cell.parameters},
    )  # fmt: skip
    new = tidied(new, library)
    return new, everything(piece).within(new)


def _placed(piece: Cell, motion: Motion) -> Cell:
    return replace(
        piece, pins=tuple(map(motion.pin, piece.pins)), parts=tuple(map(motion.part, piece.parts)),
        wires=tuple(map(motion.wire, piece.wires)), labels=tuple(map(motion.mark, piece.labels)),
        notes=tuple(map(motion.mark, piece.notes)),
    )  # fmt: skip


def renamed_apart(piece: Cell, cell: Cell, library: Library) -> Cell:
    """The piece with names that the cell does not have."""
    taken = [part.name for part in cell.parts]
    names: dict[str, str] = {}
    for part in piece.parts:
        names[part.name] = free_name(taken, part.name)
        taken.append(names[part.name])
    pins, pin_names = [], [pin.name for pin in cell.pins]
    for pin in piece.pins:
        free = pin.name if pin.name.lower() not in {n.lower() for n in pin_names} else free_name(pin_names, pin.name)
        pins.append(replace(pin, name=free))
        pin_names.append(free)
    return replace(piece, pins=tuple(pins), parts=with_names(piece.parts, names, library))
