"""Solves one dense linear system in place. What Newton uses for circuits of up to a few hundred unknowns."""

from __future__ import annotations

import numba as nb

from hearthline.core.models.signature import OPTIONS

TINY = 1e-40
"""A pivot below this is none: far under the conductance of any junction, far above the smallest float."""


@nb.njit(**OPTIONS)
def solve(matrix, right, size):
    """Replaces `right[1:size]` by the solution of matrix·x = right, rows and columns 1 to size-1; `matrix` is lost.

    Gauss with partial pivoting. Returns 0, or the column that has no pivot.
    """
    for j in range(1, size):
        best, big = j, abs(matrix[j, j])
        for i in range(j + 1, size):
            if abs(matrix[i, j]) > big:
                best, big = i, abs(matrix[i, j])
        if not big > TINY:
            return j
        if best != j:
            for k in range(j, size):
                matrix[j, k], matrix[best, k] = matrix[best, k], matrix[j, k]
            right[j], right[best] = right[best], right[j]
        inverse = 1.0 / matrix[j, j]
        for i in range(j + 1, size):
            if matrix[i, j] != 0.0:
                factor = matrix[i, j] * inverse
                for k in range(j + 1, size):
                    matrix[i, k] -= factor * matrix[j, k]
                right[i] -= factor * right[j]
    for j in range(size - 1, 0, -1):
        total = right[j]
        for k in range(j + 1, size):
            total -= matrix[j, k] * right[k]
        right[j] = total / matrix[j, j]
    return 0
