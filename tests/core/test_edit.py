"""Operations on a drawing: whatever is moved, turned or flipped stays joined to what it was joined to."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

from hypothesis import Phase, assume, example, given
from hypothesis import strategies as st

from hearthline.core.circuit.cell import Cell
from hearthline.core.circuit.edit.align import WAYS, aligned
from hearthline.core.circuit.edit.blocks import dissolved, made_block
from hearthline.core.circuit.edit.draw import rerouted
from hearthline.core.circuit.edit.motion import Motion
from hearthline.core.circuit.edit.move import anchors, moved, tidied
from hearthline.core.circuit.edit.picked import Picked, everything
from hearthline.core.circuit.flatten import Library, flatten
from hearthline.core.circuit.nets import on_segment
from hearthline.core.errors import CircuitError
from hearthline.core.formats.cell_file import read_cell, write_cell
from tests import counterexamples as wrong
from tests.examples import examples
from tests.strategies import LIBRARY, drawings, partition

NO_SHRINK = (Phase.explicit, Phase.reuse, Phase.generate)
quick = examples(40, phases=NO_SHRINK)


def some_of(cell: Cell, chosen) -> Picked:
    """Parts and pins by what a test drew."""
    names = [name for name, take in zip([p.name for p in (*cell.parts, *cell.pins)], chosen, strict=False) if take]
    return Picked(
        frozenset(p.name for p in cell.parts if p.name in names),
        frozenset(p.name for p in cell.pins if p.name in names),
    )


@quick
@given(
    drawings(),
    st.lists(st.booleans(), min_size=8, max_size=8),
    st.sampled_from([(0, 60), (90, 3), (-70, -7), (5, -50)]),
)
@example(wrong.THROUGH_AN_END_THAT_STAYS, [True, True, False, True], (0, 60))
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
    old, now = anchors(cell, LIBRARY), anchors(new, LIBRARY)
    assume(len(set(now.values())) == len(now))
    landed = [at for key, at in now.items() if at != old[key]]
    pieces = [piece for wire in cell.wires for piece in pairwise(wire.points)]
    assume(not any(on_segment(at, piece) for at in landed for piece in pieces))
    assert partition(new) == partition(cell)


def back(motion: Motion) -> Motion:
    """The motion that undoes another about the same centre, for turns and flips without a shift."""
    return replace(motion, quarters=motion.quarters if motion.flip else -motion.quarters)


@quick
@given(drawings(), st.integers(0, 3), st.booleans())
@example(wrong.TIDIED_WHILE_CARRIED, 2, False)
@example(wrong.A_LOOP_OF_WIRES, 1, False)
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
    assert ways(tidied(once, LIBRARY)) == ways(once)


def ways(cell: Cell) -> set:
    """Its wires, from whichever end."""
    return {min(wire.points, wire.points[::-1]) for wire in cell.wires}


def joints(cell: Cell, library: Library) -> set[frozenset]:
    """What is joined in the flat circuit: sets of (part, terminal number), blocks looked through."""
    groups: dict = {}
    for element in flatten(cell, library).elements:
        for k, net in enumerate(element.nets):
            groups.setdefault(net, set()).add((element.name.rpartition(".")[2], k))
    return {frozenset(group) for group in groups.values()}


def valued(cell: Cell) -> Cell:
    """The drawing with the values that its parts need, and no ground that is tied to a pin."""
    values = {"n_rvt": {"w": "1u", "l": "130n"}, "resistor": {"r": "1k"}, "voltage-controlled voltage": {"gain": "2"}}
    return replace(cell, parts=tuple(replace(p, values=values.get(p.device, {})) for p in cell.parts))


@quick
@given(drawings(), st.lists(st.booleans(), min_size=8, max_size=8))
@example(wrong.OUT_OF_A_BLOCK, [False, False, True, False])
def test_a_block_made_and_dissolved_is_the_same_circuit(cell, chosen):
    """In both steps every terminal stays joined to what it was joined to."""
    cell = valued(cell)
    picked = some_of(cell, chosen)
    assume(picked.parts)
    try:
        before = joints(cell, LIBRARY)
    except CircuitError:  # two names on one net
        assume(False)
    made = made_block(cell, picked, "piece", LIBRARY)
    library = replace(LIBRARY, cells={"piece": made.inner})
    assert joints(made.outer, library) == before
    flat, inside = dissolved(made.outer, made.block, library)
    assert joints(flat, library) == before
    assert len(inside.parts) >= len([p for p in cell.parts if p.name in picked.parts])


@quick
@given(drawings())
def test_a_cell_file_read_again_is_the_cell(tmp_path_factory, cell):
    """Saving and loading is identity, over an older file too."""
    path = tmp_path_factory.mktemp("cells") / "drawn.toml"
    write_cell(path, replace(cell, parts=cell.parts[:1], wires=()))
    write_cell(path, cell)
    assert read_cell(path, "drawn.toml") == cell


@quick
@given(drawings())
def test_leading_wires_anew_keeps_what_is_joined(cell):
    """All of them, one after the other."""
    new = rerouted(cell, frozenset(cell.wires), LIBRARY)
    assert partition(new) == partition(cell)


@quick
@given(drawings(), st.sampled_from(WAYS))
def test_lining_parts_up_keeps_what_is_joined(cell, way):
    """Where nothing is pushed onto something else."""
    picked = Picked(frozenset(p.name for p in cell.parts[:3]))
    new = aligned(cell, picked, LIBRARY, way)
    places = list(anchors(new, LIBRARY).values())
    boxes = {part.at for part in new.parts}
    assume(len(set(places)) == len(places) and len(boxes) == len(new.parts))
    old = {frozenset(group) for group in partition(cell) if len(group) > 1}
    assert all(any(group <= other for other in partition(new)) for group in old)
