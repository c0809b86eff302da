"""Words find their places: nothing lies on anything where there is room, names are never left out, and little moves."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from hearthline.app.start import DEMO
from hearthline.core.circuit.edit.compact import compacted
from hearthline.core.circuit.flatten import Library
from hearthline.core.formats.project_folder import read_project
from hearthline.core.places import Item, Spot, arranged
from tests.examples import examples


def grid_of_items(columns: int, rows: int, pitch: float, wide: float) -> tuple[list[Item], np.ndarray]:
    """Square bodies in rows and columns, each with a name that may stand at four sides and a fuller form."""
    items, bodies = [], []
    for k in range(columns * rows):
        x, y = pitch * (k % columns), pitch * (k // columns)
        bodies.append((x - 10, y - 10, x + 10, y + 10))
        sides = (
            Spot(x + 12, y, 0, 0.5),
            Spot(x - 12, y, 1, 0.5, 2),
            Spot(x, y - 12, 0.5, 1, 3),
            Spot(x, y + 12, 0.5, 0, 4),
        )
        items.append(Item(k, ((wide, 14.0), (2 * wide, 28.0)), sides))
    return items, np.array(bodies)


def crossing(boxes) -> int:
    """Pairs of boxes that lie on each other."""
    return sum(
        a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3] for k, a in enumerate(boxes) for b in boxes[:k]
    )


@examples(60)
@given(st.integers(1, 5), st.integers(1, 5), st.floats(70, 140), st.floats(20, 34))
def test_where_there_is_room_nothing_lies_on_anything(columns, rows, pitch, wide):
    """Neither on other words nor on bodies; every item has a place."""
    items, bodies = grid_of_items(columns, rows, pitch, wide)
    found = arranged(items, bodies, np.zeros((0, 4)))
    assert found.keys() == {item.key for item in items}
    assert crossing([place.box for place in found.values()]) == 0
    assert not any(crossing([place.box, body]) for place in found.values() for body in bodies)


def test_fuller_forms_only_where_they_fit():
    """Alone an item is full; between neighbours it keeps to its least form and none is lost."""
    items, bodies = grid_of_items(1, 1, 100, 30)
    assert arranged(items, bodies, np.zeros((0, 4)))[0].form == 1
    items, bodies = grid_of_items(4, 4, 44, 22)
    found = arranged(items, bodies, np.zeros((0, 4)), None, (-12, -12, 144, 144))
    assert len(found) == 16
    assert 0 in {place.form for place in found.values()}
    assert crossing([place.box for place in found.values()]) == 0


def test_the_paper_ends_somewhere():
    """What would lie beyond the edge stands at another side."""
    items, bodies = grid_of_items(1, 1, 100, 30)
    place = arranged(items, bodies, np.zeros((0, 4)), None, (-60, -60, 15, 60))[0]
    assert place.box[2] <= 15


def test_what_stood_somewhere_stays():
    """A slightly better place is no reason to move; a taken one is."""
    spots = (Spot(0, 0, 0, 0), Spot(40, 0, 0, 0, 5.0))
    item, none = Item("a", ((10.0, 10.0),), spots), np.zeros((0, 4))
    assert arranged([item], none, none)["a"].spot == 0
    assert arranged([item], none, none, {"a": 1})["a"].spot == 1
    assert arranged([item], np.array([(39.0, 0.0, 52.0, 12.0)]), none, {"a": 1})["a"].spot == 0


def test_bringing_together_changes_no_net_and_no_order():
    """Of every cell of the demo; empty columns shrink, and once more changes nothing."""
    project = read_project(DEMO)
    kit = project.kit
    for name, cell in project.cells.items():
        library = Library(project.cells, kit.symbols, kit.templates, kit.modules)
        near = compacted(cell, library, 2, 2)
        after = Library({**project.cells, name: near}, kit.symbols, kit.templates, kit.modules)
        assert library.connections(cell).terminals == after.connections(near).terminals
        assert compacted(near, after, 2, 2) == near
        for a, b in zip(cell.parts, near.parts, strict=True):
            for c, d in zip(cell.parts, near.parts, strict=True):
                assert (a.at[0] < c.at[0]) == (b.at[0] < d.at[0])
                assert (a.at[1] < c.at[1]) == (b.at[1] < d.at[1])
