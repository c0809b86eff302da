"""Sums over whole vectors, and equations that LAPACK has factored; compiled."""

from __future__ import annotations

from hearthline.core.compiled.jit import inner, summing


@summing
def dot(a, b):
    """Of two vectors."""
    total = 0.0
    for j in range(a.shape[0]):
        total += a[j] * b[j]
    return total


@summing
def take(a, share, b):
    """Takes a share of b from a."""
    for j in range(a.shape[0]):
        a[j] -= share * b[j]


@inner
def solve_factored(factors, pivots, x):
    """Replaces x by the solution of a matrix whose transpose LAPACK has factored."""
    n = x.shape[0]
    for i in range(n):
        x[i] = (x[i] - dot(factors[i, :i], x[:i])) / factors[i, i]
    for back in range(n):
        i = n - 1 - back
        x[i] -= dot(factors[i, i + 1 :], x[i + 1 :])
    for back in range(n):
        i = n - 1 - back
        j = pivots[i]
        x[i], x[j] = x[j], x[i]
