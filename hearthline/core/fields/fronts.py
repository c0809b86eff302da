"""Factors of a symmetric sparse matrix, one dense front after the other (multifrontal: Duff and Reid, ACM Trans. Mathematical
Software 1983; Liu, SIAM Review 1992).

Unknowns are divided by nested dissection (George, SIAM Journal on Numerical Analysis 1973): two halves first, what lies between
them last. Each piece with all that it touches above it is a dense matrix: its own unknowns are eliminated by LAPACK, what is
left is added to the one above. Halves are cut by a plane across the longest side: where unknowns are is known.
"""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property, partial
from itertools import pairwise
from typing import Any

import numpy as np
from scipy.linalg.lapack import get_lapack_funcs
from scipy.sparse import csr_array

from hearthline.core.fields.gathering import added, added_complex
from hearthline.core.fields.going import Going, always, heed
from hearthline.core.fields.passes import SIDES, Fronts, down_complex, down_real, up_complex, up_real
from hearthline.core.workers import worker_count

SMALL, LARGE, WIDE = 120, 4000, 100
"""Unknowns that are left together; from which on halves are worked on at a time; and half of a front that is worth parting."""


@dataclass(frozen=True)
class Piece:
    """Unknowns of its `own`, those `above` that it touches, and which pieces come right before it."""

    own: np.ndarray
    above: np.ndarray
    below: tuple[int, ...]

    @cached_property
    def every(self) -> np.ndarray:
        """Its own, then those above."""
        return np.concatenate([self.own, self.above])


class Division:
    """How unknowns are divided, by where a matrix has something: made once for all matrices of that pattern. Each unknown has a
    place of its own (`places`: unknowns, axes), in steps of the mesh; those that touch are near each other, or it is slow.
    Raises HousingError where `going` says no."""

    def __init__(self, matrix: csr_array, places: np.ndarray, going: Going = always):
        self._matrix, self._places, self._going = csr_array(matrix), places, going
        self.pieces: list[Piece] = []
        self.size = len(places)
        self._gone = np.zeros(self.size, bool)
        if self.size:
            self._divide(np.arange(self.size))
        ends = self.pieces[-1].below if self.pieces else ()
        self.branches = [range(begin, end) for begin, end in pairwise([0, *(end + 1 for end in ends)])]
        """Places of pieces that touch nothing of each other's, and the rest."""
        self.top = range(ends[-1] + 1 if ends else 0, len(self.pieces))

    @cached_property
    def layout(self) -> Fronts:
        """As compiled passes read it."""
        owns = np.array([len(one.own) for one in self.pieces], np.int64)
        counts = np.array([len(one.every) for one in self.pieces], np.int64)
        every = np.concatenate([np.zeros(0, np.int64), *(one.every for one in self.pieces)]).astype(np.int64)
        return Fronts(owns, counts, np.cumsum(counts) - counts, every, np.cumsum(owns * counts) - owns * counts)

    def _divide(self, some: np.ndarray) -> int:
        """Appends the pieces of some unknowns, what comes first first; the place of the last."""
        heed(self._going)
        if len(some) <= SMALL:
            return self._append(some, ())
        first, second, middle = self._halves(some)
        below = tuple(self._divide(half) for half in (first, second) if len(half))
        return self._append(middle, below)

    def _halves(self, some: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Two sets that do not touch, and what is between them."""
        places = self._places[some]
        along = places[:, int(np.argmax(np.ptp(places, axis=0)))]
        left = along < np.median(along)
        if not left.any():  # more than half of them are at the lower end
            left = along <= along.min()
        first, rest = some[left], some[~left]
        between = np.isin(rest, self._touched(first))
        return first, rest[~between], rest[between]

    def _touched(self, some: np.ndarray) -> np.ndarray:
        """By some unknowns, each once, rising."""
        begin = self._matrix.indptr[some]
        count = self._matrix.indptr[some + 1] - begin
        skipped = np.repeat(begin - np.cumsum(count) + count, count)
        return np.unique(self._matrix.indices[skipped + np.arange(count.sum())])

    def _append(self, own: np.ndarray, below: tuple[int, ...]) -> int:
        """A piece; what it touches and was not yet eliminated lies above it."""
        touched = np.unique(np.concatenate([self._touched(own), *(self.pieces[k].above for k in below)]))
        self._gone[own] = True
        self.pieces.append(Piece(own, touched[~self._gone[touched]], below))
        return len(self.pieces) - 1


def factored(matrix: csr_array, places: np.ndarray, going: Going = always) -> Factors:
    """Of a matrix whose pattern is its own. Raises HousingError where `going` says no."""
    return Factors(matrix, Division(matrix, places, going), going)


class Factors:
    """Of a symmetric matrix, real or complex, not necessarily definite: pivots are sought within each front. Both halves of the
    division are worked on at a time. Raises HousingError where `going` says no."""

    def __init__(self, matrix: csr_array, division: Division, going: Going = always):
        self._matrix, self._going = csr_array(matrix), going
        self.division = division
        self.kind = self._matrix.dtype
        self._factor, self._solve = get_lapack_funcs(("getrf", "getrs"), (np.zeros(0, self.kind),))
        self._added = added_complex if np.iscomplexobj(self._matrix.data) else added
        layout = division.layout
        self._numbers = np.empty(int((layout.owns * layout.counts).sum()), self.kind)
        """Of each piece what its unknowns are by their own right sides and by those above them (all, own)."""
        left: dict[int, np.ndarray] = {}
        for one in _at_a_time([partial(self._eliminate, branch, {}) for branch in division.branches], division.size):
            left |= one
        self._eliminate(division.top, left)

    def _eliminate(self, some: range, left: dict[int, np.ndarray]) -> dict[int, np.ndarray]:
        """Keeps the factors of some pieces, one after the other; what they leave for those above them, by what is `left`."""
        place = np.full(self.division.size, -1)
        for k in some:
            heed(self._going)
            piece = self.division.pieces[k]
            place[piece.every] = np.arange(len(piece.every))
            front = self._begun(piece, place)
            for j in piece.below:
                self._added(front, place[self.division.pieces[j].above], left.pop(j))
            place[piece.every] = -1
            left[k] = self._reduced(k, front)
        return left

    def _begun(self, piece: Piece, place: np.ndarray) -> np.ndarray:
        """What the matrix says of a piece's own unknowns."""
        own, count = len(piece.own), len(piece.every)
        front = np.zeros((count, count), self.kind)
        some = self._matrix[piece.own]
        rows, columns, values = np.repeat(np.arange(own), np.diff(some.indptr)), place[some.indices], some.data
        here = columns >= 0
        rows, columns, values = rows[here], columns[here], values[here]
        front[rows, columns] = values
        front[columns, rows] = values
        return front

    def _reduced(self, k: int, front: np.ndarray) -> np.ndarray:
        """What is left of a front without the piece's own unknowns."""
        own, begin = len(self.division.pieces[k].own), self.division.layout.places[k]
        if not own:
            return front
        lu, pivots, _ = self._factor(front[:own, :own])
        right = np.hstack([np.eye(own, dtype=self.kind), -front[:own, own:]])
        solved, _ = self._solve(lu, pivots, right, overwrite_b=True)
        self._numbers[begin : begin + solved.size] = solved.T.ravel()
        return _updated(front[own:, own:], front[own:, :own], solved[:, own:])

    def solve(self, right: np.ndarray) -> np.ndarray:
        """Of one right side or several (unknowns, ...)."""
        sides = right.reshape(len(right), -1)
        if np.iscomplexobj(right) and not np.iscomplexobj(self._numbers):
            solved = self.solve(np.hstack([sides.real, sides.imag]))
            return (solved[:, : sides.shape[1]] + 1j * solved[:, sides.shape[1] :]).reshape(right.shape)
        found = np.zeros((-(-sides.shape[1] // SIDES), len(right), SIDES), self.kind)
        for k, some in enumerate(found):
            group = sides[:, k * SIDES : (k + 1) * SIDES]
            some[:, : group.shape[1]] = group
        self._pass(found)
        return np.concatenate(list(found), axis=1)[:, : sides.shape[1]].reshape(right.shape)

    def _pass(self, found: np.ndarray) -> None:
        """Puts unknowns into the place of right sides (groups, unknowns, sides)."""
        division, layout, numbers = self.division, self.division.layout, self._numbers
        up, down = (up_complex, down_complex) if np.iscomplexobj(numbers) else (up_real, down_real)

        def above(some: range) -> np.ndarray:
            more = np.zeros_like(found)
            up(layout, numbers, some.start, some.stop, found, more, self._room)
            return more

        def below(some: range) -> None:
            down(layout, numbers, some.start, some.stop, found, self._room)

        for more in _at_a_time([partial(above, branch) for branch in division.branches], division.size):
            found += more
        found += above(division.top)
        below(division.top)
        _at_a_time([partial(below, branch) for branch in division.branches], division.size)

    @property
    def _room(self) -> np.ndarray:
        """For the own unknowns of a piece."""
        return np.empty(SIDES * int(self.division.layout.owns.max(initial=0)), self.kind)


def _updated(front: np.ndarray, left: np.ndarray, across: np.ndarray) -> np.ndarray:
    """A symmetric front with `left` times `across` added, three of its four quarters at a time."""
    half = len(front) // 2
    if half < WIDE:
        return np.ascontiguousarray(front + left @ across)
    found = np.empty_like(front, order="C")
    found[:half, :half] = _updated(front[:half, :half], left[:half], across[:, :half])
    found[half:, half:] = _updated(front[half:, half:], left[half:], across[:, half:])
    found[half:, :half] = front[half:, :half] + left[half:] @ across[:, :half]
    found[:half, half:] = found[half:, :half].T
    return found


def _at_a_time(tasks: list[Callable[[], Any]], size: int) -> list:
    """What tasks give, which touch nothing of each other; of many unknowns at the same time."""
    if size < LARGE or len(tasks) < 2:
        return [task() for task in tasks]
    with ThreadPoolExecutor(min(len(tasks), worker_count())) as pool:
        return [one.result() for one in [pool.submit(task) for task in tasks]]
