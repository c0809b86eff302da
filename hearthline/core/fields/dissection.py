"""An order of unknowns in which the sparse matrix of a field has small factors: halves first, what lies between them last
(George, SIAM Journal on Numerical Analysis 1973). Halves are found by the matrix alone: by how far unknowns are from one that
lies far out."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from scipy.sparse import csc_array, csr_array
from scipy.sparse.csgraph import breadth_first_order

if TYPE_CHECKING:
    from scipy.sparse.linalg import SuperLU

SMALL = 100
"""Unknowns that are left together."""


def dissected(matrix: csr_array) -> np.ndarray:
    """Places of the unknowns in their new order."""
    given = csr_array(matrix)
    whole = csr_array((np.ones(given.nnz), given.indices, given.indptr), given.shape)  # where there is something is all
    found: list[np.ndarray] = []
    waiting = [(np.arange(whole.shape[0]), False)]
    while waiting:
        some, between = waiting.pop()
        if between or len(some) <= SMALL:
            found.append(some)
            continue
        first, second, middle = _halves(whole, some)
        waiting += [(middle, True), (second, False), (first, False)]
    return np.concatenate(found)


def _halves(whole: csr_array, some: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Two sets that do not touch, and what is between them."""
    inner = whole[some][:, some]
    far = breadth_first_order(inner, 0, return_predecessors=False)
    if len(far) < len(some):  # it falls apart by itself
        rest = np.setdiff1d(np.arange(len(some)), far)
        return some[far], some[rest], some[:0]
    order = breadth_first_order(inner, int(far[-1]), return_predecessors=False)
    left = np.zeros(len(some), bool)
    left[order[: len(some) // 2]] = True
    touched = np.zeros(len(some), bool)
    touched[inner[left].indices] = True
    between = touched & ~left
    return some[left], some[~left & ~between], some[between]


def factored(matrix: csc_array, order: np.ndarray, pivot: float = 0.0) -> Factors:
    """Of a symmetric matrix, in an order of its unknowns that keeps its factors small; one that is not positive wants pivots of
    some size."""
    from scipy.sparse.linalg import splu

    moved = csc_array(matrix[order][:, order])
    return Factors(splu(moved, "NATURAL", diag_pivot_thresh=pivot, options={"SymmetricMode": True}), order)


@dataclass(frozen=True)
class Factors:
    """Of a matrix whose unknowns were put into another order."""

    factors: SuperLU
    order: np.ndarray

    def solve(self, right: np.ndarray) -> np.ndarray:
        """Of one right side or several (unknowns, ...)."""
        found = np.empty_like(right)
        found[self.order] = self.factors.solve(right[self.order])
        return found
