"""Factors of a symmetric sparse matrix, one dense front after the other (multifrontal: Duff and Reid, ACM Trans. Mathematical
Software 1983; Liu, SIAM Review 1992).

Unknowns are divided by nested dissection (George, SIAM Journal on Numerical Analysis 1973): two halves first, what lies between
them last. Each piece with all that it touches above it is a dense matrix: its own unknowns are eliminated by LAPACK, what is
left is added to the one above. Halves are cut by a plane across the longest side: where unknowns are is known.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.linalg.lapack import get_lapack_funcs
from scipy.sparse import csr_array

from hearthline.core.fields.gathering import added, added_complex

SMALL = 120
"""Unknowns that are left together."""


@dataclass(frozen=True)
class Piece:
    """Unknowns of its `own`, those `above` that it touches, and which pieces come right before it."""

    own: np.ndarray
    above: np.ndarray
    below: tuple[int, ...]


class Division:
    """How unknowns are divided, by where a matrix has something: made once for all matrices of that pattern. Each unknown has a
    place of its own (`places`: unknowns, axes), in steps of the mesh; those that touch are near each other, or it is slow."""

    def __init__(self, matrix: csr_array, places: np.ndarray):
        self._matrix, self._places = csr_array(matrix), places
        self.pieces: list[Piece] = []
        self._gone = np.zeros(len(places), bool)
        if len(places):
            self._divide(np.arange(len(places)))

    def _divide(self, some: np.ndarray) -> int:
        """Appends the pieces of some unknowns, what comes first first; the place of the last."""
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
        begin, count = self._matrix.indptr[some], np.diff(self._matrix.indptr)[some]
        skipped = np.repeat(begin - np.cumsum(count) + count, count)
        return np.unique(self._matrix.indices[skipped + np.arange(count.sum())])

    def _append(self, own: np.ndarray, below: tuple[int, ...]) -> int:
        """A piece; what it touches and was not yet eliminated lies above it."""
        touched = np.unique(np.concatenate([self._touched(own), *(self.pieces[k].above for k in below)]))
        self._gone[own] = True
        self.pieces.append(Piece(own, touched[~self._gone[touched]], below))
        return len(self.pieces) - 1


class Factors:
    """Of a symmetric matrix, real or complex, not necessarily definite: pivots are sought within each front."""

    def __init__(self, matrix: csr_array, division: Division):
        whole = csr_array(matrix)
        self.division = division
        self.kind = whole.dtype
        self._factor, self._solve = get_lapack_funcs(("getrf", "getrs"), (np.zeros(0, self.kind),))
        self._added = added_complex if np.iscomplexobj(whole.data) else added
        self.fronts: list[tuple[np.ndarray, np.ndarray, np.ndarray]] = []
        left: dict[int, np.ndarray] = {}
        place = np.full(whole.shape[0], -1)
        for k, piece in enumerate(self.division.pieces):
            left[k] = self._eliminate(
                whole, piece, place, [(self.division.pieces[j].above, left.pop(j)) for j in piece.below]
            )

    def _eliminate(
        self, whole: csr_array, piece: Piece, place: np.ndarray, below: list[tuple[np.ndarray, np.ndarray]]
    ) -> np.ndarray:
        """Keeps the factors of a piece; what it leaves for those above."""
        every, own = np.concatenate([piece.own, piece.above]), len(piece.own)
        place[every] = np.arange(len(every))
        front = np.zeros((len(every), len(every)), self.kind)
        some = whole[piece.own]
        rows, columns, values = np.repeat(np.arange(own), np.diff(some.indptr)), place[some.indices], some.data
        here = columns >= 0
        rows, columns, values = rows[here], columns[here], values[here]
        front[rows, columns] = values
        front[columns, rows] = values
        for unknowns, update in below:
            self._added(front, place[unknowns], update)
        place[every] = -1
        if not own:
            return front
        lu, pivots, _ = self._factor(front[:own, :own])
        across, _ = self._solve(lu, pivots, front[:own, own:])
        self.fronts.append((lu, pivots, across))
        return np.ascontiguousarray(front[own:, own:] - front[own:, :own] @ across)

    def solve(self, right: np.ndarray) -> np.ndarray:
        """Of one right side or several (unknowns, ...)."""
        found = np.array(right, np.result_type(right, self.kind)).reshape(len(right), -1)
        pieces = [one for one in self.division.pieces if len(one.own)]
        for piece, (_, _, across) in zip(pieces, self.fronts, strict=True):
            found[piece.above] -= across.T @ found[piece.own]
        for piece, (lu, pivots, across) in zip(reversed(pieces), reversed(self.fronts), strict=True):
            own = self._solved(lu, pivots, found[piece.own])
            found[piece.own] = own - across @ found[piece.above]
        return found.reshape(right.shape)

    def _solved(self, lu: np.ndarray, pivots: np.ndarray, right: np.ndarray) -> np.ndarray:
        if np.iscomplexobj(right) and not np.iscomplexobj(lu):
            return self._solve(lu, pivots, right.real)[0] + 1j * self._solve(lu, pivots, right.imag)[0]
        return self._solve(lu, pivots, right)[0]
