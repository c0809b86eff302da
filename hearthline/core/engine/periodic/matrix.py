"""The linearised balance: its matrix, which couples all products, and the ways to solve it.

J = Y + N. Y has a block for each product h: the slopes' means, G0 + j ω_h C0 and what disperses. N is what mixes products:
what slopes are beside their means, in the rows R and columns C of devices that are not straight. Since N reaches only these,

    (1 + N_RC [Y^-1]_CR) u = N_RC [Y^-1 b]_C,    x = Y^-1 (b - u)

with u = N x is exact and small: the block-diagonal Y takes what is straight, and what is left is dense (or, where it is
large, solved by GMRES, for which it is well preconditioned already). About an oscillation Y alone may be singular: there a
`shunt` at a net is added to Y and taken from N, which changes nothing else.

Real and imaginary parts are unknowns of their own, because N also takes conjugates: the (h, l) block is
g[h-l] x_l + g[h+l] conj(x_l), with g the transform of a slope.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.linalg import qr, solve_triangular
from scipy.linalg.lapack import dgetrf

from hearthline.core.compiled.codes import Words
from hearthline.core.engine.kernels.balance import LINEAR, Linear, couple, solve_balance, times_slopes
from hearthline.core.engine.periodic.blocks import Blocks
from hearthline.core.engine.periodic.circuit import Along, LaneCircuit
from hearthline.core.engine.periodic.tones import Tones

MOST_DENSE = 2600
"""Real unknowns of what is left, up to which it is solved directly."""
SAMPLES, FEWER, DEPENDENT = 32, 4, 1e-10
"""Moments at which rows are compared, and by how many fewer where it is only to see whether something is still true; and the
share of the largest that is nothing beside it."""
ITERATIVE = 1e-11
"""How well GMRES solves, as a share of its right side."""


Picks = Sequence[tuple[int, int, bool]]


def packed(phasors: np.ndarray) -> np.ndarray:
    """(products, quantities) as real numbers: ((2 products - 1) * quantities,)."""
    return np.concatenate([phasors.real, phasors.imag[1:]]).ravel()


def unpacked(numbers: np.ndarray, products: int) -> np.ndarray:
    """Back to (products, quantities)."""
    table = numbers.reshape(2 * products - 1, -1)
    found = table[:products].astype(complex)
    found[1:] += 1j * table[products:]
    return found


@dataclass(frozen=True)
class Reach:
    """Where N is not nothing: of the entries of the circuit's matrix, those that are `bent`, and nets that are `shunted`; its
    `rows`, which are `weights` (rows, count) times as many as are independent (devices keep their charge: what flows into one
    terminal comes out of the others), and its `columns`; of each of its `entries` in an independent row where that is among
    these, and where its column is. `basis` are the independent rows."""

    bent: np.ndarray
    shunted: tuple[int, ...]
    rows: np.ndarray
    weights: np.ndarray
    basis: np.ndarray
    columns: np.ndarray
    entries: np.ndarray
    row: np.ndarray
    column: np.ndarray

    @property
    def count(self) -> int:
        """How many rows are independent."""
        return len(self.basis)

    def fits(self, circuit: LaneCircuit, bent: np.ndarray, shunted: tuple[int, ...], moving: np.ndarray) -> bool:
        """Whether that is so for entries that are bent and change like that (entries, moments)."""
        if self.shunted != shunted or not np.array_equal(self.bent, bent):
            return False
        table = _by_rows(self.rows, self.columns, circuit.rows[bent], circuit.columns[bent], moving)
        place = np.searchsorted(self.rows, self.basis)
        others = np.delete(np.arange(len(self.rows)), place)
        left = table[others] - self.weights[others] @ table[place]
        return bool(np.abs(left).max(initial=0.0) <= DEPENDENT * np.abs(moving).max(initial=0.0))

    def row_of(self, unknown: int) -> int:
        """Where an unknown stands among the independent rows."""
        return int(np.flatnonzero(self.basis == unknown)[0])

    def column_of(self, unknown: int) -> int:
        """Where it stands among the columns."""
        return int(np.searchsorted(self.columns, unknown))


def reach_of(
    circuit: LaneCircuit, along: Along, s: np.ndarray, shunted: tuple[int, ...] = (), shunt: float = 0.0,
    known: Reach | None = None,
) -> Reach:  # fmt: skip
    """Of what was found along a period, for derivatives in time that multiply by `s` (products,) [1/s]; one that is `known`
    from elsewhere, if it is true here as well."""
    bent = along.bent
    some = slice(None, None, max(1, len(along.slopes) // SAMPLES))
    speed = float(np.abs(s).max(initial=0.0))
    pieces = [one.take(bent, axis=1) for one in (along.slopes, along.capacitances)]
    moving = np.concatenate(
        [size * (one[some] - one.mean(axis=0)) for size, one in zip((1.0, speed), pieces, strict=True)]
    ).T
    if known is not None and known.fits(circuit, bent, shunted, moving[:, ::FEWER]):
        return known
    rows = np.union1d(circuit.rows[bent], shunted).astype(np.int64)
    columns = np.union1d(circuit.columns[bent], shunted).astype(np.int64)
    table = _by_rows(rows, columns, circuit.rows[bent], circuit.columns[bent], moving)
    row, column = np.searchsorted(rows, circuit.rows[bent]), np.searchsorted(columns, circuit.columns[bent])
    own = np.zeros((len(rows), len(shunted)))
    for k, net in enumerate(shunted):  # more than all else together, so that it is independent
        own[np.searchsorted(rows, net), k] = (shunt + np.abs(moving).max(initial=0.0)) * np.sqrt(table.size)
    table = np.hstack([table, own])
    basis, weights = _independent(table)
    place = np.full(len(rows), -1)
    place[basis] = np.arange(len(basis))
    kept = place[row] >= 0
    return Reach(bent, shunted, rows, weights, rows[basis], columns, bent[kept], place[row[kept]], column[kept])


def _by_rows(
    rows: np.ndarray, columns: np.ndarray, row: np.ndarray, column: np.ndarray, moving: np.ndarray
) -> np.ndarray:  # fmt: skip
    """What changes (entries, moments) in each row, column after column: (rows, columns * moments)."""
    table = np.zeros((len(rows), len(columns), moving.shape[1]))
    table[np.searchsorted(rows, row), np.searchsorted(columns, column)] = moving
    return table.reshape(len(rows), -1) if len(rows) else table.reshape(0, 0)


def _independent(table: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Rows that all rows (rows, columns) are sums of, and the weights of these sums (rows, independent)."""
    if not len(table):
        return np.zeros(0, np.int64), np.zeros((0, 0))
    triangle, order = qr(table.T, mode="r", pivoting=True, check_finite=False)[:2]
    size = np.abs(np.diag(triangle))
    count = max(1, int((size > DEPENDENT * size[0]).sum()))
    weights = np.zeros((len(table), count))
    weights[order[:count]] = np.eye(count)
    if count < len(table):
        weights[order[count:]] = solve_triangular(triangle[:count, :count], triangle[:count, count:]).T
    return order[:count], weights


@dataclass(frozen=True)
class Moving:
    """What moves along a period: what N is made of."""

    along: Along
    reach: Reach

    @cached_property
    def values(self) -> np.ndarray:
        """Slopes, and behind them capacitances, beside their means (samples, 2 entries)."""
        both = self.along.slopes, self.along.capacitances
        here = np.concatenate([one.take(self.reach.entries, axis=1) for one in both], axis=1)
        return here - here.mean(axis=0)

    @cached_property
    def paths(self) -> tuple[np.ndarray, np.ndarray]:
        """Where each goes to, among the independent rows and behind these once more for charges, and the columns that it
        comes from."""
        reach = self.reach
        return np.concatenate([reach.row, reach.count + reach.row]), np.tile(reach.column, 2)


@dataclass(frozen=True)
class Jacobian:
    """The linearised balance at what was found along a period, for derivatives in time that multiply by `s` (products,)
    [1/s]."""

    circuit: LaneCircuit
    tones: Tones
    along: Along
    s: np.ndarray
    blocks: Blocks
    shunted: tuple[int, ...] = ()
    shunt: float = 0.0
    known: Reach | None = None

    @property
    def columns(self) -> np.ndarray:
        """The unknowns that N reaches."""
        return self.reach.columns

    @cached_property
    def reach(self) -> Reach:
        """What N reaches."""
        return reach_of(self.circuit, self.along, self.s, self.shunted, self.shunt, self.known)

    @cached_property
    def _moving(self) -> Moving:
        return Moving(self.along, self.reach)

    @cached_property
    def _responses(self) -> np.ndarray:
        """Of all unknowns to a one in each row that N is made of (products, unknowns, rows)."""
        return self.blocks.answers(self.reach.rows, self.reach.weights)

    def solve(self, right: np.ndarray) -> np.ndarray:
        """J x = b for phasors (products, unknowns). Raises LinAlgError where it is singular."""
        if not self.large:
            found = np.empty_like(right)
            solve_balance(self.linear, np.ascontiguousarray(right), found)
            return found
        straight = self.blocks.solve(right[:, :, None])[:, :, 0]
        return straight - self._responding(self._iterated(self.mixed(straight[:, self.columns])))

    @cached_property
    def linear(self) -> Words:
        """What a solution needs, once for all. Raises LinAlgError where it is singular."""
        reach, tones = self.reach, self.tones
        factors, pivots = np.zeros((0, 0)), np.zeros(0, np.int32)
        if reach.count:
            factors, pivots, singular = dgetrf(self._small_matrix.T, overwrite_a=True)
            if singular:
                raise np.linalg.LinAlgError("what is left has no solution")
        shunted = [(reach.row_of(net), reach.column_of(net)) for net in self.shunted]
        linear = Linear(
            self.blocks.factors, tones.tables, self._moving.values, *self._moving.paths, reach.columns, self.s,
            np.array(shunted, np.int64).reshape(-1, 2), self.shunt, factors.T, pivots, self._responses,
        )  # fmt: skip
        return Words.of(LINEAR, linear)

    def _responding(self, u: np.ndarray) -> np.ndarray:
        """All unknowns to u (products, rows)."""
        found: np.ndarray = (self._responses @ u[:, :, None])[:, :, 0]
        return found

    def bordered(
        self, right: np.ndarray, ways: np.ndarray, picks: Picks, wanted: np.ndarray
    ) -> tuple[np.ndarray, np.ndarray]:
        """J x + sum of ways a = b with parts of x given: phasors x, and the real numbers a, as many as picks.

        `ways` (numbers, products, unknowns); each of `picks` is an unknown, a product of it, and whether its imaginary part is
        meant; `wanted` is what these come to. Raises LinAlgError where it is singular.
        """
        straight = self.blocks.solve(np.moveaxis(np.concatenate([right[None], ways]), 0, 2))
        inner = [packed(self.mixed(straight[:, self.columns, k])) for k in range(straight.shape[2])]
        matrix = self._small_matrix
        count, more = len(matrix), len(picks)
        whole, side = np.zeros((count + more, count + more)), np.zeros(count + more)
        whole[:count, :count], side[:count] = matrix, inner[0]
        whole[:count, count:] = np.stack(inner[1:], axis=1)
        for j, (unknown, product, imaginary) in enumerate(picks):
            flat = straight[product, unknown]
            flat = flat.imag if imaginary else flat.real
            whole[count + j, :count] = -self._row_of(unknown, product, imaginary)
            whole[count + j, count:] = -flat[1:]
            side[count + j] = wanted[j] - flat[0]
        found = np.linalg.solve(whole, side)
        u, numbers = unpacked(found[:count], len(right)), found[count:]
        flat = straight[:, :, 0] - straight[:, :, 1:] @ numbers
        return flat - self._responding(u), numbers

    def _row_of(self, unknown: int, product: int, imaginary: bool) -> np.ndarray:
        """How a part of a phasor follows u, as real numbers."""
        found = np.zeros((len(self.tones), self.reach.count), complex)
        response = self._responses[product, unknown]
        found[product] = 1j * response.conj() if imaginary else response.conj()
        return packed(found)

    def left_null(self, way: np.ndarray, tangent: np.ndarray) -> np.ndarray:
        """w with w J = 0 where J is singular, as phasors (products, unknowns): of real parts and imaginary parts, w x is the
        sum of Re(conj(w_h) x_h). `way` is a right side out of J's reach, `tangent` the x that J makes nothing of."""
        straight = self.blocks.solve(way[:, :, None])[:, :, 0]
        matrix = self._small_matrix
        count = len(matrix)
        whole = np.zeros((count + 1, count + 1))
        whole[:count, :count] = matrix.T
        whole[count, :count] = packed(self.mixed(straight[:, self.columns]))
        whole[:count, count] = packed(self.mixed(tangent[:, self.columns]))
        side = np.zeros(count + 1)
        side[count] = 1.0
        z = unpacked(np.linalg.solve(whole, side)[:count], len(way))
        right = self._adjoint(z)
        return self.blocks.solve(right.conj()[:, :, None], transposed=True)[:, :, 0].conj()

    def _adjoint(self, z: np.ndarray) -> np.ndarray:
        """z N as phasors (products, unknowns)."""
        reach, tones = self.reach, self.tones
        halved = np.hstack([z, self.s.conj()[:, None] * z])
        halved[0] *= 0.5
        total = np.zeros((tones.count, len(reach.columns)))
        times_slopes(*self._moving.paths[::-1], self._moving.values, tones.to_samples(halved), total)
        found = np.zeros((len(z), self.circuit.size), complex)
        found[:, self.columns] = tones.to_phasors(total)
        found[0] *= 2.0
        for net in self.shunted:
            found[:, net] -= self.shunt * z[:, reach.row_of(net)]
        return found

    def mixed(self, phasors: np.ndarray) -> np.ndarray:
        """N x: from phasors of its columns (products, columns) to those of its rows."""
        reach, tones, count = self.reach, self.tones, self.reach.count
        total = np.zeros((tones.count, 2 * count))
        times_slopes(*self._moving.paths, self._moving.values, tones.to_samples(phasors), total)
        both = tones.to_phasors(total)
        found = both[:, :count] + self.s[:, None] * both[:, count:]
        for net in self.shunted:
            found[:, reach.row_of(net)] -= self.shunt * phasors[:, reach.column_of(net)]
        return found

    @property
    def reals(self) -> int:
        """Real unknowns of what is left."""
        return self.reach.count * self.tones.reals

    @property
    def large(self) -> bool:
        """Whether it is solved step by step."""
        return self.reals > MOST_DENSE

    @property
    def _small_matrix(self) -> np.ndarray:
        """1 + N Y^-1 among the rows that N reaches, in real numbers."""
        reach, tones = self.reach, self.tones
        inner = self._responses[:, self.columns]
        matrix = np.zeros((self.reals, self.reals))
        np.fill_diagonal(matrix, 1.0)
        couple(
            reach.row, reach.column, *tones.mixed(self._moving.values), self.s, np.ascontiguousarray(inner.real),
            np.ascontiguousarray(inner.imag), matrix,
        )  # fmt: skip
        self._take_shunts(inner, matrix)
        return matrix

    def _take_shunts(self, inner: np.ndarray, matrix: np.ndarray) -> None:
        """Out of a matrix in real numbers, for answers `inner` (products, columns, rows): they are in Y."""
        count, rows = len(self.tones), self.reach.count
        table = matrix.reshape(2 * count - 1, rows, 2 * count - 1, rows)
        real, imaginary = np.arange(count), np.arange(count, 2 * count - 1)
        for net in self.shunted:
            row, taken = self.reach.row_of(net), self.shunt * inner[:, self.reach.column_of(net)]
            table[real, row, real] -= taken.real
            table[imaginary, row, imaginary] -= taken.real[1:]
            table[imaginary, row, real[1:]] -= taken.imag[1:]
            table[real[1:], row, imaginary] += taken.imag[1:]

    def _iterated(self, right: np.ndarray) -> np.ndarray:
        from scipy.sparse.linalg import LinearOperator, gmres  # late: for large circuits only

        wanted, products = packed(right), len(right)
        inner = self._responses[:, self.columns]

        def times(numbers: np.ndarray) -> np.ndarray:
            u = unpacked(numbers, products)
            return packed(u + self.mixed(np.einsum("hcr,hr->hc", inner, u)))

        operator = LinearOperator((len(wanted), len(wanted)), matvec=times, dtype=float)
        found, left = gmres(operator, wanted, rtol=ITERATIVE, restart=120, maxiter=6)
        if left:
            raise np.linalg.LinAlgError("GMRES did not come down")
        return unpacked(found, products)


def jacobian(
    circuit: LaneCircuit, tones: Tones, along: Along, s: np.ndarray, frequencies: np.ndarray, shunted: tuple[int, ...] = (),
    shunt: float = 0.0, known: Reach | None = None,
) -> Jacobian:  # fmt: skip
    """J where the products are at frequencies [Hz] and a derivative in time is a product with `s`."""
    blocks = Blocks(circuit, along, s, frequencies, shunted, shunt)
    return Jacobian(circuit, tones, along, s, blocks, shunted, shunt, known)
