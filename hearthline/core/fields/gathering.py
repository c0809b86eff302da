"""Adds a dense matrix into another at scattered rows and columns, compiled: NumPy would go over both three times."""

from __future__ import annotations

from hearthline.core.compiled.codes import ZM, I, M
from hearthline.core.compiled.jit import entry, inner


@inner
def _added(whole, at, piece):
    for j in range(at.shape[0]):
        row = at[j]
        for k in range(at.shape[0]):
            whole[row, at[k]] += piece[j, k]


@entry(M, I, M, gives=None)
def added(whole, at, piece):
    """`whole` at rows and columns `at` gets `piece`."""
    _added(whole, at, piece)


@entry(ZM, I, ZM, gives=None)
def added_complex(whole, at, piece):
    """The same of complex numbers."""
    _added(whole, at, piece)
