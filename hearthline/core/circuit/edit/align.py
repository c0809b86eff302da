"""Lines picked parts up: their left or right sides, upper or lower sides, middles; or the gaps between them."""

from __future__ import annotations

from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.edit.motion import Motion
from hearthline.core.circuit.edit.move import moved
from hearthline.core.circuit.edit.picked import Picked
from hearthline.core.circuit.flatten import Library

WAYS = ("left", "right", "top", "bottom", "middle across", "middle down", "even across", "even down")


def aligned(cell: Cell, picked: Picked, library: Library, way: str) -> Cell:
    """The picked parts and pins, each moved along one axis; wires follow."""
    places = {("part", p.name): p.at for p in cell.parts if p.name in picked.parts}
    places |= {("pin", p.name): p.at for p in cell.pins if p.name in picked.pins}
    if len(places) < 2:
        return cell
    axis = 0 if way in ("left", "right", "middle down", "even across") else 1
    for (kind, name), target in _targets(places, axis, way).items():
        shift = target - places[kind, name][axis]
        one = Picked(frozenset((name,))) if kind == "part" else Picked(pins=frozenset((name,)))
        cell, _ = moved(cell, one, library, Motion((shift, 0) if axis == 0 else (0, shift)))
    return cell


def _targets(places: dict, axis: int, way: str) -> dict:
    """Where each goes along the axis."""
    values = [at[axis] for at in places.values()]
    low, high = min(values), max(values)
    if way.startswith("even"):
        order = sorted(places, key=lambda key: places[key][axis])
        return {key: low + round((high - low) * k / (len(order) - 1)) for k, key in enumerate(order)}
    level = {"left": low, "top": low, "right": high, "bottom": high}.get(way, (low + high) // 2)
    return dict.fromkeys(places, level)
