"""Where a matrix has entries, and in which order its columns are eliminated so that few new ones appear."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hearthline.core.compiled.codes import I
from hearthline.core.compiled.jit import entry

MOST_FOR_MINIMUM_DEGREE = 6000
"""Unknowns up to which the order is found with one byte for each pair of them; beyond, SciPy finds one."""
ROOM = 40
"""Entries of the factors for each one of the matrix, at most; circuits need 2 to 20."""


class Pattern(NamedTuple):
    """Entries of a square matrix by column, in the order of elimination.

    `order[k]` is the column that goes k-th; `starts` (size + 1,) and `rows` are its entries. `room` is how many entries
    each factor may get. Unknowns count from 0 here: ground has no row.
    """

    order: np.ndarray
    starts: np.ndarray
    rows: np.ndarray
    room: int

    @property
    def size(self) -> int:
        """Unknowns."""
        return len(self.order)


def pattern_of(size: int, *stamps: np.ndarray) -> tuple[Pattern, tuple[np.ndarray, ...]]:
    """The pattern of everything that is stamped, and for each stamp where its value goes in the matrix's values.

    A stamp (count,) is row · (size + 1) + column, both counted with ground as 0, as in `System.slots`. What is in the row
    or the column of ground goes to an extra place behind all values.
    """
    width = size + 1
    wanted = np.concatenate(stamps).astype(np.int64)
    rows, columns = np.divmod(wanted, width)
    real = (rows > 0) & (columns > 0)
    keys = np.unique((columns[real] - 1) * size + rows[real] - 1)  # by column, then by row
    columns_of, rows_of = np.divmod(keys, size) if size else (keys, keys)
    starts = np.searchsorted(columns_of, np.arange(size + 1))
    order = _order(size, starts, rows_of)
    counts = np.diff(starts)[order]
    new_starts = np.concatenate([[0], np.cumsum(counts)]).astype(np.int64)
    shift = np.empty(size, np.int64)
    shift[order] = new_starts[:-1] - starts[order]
    target = np.arange(len(keys)) + np.repeat(shift, np.diff(starts))
    new_rows = np.empty(len(keys), np.int64)
    new_rows[target] = rows_of
    room = min(size * size, ROOM * len(keys)) + size
    slots = tuple(_slots(stamp, width, keys, target) for stamp in stamps)
    return Pattern(order, new_starts, new_rows, room), slots


def _slots(stamp: np.ndarray, width: int, keys: np.ndarray, target: np.ndarray) -> np.ndarray:
    rows, columns = np.divmod(stamp.astype(np.int64), width)
    real = (rows > 0) & (columns > 0)
    found = np.full(len(stamp), len(keys), np.int64)
    found[real] = target[np.searchsorted(keys, (columns[real] - 1) * (width - 1) + rows[real] - 1)]
    return found


def _order(size: int, starts: np.ndarray, rows: np.ndarray) -> np.ndarray:
    if size > MOST_FOR_MINIMUM_DEGREE:
        return _order_of_many(size, starts, rows)
    order = np.zeros(size, np.int64)
    minimum_degree(starts.astype(np.int64), rows.astype(np.int64), order)
    return order


def _order_of_many(size: int, starts: np.ndarray, rows: np.ndarray) -> np.ndarray:
    """From a factorisation of numbers that are easy to factor; only its order is of interest."""
    from scipy.sparse import csc_array, eye_array
    from scipy.sparse.linalg import splu  # late: a quarter of a second, for large circuits only

    easy = csc_array((np.ones(len(rows)), rows, starts), (size, size)) + 10.0 * len(rows) / size * eye_array(size)
    return splu(csc_array(easy), permc_spec="MMD_AT_PLUS_A").perm_c.astype(np.int64).argsort()


@entry(I, I, I, gives=None)
def minimum_degree(starts, rows, order):
    """Finds the `order` (size,) that always takes the unknown with the fewest neighbours (Tinney and Walker 1967, scheme 2),
    on the pattern of the matrix and its transpose together. The first of equals goes first, so that the order is the
    same everywhere."""
    size = order.shape[0]
    joined = np.zeros((size, size), np.bool_)
    for column in range(size):
        for k in range(starts[column], starts[column + 1]):
            if rows[k] != column:
                joined[rows[k], column] = joined[column, rows[k]] = True
    degree = np.zeros(size, np.int64)
    for i in range(size):
        degree[i] = np.sum(joined[i])
    alive = np.ones(size, np.bool_)
    near = np.zeros(size, np.int64)
    for step in range(size):
        best, minimum = -1, size + 1
        for i in range(size):
            if alive[i] and degree[i] < minimum:
                best, minimum = i, degree[i]
        order[step], alive[best] = best, False
        count = 0
        for i in range(size):
            if joined[best, i]:
                near[count] = i
                count += 1
        for a in range(count):
            i = near[a]
            joined[i, best] = False
            degree[i] -= 1
            for b in range(a):
                j = near[b]
                if not joined[i, j]:
                    joined[i, j] = joined[j, i] = True
                    degree[i] += 1
                    degree[j] += 1
