"""One step of Newton on a balance, compiled."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from hearthline.core.compiled.codes import FLOAT, INT, ZM, F, I, Words, Z, record
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.kernels.balance import LINEAR, Linear, solve_linear
from hearthline.core.engine.kernels.mixing import PAST, Past, mixed

ROUNDING = 1e-13
"""Share of the largest current under which a step of a branch current means nothing."""


class Turn(NamedTuple):
    """What stays while a matrix is kept: the matrix, the steps that it has proposed, `sources` (products, unknowns), what
    disperses by `rows` and `columns` with its `gains` (products, entries); of each unknown the `floor` of its tolerance, whose
    rest is a share `reltol` of its largest phasor; and how many of them are nets."""

    linear: Linear | Words
    past: Past
    sources: np.ndarray
    rows: np.ndarray
    columns: np.ndarray
    gains: np.ndarray
    floor: np.ndarray
    reltol: float
    nets: int


TURN = record(Turn, LINEAR, PAST, ZM, I, I, ZM, F, FLOAT, INT)


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


@entry(TURN, INT, ZM, ZM, INT, ZM, F, gives=FLOAT)
def turned(turn, count, both, x, limited, found, moved):
    """Where a step leads from phasors x, of which `both` are currents and charges: `found`. Each unknown would have `moved` so
    far; gives back how many times its tolerance that is at most, and -1 where it is no number. Steps are combined with the
    `count` before this one, if no device was limited."""
    products, size = x.shape
    missing, step = np.zeros((products, size), np.complex128), np.zeros((products, size), np.complex128)
    _missing(turn.sources, turn.linear.s, both, turn.rows, turn.columns, turn.gains, x, missing)
    solve_linear(turn.linear, missing, step)
    flat, here = _numbers(step), _numbers(x)
    for k in range(flat.shape[0]):
        if not math.isfinite(flat[k]):
            return -1.0
    if limited == 0:
        flat = mixed(turn.past, count, here, flat)
    k, largest = 0, 0.0
    for h in range(products):
        for j in range(size):
            found[h, j] = x[h, j] + complex(flat[k], flat[k + 1])
            largest = max(largest, abs(both[h, j]))
            k += 2
    most = 0.0
    for j in range(size):
        far, high = 0.0, 0.0
        for h in range(products):
            far, high = max(far, abs(step[h, j])), max(high, abs(found[h, j]))
        moved[j] = far
        rounding = 0.0 if j < turn.nets else ROUNDING * largest
        most = max(most, far / (turn.reltol * high + turn.floor[j] + rounding))
    return most


@entry(ZM, Z, ZM, I, I, ZM, ZM, ZM, gives=None)
def missing_at(sources, s, both, rows, columns, gains, x, found):
    """What is left of the equations at phasors x, whose currents and, behind them, charges are `both`."""
    _missing(sources, s, both, rows, columns, gains, x, found)
