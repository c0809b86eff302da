"""One step of Newton on a balance, compiled."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hearthline.core.compiled.codes import INT, ZM, I, Words, Z, record
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.kernels.balance import LINEAR, Linear, solve_linear
from hearthline.core.engine.kernels.mixing import PAST, Past, mixed


class Turn(NamedTuple):
    """What stays while a matrix is kept: the matrix, the steps that it has proposed, `sources` (products, unknowns), and what
    disperses by `rows` and `columns` with its `gains` (products, entries)."""

    linear: Linear | Words
    past: Past
    sources: np.ndarray
    rows: np.ndarray
    columns: np.ndarray
    gains: np.ndarray


TURN = record(Turn, LINEAR, PAST, ZM, I, I, ZM)


@inner
def _missing(sources, s, both, rows, columns, gains, x, found):
    products, size = x.shape
    for h in range(products):
        for j in range(size):
            found[h, j] = sources[h, j] - both[h, j] - s[h] * both[h, size + j]
        for k in range(rows.shape[0]):
            found[h, rows[k]] -= gains[h, k] * x[h, columns[k]]
    for j in range(size):
        found[0, j] = complex(found[0, j].real, 0.0)


@inner
def _numbers(phasors):
    """Real and imaginary parts one after the other."""
    found = np.zeros(2 * phasors.shape[0] * phasors.shape[1])
    k = 0
    for h in range(phasors.shape[0]):
        for j in range(phasors.shape[1]):
            found[k], found[k + 1] = phasors[h, j].real, phasors[h, j].imag
            k += 2
    return found


@entry(TURN, INT, ZM, ZM, INT, ZM, ZM, gives=None)
def turned(turn, count, both, x, limited, step, found):
    """The `step` that the matrix proposes at phasors x, of which `both` are currents and charges; and where it leads to,
    `found`, combined with the `count` before it if no device was limited."""
    products, size = x.shape
    missing = np.zeros((products, size), np.complex128)
    _missing(turn.sources, turn.linear.s, both, turn.rows, turn.columns, turn.gains, x, missing)
    solve_linear(turn.linear, missing, step)
    flat = _numbers(step)
    if limited == 0:
        flat = mixed(turn.past, count, _numbers(x), flat)
    k = 0
    for h in range(products):
        for j in range(size):
            found[h, j] = x[h, j] + complex(flat[k], flat[k + 1])
            k += 2


@entry(ZM, Z, ZM, I, I, ZM, ZM, ZM, gives=None)
def missing_at(sources, s, both, rows, columns, gains, x, found):
    """What is left of the equations at phasors x, whose currents and, behind them, charges are `both`."""
    _missing(sources, s, both, rows, columns, gains, x, found)
