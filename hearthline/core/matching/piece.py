"""A matching network as a piece of a drawing: the load's end on the right."""

from __future__ import annotations

from hearthline.core.circuit.cell import Cell, Part, Wire
from hearthline.core.circuit.symbols import GROUND_SYMBOL
from hearthline.core.matching.networks import CAPACITOR, SERIES, Network
from hearthline.core.matching.passives import Sized

STEP = 8
"""Between parts."""


def piece_of(network: Network, parts: tuple[Sized, ...]) -> Cell:
    """Parts in a row from the right, shunts down to ground, and a stub of wire at both ends."""
    made: list[Part] = []
    wires: list[Wire] = [Wire(((STEP // 2, 0), (0, 0)))]
    x = 0
    for k, (branch, part) in enumerate(zip(network.branches, parts, strict=True), 1):
        name = f"{'C' if branch.part == CAPACITOR else 'L'}{k}"
        values = dict(part.values)
        if branch.way == SERIES:
            made.append(Part(name, part.device, (x - 4, 0), 3, False, values))
            wires.append(Wire(((x, 0), (x - 2, 0))))
            wires.append(Wire(((x - 6, 0), (x - STEP, 0))))
            x -= STEP
        else:
            made.append(Part(name, part.device, (x, 6), 0, False, values))
            made.append(Part(f"GND{k}", GROUND_SYMBOL, (x, 10)))
            wires.append(Wire(((x, 0), (x, 4))))
            wires.append(Wire(((x, 8), (x, 10))))
            wires.append(Wire(((x, 0), (x - 4, 0))))
            x -= 4
    wires.append(Wire(((x, 0), (x - STEP // 2, 0))))
    return Cell("", parts=tuple(made), wires=tuple(wires))
