"""What moving slopes do to the products of a balance, and its linear equations, compiled; see `periodic.matrix`."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hearthline.core.compiled.codes import FLOAT, IM, ZM, ZT, I, M, N, T, Z, record
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.kernels.blocks import BLOCKS, factors_of
from hearthline.core.engine.kernels.spectra import TABLES, Tables, parts_of, product, put_phasors
from hearthline.core.engine.linear import sparse
from hearthline.core.engine.linear.dense import solve_factored
from hearthline.core.engine.linear.sparse import LuRoom
from hearthline.core.engine.pointers import pointer


class Linear(NamedTuple):
    """A linearised balance in factors: Y; the way between spectra and samples; of what moves its `slopes` (samples,
    entries), where in a row of samples each goes `into`, and `out_of` which of the `columns`; derivatives in time; what is
    shunted (nets, 2), its row and its column, and the shunt; 1 + N Y^-1, transposed; and what follows u."""

    blocks: LuRoom
    tables: Tables
    slopes: np.ndarray
    into: np.ndarray
    out_of: np.ndarray
    columns: np.ndarray
    s: np.ndarray
    shunted: np.ndarray
    shunt: float
    factors: np.ndarray
    pivots: np.ndarray
    responses: np.ndarray


LINEAR = record(Linear, BLOCKS, TABLES, M, I, I, I, Z, IM, FLOAT, M, N, ZT)


@inner
def _add_slopes(into, out_of, slopes, x, out):
    for k in range(slopes.shape[0]):
        for e in range(slopes.shape[1]):
            out[k, into[e]] += slopes[k, e] * x[k, out_of[e]]


@entry(I, I, M, M, M, gives=None)
def times_slopes(into, out_of, slopes, x, out):
    """At each sample, every slope (samples, entries) times what it belongs to of x, added up where it goes to in `out`."""
    _add_slopes(into, out_of, slopes, x, out)


@inner
def _mixed(linear, phasors):
    """N x in the order of `packed`, for phasors (products, unknowns)."""
    columns, s, rows = linear.columns, linear.s, linear.responses.shape[2]
    products = s.shape[0]
    chosen = np.zeros((products, columns.shape[0]), np.complex128)
    for h in range(products):
        for c in range(columns.shape[0]):
            chosen[h, c] = phasors[h, columns[c]]
    total = np.zeros((linear.slopes.shape[0], 2 * rows))
    _add_slopes(linear.into, linear.out_of, linear.slopes, product(linear.tables.waves, parts_of(chosen)), total)
    both = np.zeros((products, 2 * rows), np.complex128)
    put_phasors(product(linear.tables.means, total), both)
    found = np.zeros((2 * products - 1) * rows)
    for h in range(products):
        for r in range(rows):
            both[h, r] += s[h] * both[h, rows + r]
        for k in range(linear.shunted.shape[0]):
            both[h, linear.shunted[k, 0]] -= linear.shunt * chosen[h, linear.shunted[k, 1]]
        for r in range(rows):
            found[h * rows + r] = both[h, r].real
            if h > 0:
                found[(products + h - 1) * rows + r] = both[h, r].imag
    return found


@inner
def solve_linear(linear, right, found):
    """J x = b for phasors (products, unknowns)."""
    products, size = right.shape
    side = np.zeros(size + 1, np.complex128)
    for h in range(products):
        side[1:] = right[h]
        sparse.solve(factors_of(linear.blocks, h), pointer(side, 0))
        found[h] = side[1:]
    rows = linear.responses.shape[2]
    if rows == 0:
        return
    u = _mixed(linear, found)
    solve_factored(linear.factors, linear.pivots, u)
    for h in range(products):
        for j in range(size):
            for r in range(rows):
                imaginary = u[(products + h - 1) * rows + r] if h > 0 else 0.0
                found[h, j] -= linear.responses[h, j, r] * complex(u[h * rows + r], imaginary)


@entry(LINEAR, ZM, ZM, gives=None)
def solve_balance(linear, right, found):
    """The same for Python."""
    solve_linear(linear, right, found)


@inner
def _add(p, q, x, y, first, second):
    """Adds to two rows what follows the real parts x and imaginary parts y of phasors by complex numbers p and q."""
    for k in range(x.shape[0]):
        first[k] += p.real * x[k] + q.real * y[k]
        second[k] += p.imag * x[k] + q.imag * y[k]


@entry(I, I, ZM, IM, IM, Z, T, T, M, gives=None)
def couple(rows, columns, moving, minus, plus, s, real, imaginary, out):
    """Adds N R to `out` ((2 products - 1) rows, squared), whose order is that of `packed`. N has these entries (rows, columns),
    the Fourier coefficients of whose slopes, and behind them capacitances, are `moving` (places, 2 entries); `minus` and
    `plus` say where the differences and sums of products are among these. R is (products, columns, rows)."""
    products, count, entries = s.shape[0], real.shape[2], rows.shape[0]
    nothing = np.zeros(count)
    for h in range(products):
        share = 1.0 if h > 0 else 0.5
        for l in range(products):  # noqa: E741
            first, second = slice(l * count, (l + 1) * count), slice((products + l - 1) * count, (products + l) * count)
            for e in range(entries):
                p, m = plus[h, l], minus[h, l]
                straight, mirrored = 0.0j, 0.0j
                if h != l:
                    straight = share * (moving[m, e] + s[h] * moving[m, entries + e])
                if h > 0 or l > 0:
                    mirrored = share * (moving[p, e] + s[h] * moving[p, entries + e])
                x, y = real[l, columns[e]], imaginary[l, columns[e]]
                own, other = out[h * count + rows[e]], out[(products + h - 1) * count + rows[e]]
                both, apart = straight + mirrored, straight - mirrored
                turned = complex(-apart.imag, apart.real)
                _add(both, turned, x, y, own[first], other[first] if h > 0 else nothing)
                if l > 0:
                    _add(turned, -both, x, y, own[second], other[second] if h > 0 else nothing)


@entry(I, I, ZM, IM, Z, ZT, ZM, gives=None)
def couple_sidebands(rows, columns, moving, minus, s, responses, out):
    """The same among sidebands, which mix without conjugates: adds N R to `out` (sidebands rows, squared), R (sidebands,
    columns, rows)."""
    bands, count, entries = s.shape[0], responses.shape[2], rows.shape[0]
    for k in range(bands):
        for l in range(bands):  # noqa: E741
            if k == l:
                continue
            first, m = l * count, minus[k, l]
            for e in range(entries):
                value = moving[m, e] + s[k] * moving[m, entries + e]
                row, response = out[k * count + rows[e]], responses[l, columns[e]]
                for q in range(count):
                    row[first + q] += value * response[q]
