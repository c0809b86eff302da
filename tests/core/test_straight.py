"""Factors written out for one pattern, against those that look up every index: the same to the last bit."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from benchmarks.circuits import ring, system_of
from hearthline.core.compiled.codes import F
from hearthline.core.compiled.jit import entry
from hearthline.core.engine.linear import sparse, straight
from hearthline.core.engine.linear.pattern import pattern_of
from hearthline.core.engine.linear.sparse import GOOD, LuRoom, lu_in, lu_room, steps_of
from hearthline.core.engine.pointers import pointer
from hearthline.core.engine.transient import run
from hearthline.core.engine.transient.run import Times, transient
from hearthline.core.engine.worker import REAL_ROOM
from tests.approximation import approx
from tests.examples import examples


@entry(REAL_ROOM, F, F)
def filled_and_solved(room, values, right):
    """What filling comes to; right becomes the solution."""
    lu = lu_in(room)
    done = sparse.fill(lu, pointer(values, 0))
    if done == 0:
        sparse.solve(lu, pointer(right, 0))
    return done


def matrix(n: int, density: float, seed: int):
    """A pattern with a full diagonal, two sets of numbers on it, and a right side."""
    rng = np.random.default_rng(seed)
    there = (rng.uniform(size=(n, n)) < density) | np.eye(n, dtype=bool)
    rows, columns = (1 + one for one in np.nonzero(there))
    pattern, _ = pattern_of(n, rows * (n + 1) + columns)
    numbers = [np.append(rng.normal(size=len(pattern.rows)), 0.0) for _ in range(2)]
    return pattern, numbers, np.append(0.0, rng.normal(size=n))


@examples(20)
@given(n=st.integers(1, 25), density=st.floats(0.02, 0.4), seed=st.integers(0, 9999), decays=st.booleans())
def test_it_gives_the_same_numbers(n, density, seed, decays):
    """Of any pattern, also where a pivot is nothing now: then a new pattern is found, and the old code is not used again."""
    pattern, (first, second), right = matrix(n, density, seed)
    if decays:
        second = np.where(np.random.default_rng(seed).uniform(size=len(second)) < 0.5, 0.0, second)
    rooms = lu_room(pattern), lu_room(pattern)
    found = []
    for k, room in enumerate(rooms):
        one = right.copy()
        if filled_and_solved(room, first, one) != GOOD:
            return
        if k:
            addresses = straight.made(steps_of(room))
            room.whole[sparse.REFILL], room.whole[sparse.SOLUTION] = addresses
        two = right.copy()
        done = filled_and_solved(room, second, two)
        found.append((done, two, room.numbers[: 2 * room.room + n].copy(), room.index.copy()))
        if k and done == GOOD:
            assert room.whole[sparse.REFILL] in (0, addresses[0])
    (done, wanted, factors, index), (again, got, ours, ours_index) = found
    assert done == again
    if done == GOOD:
        assert got.tobytes() == wanted.tobytes()
        assert ours.tobytes() == factors.tobytes()
        assert ours_index.tobytes() == index.tobytes()


def test_it_solves():
    """Against NumPy, so that both are right."""
    pattern, (first, second), right = matrix(12, 0.3, 5)
    room = lu_room(pattern)
    assert filled_and_solved(room, first, right.copy()) == GOOD
    room.whole[sparse.REFILL], room.whole[sparse.SOLUTION] = straight.made(steps_of(room))
    got = right.copy()
    assert filled_and_solved(room, second, got) == GOOD
    dense = np.zeros((12, 12))
    dense[pattern.rows, np.repeat(pattern.order, np.diff(pattern.starts))] = second[:-1]
    assert got[1:] == approx(np.linalg.solve(dense, right[1:]), rel=1e-9)


def test_a_long_march_takes_it(monkeypatch):
    """The rows of a ring are those of a march without it, to the last bit."""
    system, times = system_of(ring()), Times(1e-9, 5e-9, longest=1e-9, rel=1e-3, given=True)
    taken = []

    def at_once(room: LuRoom) -> None:
        room.whole[sparse.REFILL], room.whole[sparse.SOLUTION] = straight.made(steps_of(room))
        taken.append(room)

    monkeypatch.setattr(run, "CHUNK_NUMBERS", 1000)
    monkeypatch.setattr(run, "offer", lambda room: None)
    plain = transient(system, times).tracks[0]
    monkeypatch.setattr(run, "offer", at_once)
    found = transient(system, times).tracks[0]
    assert len(taken) > 2
    assert np.concatenate(found.pieces).tobytes() == np.concatenate(plain.pieces).tobytes()
