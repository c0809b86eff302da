"""Sparse LU factors with a static pattern: found once with pivoting, then filled again and again; compiled.

Left-looking elimination by columns (Gilbert and Peierls 1988): the pattern of a column is what can be reached from its
entries in the graph of the columns before it. A refill keeps pattern and pivots, and says so when a pivot has decayed.
The same functions serve real and complex matrices. Indices are unsigned: signed ones are looked at for being negative
each time, which makes a refill three times as slow.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hearthline.core.compiled.jit import inner
from hearthline.core.engine.linear.pattern import Pattern
from hearthline.core.engine.pointers import address, pointer, put
from hearthline.core.models.calling import call_kernel

DIAGONAL = 0.01
"""Share of the largest candidate that the diagonal must have to be the pivot: it keeps the factors sparse."""
DECAYED = 1e-5
"""Share of the largest entry in its column under which an old pivot is no longer good."""
TINY = 1e-40
"""A pivot below this is none: far under the conductance of any junction, far above the smallest float."""
ONE = np.uint64(1)
HAS_PATTERN, REFILL, SOLUTION = range(3)
STATES = 3
"""Entries of `state`, with which the whole numbers of the room begin."""
GOOD, REPIVOT, FULL = 0, -1, -2
"""What filling comes to; a number above 0 is the unknown that has no pivot."""


class Lu(NamedTuple):
    """The factors of one matrix of `size` unknowns and the room to make them: addresses, see `pointers`.

    Rows are counted by the step at which they were pivots. `entries` are the rows of the matrix's values in that counting;
    `row_at[k]` and `column_at[k]` say where row and column of step k stand in a vector that begins with ground.
    `state` says at HAS_PATTERN whether there is one to refill, and at REFILL and SOLUTION where code for this very pattern
    is, if there is any. From `order` on, only finding the pattern needs it.
    """

    size: object
    count: object
    room: object
    starts: object
    entries: object
    lower_starts: object
    lower_rows: object
    upper_starts: object
    upper_rows: object
    row_at: object
    column_at: object
    lower: object
    upper: object
    pivots: object
    work: object
    solution: object
    state: object
    order: object
    rows: object
    step_of: object
    marks: object
    stack: object
    place: object
    reached: object


class LuRoom(NamedTuple):
    """The memory of factors; Python holds it."""

    size: int
    count: int
    room: int
    index: np.ndarray
    whole: np.ndarray
    numbers: np.ndarray


def lu_room(pattern: Pattern, kind=np.float64) -> LuRoom:
    """Memory for factors of matrices of that pattern, real or complex."""
    n, count, room = pattern.size, len(pattern.rows), pattern.room
    index = np.zeros((n + 1) * 3 + count + 2 * room + 2 * n, np.uint32)
    index[: n + 1] = pattern.starts
    whole = np.zeros(STATES + n + count + 5 * n, np.int64)
    whole[STATES : STATES + n], whole[STATES + n : STATES + n + count] = pattern.order, pattern.rows
    return LuRoom(n, count, room, index, whole, np.zeros(2 * room + 3 * n, kind))


class Steps(NamedTuple):
    """What the factors of one pattern are made of, as arrays; see Lu."""

    starts: np.ndarray
    entries: np.ndarray
    lower_starts: np.ndarray
    lower_rows: np.ndarray
    upper_starts: np.ndarray
    upper_rows: np.ndarray
    row_at: np.ndarray
    column_at: np.ndarray


def steps_of(held: LuRoom) -> Steps:
    """Of the pattern in the room."""
    n, count, room, index = held.size, held.count, held.room, held.index
    starts, lower, upper, entries, lower_rows, upper_rows, row_at, column_at = np.split(
        index, np.cumsum([n + 1, n + 1, n + 1, count, room, room, n])
    )
    found = Steps(starts, entries, lower, lower_rows[: lower[-1]], upper, upper_rows[: upper[-1]], row_at, column_at)
    return Steps(*(one.copy() for one in found))


@inner
def lu_in(held):
    """The factors in their memory; the pattern in it is used if there is one."""
    n, count, room = held.size, held.count, held.room
    index, whole, numbers = held.index, held.whole, held.numbers
    a = 2 * (n + 1) + (n + 1) + count
    b = STATES + n + count
    c = 2 * room
    return Lu(
        n, count, room, pointer(index, 0), pointer(index, 3 * (n + 1)), pointer(index, n + 1), pointer(index, a),
        pointer(index, 2 * (n + 1)), pointer(index, a + room), pointer(index, a + 2 * room), pointer(index, a + 2 * room + n),
        pointer(numbers, 0), pointer(numbers, room), pointer(numbers, c), pointer(numbers, c + n), pointer(numbers, c + 2 * n),
        pointer(whole, 0), pointer(whole, STATES), pointer(whole, STATES + n), pointer(whole, b), pointer(whole, b + n),
        pointer(whole, b + 2 * n), pointer(whole, b + 3 * n), pointer(whole, b + 4 * n),
    )  # fmt: skip


@inner
def factor(lu, values):
    """Factors with pivoting, and keeps the pattern. GOOD, FULL, or 1 + the column that has no pivot."""
    n = lu.size
    for k in range(STATES):
        lu.state[k] = 0
    put(lu.step_of, -1, n)
    put(lu.marks, -1, n)
    for k in range(n):
        top = _reach(lu, k)
        lower, upper = np.int64(lu.lower_starts[k]), np.int64(lu.upper_starts[k])
        if max(lower, upper) + n - top > lu.room:
            return FULL
        lu.upper_starts[k + 1] = _eliminate(lu, values, k, top, upper)
        pivot_row = _choose(lu, k, top)
        if pivot_row < 0:
            return 1 + lu.order[k]
        pivot = lu.work[pivot_row]
        lu.pivots[k], lu.row_at[k], lu.column_at[k] = pivot, 1 + pivot_row, 1 + lu.order[k]
        lu.step_of[pivot_row] = k
        for t in range(top, n):
            row = lu.reached[t]
            if lu.step_of[row] < 0:
                lu.lower_rows[lower], lu.lower[lower] = row, lu.work[row] / pivot
                lower += 1
        lu.lower_starts[k + 1] = lower
    for p in range(np.int64(lu.lower_starts[n])):
        lu.lower_rows[p] = lu.step_of[np.int64(lu.lower_rows[p])]
    for p in range(lu.count):
        lu.entries[p] = lu.step_of[lu.rows[p]]
    put(lu.work, 0.0, n)
    lu.state[HAS_PATTERN] = 1
    return GOOD


@inner
def _reach(lu, k):
    """Rows that column k fills, in an order in which they can be eliminated: `reached[top:]`. Gives back top."""
    top = lu.size
    for p in range(np.int64(lu.starts[k]), np.int64(lu.starts[k + 1])):
        if lu.marks[lu.rows[p]] == k:
            continue
        head = 0
        lu.stack[0] = lu.rows[p]
        while head >= 0:
            row = lu.stack[head]
            step = lu.step_of[row]
            if lu.marks[row] != k:
                lu.marks[row] = k
                lu.place[head] = np.int64(lu.lower_starts[step]) if step >= 0 else 0
            deeper = False
            if step >= 0:
                for q in range(lu.place[head], np.int64(lu.lower_starts[step + 1])):
                    below = np.int64(lu.lower_rows[q])
                    if lu.marks[below] != k:
                        lu.place[head] = q + 1
                        head += 1
                        lu.stack[head] = below
                        deeper = True
                        break
            if not deeper:
                head -= 1
                top -= 1
                lu.reached[top] = row
    return top


@inner
def _eliminate(lu, values, k, top, upper):
    """Column k below what was eliminated before, into `work`; writes its part of the upper factor."""
    n = lu.size
    for t in range(top, n):
        lu.work[lu.reached[t]] = 0.0
    for p in range(np.int64(lu.starts[k]), np.int64(lu.starts[k + 1])):
        lu.work[lu.rows[p]] = values[p]
    for t in range(top, n):
        step = lu.step_of[lu.reached[t]]
        if step < 0:
            continue
        amount = lu.work[lu.reached[t]]
        lu.upper_rows[upper], lu.upper[upper] = step, amount
        upper += 1
        for q in range(np.int64(lu.lower_starts[step]), np.int64(lu.lower_starts[step + 1])):
            lu.work[lu.lower_rows[q]] -= lu.lower[q] * amount
    return upper


@inner
def _choose(lu, k, top):
    """The pivot's row, or -1 where no candidate is a number above nothing."""
    best, largest = -1, TINY
    for t in range(top, lu.size):
        row = lu.reached[t]
        if lu.step_of[row] < 0 and abs(lu.work[row]) > largest:
            best, largest = row, abs(lu.work[row])
    diagonal = lu.order[k]
    wanted = lu.marks[diagonal] == k and lu.step_of[diagonal] < 0
    if best >= 0 and wanted and abs(lu.work[diagonal]) >= DIAGONAL * largest:
        return diagonal
    return best


@inner
def refill(lu, values):
    """New numbers into the factors that are there. GOOD, or REPIVOT where a pivot has decayed."""
    work, lower, upper, entries, starts = lu.work, lu.lower, lu.upper, lu.entries, lu.starts
    lower_rows, lower_starts, upper_rows, upper_starts = lu.lower_rows, lu.lower_starts, lu.upper_rows, lu.upper_starts
    for k in range(np.uint64(lu.size)):
        for p in range(starts[k], starts[k + ONE]):
            work[entries[p]] = values[p]
        for p in range(upper_starts[k], upper_starts[k + ONE]):
            step = upper_rows[p]
            amount = work[step]
            work[step] = 0.0
            upper[p] = amount
            for q in range(lower_starts[step], lower_starts[step + ONE]):
                work[lower_rows[q]] -= lower[q] * amount
        pivot = work[k]
        work[k] = 0.0
        if not abs(pivot) > TINY:  # dividing by a complex 0 raises
            put(work, 0.0, lu.size)
            return REPIVOT
        inverse = 1.0 / pivot
        largest = 0.0
        for q in range(lower_starts[k], lower_starts[k + ONE]):
            row = lower_rows[q]
            amount = work[row] * inverse
            work[row] = 0.0
            lower[q] = amount
            largest = max(largest, abs(amount))
        lu.pivots[k] = pivot
        # written so that what is not a number is no good pivot either
        if not largest * DECAYED < 1.0:
            put(work, 0.0, lu.size)
            return REPIVOT
    return GOOD


@inner
def fill(lu, values):
    """Factors the matrix, with the old pivots where they are still good. GOOD, FULL, or 1 + the unknown without pivot."""
    done = REPIVOT
    if lu.state[REFILL] != 0:
        done = call_kernel(lu.state[REFILL], address(values), address(lu.lower), address(lu.upper), address(lu.pivots))
    elif lu.state[HAS_PATTERN] != 0:
        done = refill(lu, values)
    if done == REPIVOT:
        done = factor(lu, values)
    return done


@inner
def solve(lu, right):
    """Replaces right[1:] by the solution; right[0] is ground and becomes 0."""
    if lu.state[SOLUTION] != 0:
        call_kernel(lu.state[SOLUTION], address(right), address(lu.lower), address(lu.upper), address(lu.pivots))
        return
    y, lower, upper, pivots, row_at, column_at = lu.solution, lu.lower, lu.upper, lu.pivots, lu.row_at, lu.column_at
    lower_rows, lower_starts, upper_rows, upper_starts = lu.lower_rows, lu.lower_starts, lu.upper_rows, lu.upper_starts
    n = np.uint64(lu.size)
    for k in range(n):
        y[k] = right[row_at[k]]
    for k in range(n):
        amount = y[k]
        for q in range(lower_starts[k], lower_starts[k + ONE]):
            y[lower_rows[q]] -= lower[q] * amount
    for back in range(n):
        k = n - ONE - back
        amount = y[k] / pivots[k]
        right[column_at[k]] = amount
        for p in range(upper_starts[k], upper_starts[k + ONE]):
            y[upper_rows[p]] -= upper[p] * amount
    right[0] = 0.0


@inner
def solve_transposed(lu, right):
    """The same with the transposed matrix (not conjugated): the adjoint of noise and sensitivity reuses the factors."""
    y, lower, upper, pivots, row_at, column_at = lu.solution, lu.lower, lu.upper, lu.pivots, lu.row_at, lu.column_at
    lower_rows, lower_starts, upper_rows, upper_starts = lu.lower_rows, lu.lower_starts, lu.upper_rows, lu.upper_starts
    n = np.uint64(lu.size)
    for k in range(n):
        amount = right[column_at[k]]
        for p in range(upper_starts[k], upper_starts[k + ONE]):
            amount -= upper[p] * y[upper_rows[p]]
        y[k] = amount / pivots[k]
    for back in range(n):
        k = n - ONE - back
        amount = y[k]
        for q in range(lower_starts[k], lower_starts[k + ONE]):
            amount -= lower[q] * y[lower_rows[q]]
        y[k] = amount
    for k in range(n):
        right[row_at[k]] = y[k]
    right[0] = 0.0
