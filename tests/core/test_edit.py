"""Operations on a drawing: whatever is moved, turned or flipped stays joined to what it was joined to."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from hearthline.core.circuit.cell import Cell, Label, Part, Pin, Wire
from hearthline.core.circuit.edit.draw import wired, with_part, without
from hearthline.core.circuit.edit.motion import Motion, back
from hearthline.core.circuit.edit.move import anchors, moved, tidied
from hearthline.core.circuit.edit.picked import Picked, everything
from tests.strategies import LIBRARY, drawings, partition

quick = settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))


def some_of(cell: Cell, chosen) -> Picked:
    """Parts and pins by what a test drew."""
    names = [name for name, take in zip([p.name for p in (*cell.parts, *cell.pins)], chosen, strict=False) if take]
    return Picked(
        frozenset(p.name for p in cell.parts if p.name in names), frozenset(p.name for p in cell.pins if p.name in names)
    )


@quick
@given(drawings(), st.lists(st.booleans(), min_size=8, max_size=8), st.sampled_from([(0, 60), (90, 3), (-70, -7), (5, -50)]))
def test_moving_keeps_what_is_joined(cell, chosen, shift):
    """Parts that are moved to free paper pull their wires behind them and touch nothing else."""
    picked = some_of(cell, chosen)
    new, _ = moved(cell, picked, LIBRARY, Motion(shift))
    assert partition(new) == partition(cell)
    assert all(a[0] == b[0] or a[1] == b[1] for wire in new.wires for a, b in pairwise(wire.points))


@quick
@given(
    drawings(), st.lists(st.booleans(), min_size=8, max_size=8), st.integers(-3, 3), st.integers(-3, 3), st.integers(0, 3), st.booleans()
)  # fmt: skip
def test_small_moves_turns_and_flips_keep_what_is_joined(cell, chosen, dx, dy, quarters, flip):
    """In place, where nothing new is touched."""
    picked = some_of(cell, chosen)
    centre = next((p.at for p in cell.parts if p.name in picked.parts), (0, 0))
    motion = Motion((dx, dy), quarters, flip, centre)
    new, _ = moved(cell, picked, LIBRARY, motion)
    bare = replace(new, wires=tuple(w for w in cell.wires if w in new.wires))
    places = list(anchors(new, LIBRARY).values())
    assume(len(set(places)) == len(places))
    joined = partition(cell)
    assume(all(any(group <= whole for whole in joined) for group in partition(bare)))
    assert partition(new) == joined


@quick
@given(drawings(), st.integers(0, 3), st.booleans())
def test_turning_everything_and_back_is_nothing(cell, quarters, flip):
    """The inverse motion gives the same drawing."""
    motion = Motion((0, 0), quarters, flip, (3, 5))
    there, picked = moved(cell, everything(cell), LIBRARY, motion)
    again, _ = moved(there, picked, LIBRARY, back(motion))
    assert [(p.at, p.turn, p.flip) for p in again.parts] == [(p.at, p.turn, p.flip) for p in cell.parts]
    assert partition(again) == partition(cell)


@quick
@given(drawings())
def test_tidying_twice_is_tidying_once(cell):
    """And it never changes what is joined."""
    once = tidied(cell, LIBRARY)
    assert partition(once) == partition(cell)
    assert set(tidied(once, LIBRARY).wires) == set(once.wires)
