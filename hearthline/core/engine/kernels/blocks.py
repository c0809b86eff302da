"""Matrices of one pattern side by side, one a product or sideband, in sparse factors; compiled."""

from __future__ import annotations

import numpy as np

from hearthline.core.compiled.codes import IM, INT, UM, ZM, ZT, record
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.linear import sparse
from hearthline.core.engine.linear.sparse import LuRoom
from hearthline.core.engine.pointers import copy, pointer

BLOCKS = record(LuRoom, INT, INT, INT, UM, IM, ZM)
"""The memory of the factors of many matrices, one in a row."""


@inner
def factors_of(blocks, k):
    """Those of block k."""
    return sparse.lu_in(
        LuRoom(blocks.size, blocks.count, blocks.room, blocks.index[k], blocks.whole[k], blocks.numbers[k])
    )


@entry(BLOCKS, ZM)
def blocks_factored(blocks, values):
    """Factors matrices of these values (blocks, entries). The pivots of one are tried on the next. GOOD, FULL, or 1 + the first
    block that has none."""
    index, whole = blocks.index, blocks.whole
    for k in range(values.shape[0]):
        if k > 0:
            copy(pointer(index[k], 0), pointer(index[k - 1], 0), index.shape[1])
            copy(pointer(whole[k], 0), pointer(whole[k - 1], 0), whole.shape[1])
        done = sparse.fill(factors_of(blocks, k), pointer(values[k], 0))
        if done != sparse.GOOD:
            return min(done, 1 + k)
    return sparse.GOOD


@entry(BLOCKS, INT, ZT, gives=None)
def blocks_solved(blocks, transposed, right):
    """Replaces right sides (blocks, unknowns, cases) by solutions, of the transposed matrices if wanted."""
    side = np.zeros(blocks.size + 1, np.complex128)
    for k in range(right.shape[0]):
        lu = factors_of(blocks, k)
        for c in range(right.shape[2]):
            for j in range(right.shape[1]):
                side[j + 1] = right[k, j, c]
            if transposed != 0:
                sparse.solve_transposed(lu, pointer(side, 0))
            else:
                sparse.solve(lu, pointer(side, 0))
            for j in range(right.shape[1]):
                right[k, j, c] = side[j + 1]
