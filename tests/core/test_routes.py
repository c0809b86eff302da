"""Ways for wires: short, at right angles, and never on another net."""

from __future__ import annotations

import math
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hearthline.core.circuit.cell import Wire
from hearthline.core.circuit.edit.move import cleaned
from hearthline.core.circuit.edit.route import BEND, Field, route, simple_ways, steps_between
from hearthline.core.circuit.edit.tidy import tidy
from tests.examples import examples

places = st.tuples(st.integers(-12, 12), st.integers(-12, 12))
quick = examples(60)


def length(way) -> int:
    """In grid steps."""
    return sum(abs(a[0] - b[0]) + abs(a[1] - b[1]) for a, b in pairwise(way))


@quick
@given(places, places)
def test_on_bare_paper_a_way_has_the_least_length_and_one_bend_at_most(a, b):
    """Straight where it can be."""
    way = route(a, b, Field())
    assert length(way) == abs(a[0] - b[0]) + abs(a[1] - b[1])
    assert len(way) <= (2 if a[0] == b[0] or a[1] == b[1] else 3)
    assert all(w[0] == a and w[-1] == b for w in simple_ways(a, b))


@quick
@given(places, places, st.lists(st.tuples(places, places), max_size=5), st.lists(places, max_size=8))
def test_a_way_touches_no_other_net(a, b, others, blocked):
    """It may cross a wire in its middle, straight; never run along it, bend on it, or go through an end or terminal."""
    field = Field()
    field.block(place for place in blocked if place not in (a, b))
    for start, end in others:
        way = next(w for w in simple_ways(start, end))
        if start != end and a not in _covered(way) and b not in _covered(way):
            field.add_wire(way)
    way = route(a, b, field)
    slanted = any(p[0] != q[0] and p[1] != q[1] for p, q in pairwise(way))
    if a != b and not slanted:  # a slanted line is the last resort, where there is no way
        assert field.cost(way) < math.inf


def _covered(way) -> set:
    return {place for piece in pairwise(way) for place in steps_between(*piece)}


def test_a_way_goes_around_a_part_and_takes_a_crossing_rather_than_a_long_detour():
    """What a bend, a crossing and a body cost decides."""
    field = Field()
    field.add_body((4, -3, 8, 3))
    way = route((0, 0), (12, 0), field)
    assert not any(place in field.bodies for place in _covered(way))
    fence = Field()
    fence.add_wire(((6, -40), (6, 40)))
    assert route((0, 0), (12, 0), fence) == ((0, 0), (12, 0))
    assert fence.cost(((0, 0), (12, 0))) < 12 + BEND


def test_where_there_is_no_way_the_straight_line_remains():
    """A place that is walled in."""
    field = Field()
    field.block([(1, 0), (-1, 0), (0, 1), (0, -1)])
    assert route((0, 0), (9, 9), field) == ((0, 0), (9, 9))


@pytest.mark.parametrize(
    ("given_", "expected"),
    [
        ([((0, 0), (4, 0)), ((4, 0), (8, 0))], {((0, 0), (8, 0))}),
        ([((0, 0), (5, 0)), ((3, 0), (8, 0))], {((0, 0), (8, 0))}),
        ([((0, 0), (8, 0)), ((4, 0), (4, 4))], {((0, 0), (4, 0)), ((4, 0), (8, 0)), ((4, 0), (4, 4))}),
        ([((0, 0), (8, 0)), ((4, -4), (4, 4))], {((0, 0), (8, 0)), ((4, -4), (4, 4))}),
        ([((0, 0), (4, 0), (4, 0), (4, 4))], {((0, 0), (4, 0), (4, 4))}),
        ([((0, 0), (0, 0))], set()),
    ],
)
def test_wires_in_clean_form(given_, expected):
    """Joined where straight, divided where joined, left alone where they merely cross."""
    found = {wire.points for wire in tidy([Wire(points) for points in given_])}
    assert {min(points, points[::-1]) for points in found} == {min(points, points[::-1]) for points in expected}


def test_a_way_without_what_adds_nothing():
    """Points twice there, in the middle, or there and back."""
    assert cleaned([(0, 0), (0, 0), (2, 0), (4, 0), (4, 3)]) == ((0, 0), (4, 0), (4, 3))
    assert cleaned([(0, 0), (6, 0), (4, 0), (4, 2)]) == ((0, 0), (4, 0), (4, 2))
