"""Entries of the inverse where the factors have entries, at the price of another factorisation; compiled.

Takahashi, Fagan and Chin, PICA 1973; Erisman and Tinney, Comm. ACM 1975: with P A Q = L D U the inverse Z of that obeys
Z = (L D)⁻¹ + (1 - U) Z and Z = (D U)⁻¹ + Z (1 - L), so that each entry within the pattern of (L + U)ᵀ follows from others
of it.
"""

from __future__ import annotations

import numpy as np

from hearthline.core.compiled.jit import inner

DENSE = 1000
"""Unknowns up to which the entries stand in a square."""


@inner
def rows_of_upper(lu, starts, columns, places):
    """The upper factor by rows: where each begins, its columns, and where its numbers stand."""
    n = lu.size
    starts[:] = 0
    for k in range(n):
        for p in range(np.int64(lu.upper_starts[k]), np.int64(lu.upper_starts[k + 1])):
            starts[np.int64(lu.upper_rows[p]) + 1] += 1
    for k in range(n):
        starts[k + 1] += starts[k]
    free = starts[:n].copy()
    for k in range(n):
        for p in range(np.int64(lu.upper_starts[k]), np.int64(lu.upper_starts[k + 1])):
            row = np.int64(lu.upper_rows[p])
            columns[free[row]], places[free[row]] = k, p
            free[row] += 1


@inner
def known_entries(lu, starts, columns, known):
    """Which entries of the inverse are found, by steps."""
    n = lu.size
    known[:, :] = 0
    for p in range(n):
        known[p, p] = 1
        for u in range(starts[p], starts[p + 1]):
            known[columns[u], p] = 1
        for q in range(np.int64(lu.lower_starts[p]), np.int64(lu.lower_starts[p + 1])):
            known[p, np.int64(lu.lower_rows[q])] = 1


@inner
def inverse_within(lu, starts, columns, places, z):
    """The known entries of the inverse of P A Q, by steps, into z (size, size)."""
    n = lu.size
    for back in range(n):
        p = n - 1 - back
        pivot = lu.pivots[p]
        first, last = starts[p], starts[p + 1]
        low, high = np.int64(lu.lower_starts[p]), np.int64(lu.lower_starts[p + 1])
        for q in range(low, high):
            j = np.int64(lu.lower_rows[q])
            amount = 0.0j
            for u in range(first, last):
                amount += lu.upper[places[u]] * z[columns[u], j]
            z[p, j] = -amount / pivot
        through = 0.0j
        for u in range(first, last):
            i = columns[u]
            amount = 0.0j
            for q in range(low, high):
                amount += z[i, np.int64(lu.lower_rows[q])] * lu.lower[q]
            z[i, p] = -amount
            through -= lu.upper[places[u]] * amount
        z[p, p] = (1.0 - through) / pivot
