"""Drawings that an operation once got wrong, as `@example`s; found by properties over random drawings."""

from __future__ import annotations

from hearthline.core.circuit.cell import Cell, Label, Part, Pin, Wire


def drawn(parts: str, wires: str) -> Cell:
    """A drawing of the kind that `tests.strategies.drawings` makes: parts as `device x y turn flip`, wires as `x,y x,y`, each
    on a line of its own."""
    lines = [line.rsplit(maxsplit=4) for line in parts.strip().splitlines()]
    placed = [(device.strip(), *map(int, numbers)) for device, *numbers in lines]
    return Cell(
        name="drawn",
        pins=(Pin("in", "input", (-12, 0)), Pin("out", "output", (48, 12))),
        parts=tuple(Part(f"X{k}", d, (x, y), turn, bool(flip)) for k, (d, x, y, turn, flip) in enumerate(placed)),
        wires=tuple(
            Wire(tuple(tuple(map(int, at.split(","))) for at in line.split())) for line in wires.strip().splitlines()
        ),
        labels=(Label("mid", (6, 6)),),
    )


THROUGH_AN_END_THAT_STAYS = drawn(
    "n_rvt 36 12 0 1\nresistor 12 12 1 0",
    """48,9 48,6 6,6
    48,9 48,12
    48,9 34,9 34,10
    6,6 6,12 10,12
    34,14 34,15
    34,15 33,15 33,12 34,12
    34,15 39,15 39,12 38,12
    14,12 15,12 15,0 -12,0""",
)
TIDIED_WHILE_CARRIED = drawn(
    "n_rvt 0 12 3 0\nground 24 24 1 0\nresistor 24 12 1 0\nground 0 0 2 1",
    """6,6 6,12
    6,12 6,24
    6,12 3,12
    6,12 21,12
    6,24 3,24 3,12
    6,24 24,24
    3,0 3,10
    3,0 0,0
    3,0 21,0 21,12
    3,10 3,12
    3,10 2,10
    21,12 22,12
    26,12 48,12
    -12,0 0,0""",
)
A_LOOP_OF_WIRES = drawn(
    "n_rvt 12 12 1 1\nresistor 36 0 2 1\nvoltage-controlled voltage 0 12 3 1\nn_rvt 12 0 1 0",
    """14,10 15,10 15,15 12,15 12,14
    14,10 14,9 12,9
    12,2 12,3
    12,3 12,9
    12,3 -3,3 -3,14 -2,14
    12,9 12,10""",
)
OUT_OF_A_BLOCK = drawn(
    "ground 12 12 3 1\nn_rvt 24 0 2 1\nn_rvt 12 0 2 0",
    """21,0 15,0 15,-3 10,-3 10,-2
    21,0 22,0
    21,0 21,-3 26,-3 26,-2
    21,0 21,12 12,12
    26,0 27,0 27,6 6,6
    10,2 10,3 48,3 48,12""",
)
