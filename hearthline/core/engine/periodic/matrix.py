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
from scipy.linalg.lapack import dgetrf, dgetrs, zgetrf, zgetrs

from hearthline.core.engine.periodic.circuit import Along, LaneCircuit
from hearthline.core.engine.periodic.tones import Tones

MOST_DENSE = 2600
"""Real unknowns of what is left, up to which it is solved directly."""
MOST_UNKNOWNS_DENSE = 160
"""Unknowns up to which the blocks of Y are solved as dense matrices."""
SAMPLES, DEPENDENT = 32, 1e-10
"""Moments at which rows are compared; and the share of the largest that is nothing beside it."""
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


def _as_matrix(mixed: np.ndarray) -> np.ndarray:
    """What mixes products, from all of columns to all of rows."""
    return mixed.reshape(mixed.shape[0] * mixed.shape[1], -1)


class Blocks:
    """Y: one matrix a product, (products, unknowns, unknowns)."""

    def __init__(
        self,
        circuit: LaneCircuit,
        means: np.ndarray,
        charged: np.ndarray,
        s: np.ndarray,
        extra: tuple[np.ndarray, np.ndarray],
    ):
        self.size, self.rows, self.columns = circuit.size, circuit.rows, circuit.columns
        self.values = means[None, :] + s[:, None] * charged[None, :]
        entries, gains = extra
        for k, entry in enumerate(entries):
            self.values[:, entry] += gains[:, k]

    def add_shunt(self, nets: tuple[int, ...], shunt: float, circuit: LaneCircuit) -> None:
        """A conductance [S] from each of these nets, counted from 0, to ground."""
        self.values[:, np.asarray(circuit.arrays.diagonal)[1 + np.array(nets)]] += shunt

    @cached_property
    def dense(self) -> np.ndarray:
        """All of them (products, unknowns, unknowns)."""
        found = np.zeros((len(self.values), self.size, self.size), complex)
        found[:, self.rows, self.columns] = self.values
        return found

    @cached_property
    def _dense_factors(self) -> list[tuple[np.ndarray, np.ndarray]]:
        """Of the transposed matrices, which lie as LAPACK wants them."""
        found = []
        for one in self.dense:
            factors, pivots, singular = zgetrf(one.T, overwrite_a=True)
            if singular:
                raise np.linalg.LinAlgError("a block of the balance is singular")
            found.append((factors, pivots))
        return found

    @cached_property
    def _factors(self) -> list:
        from scipy.sparse import csc_array
        from scipy.sparse.linalg import splu  # late: for large circuits only

        shape = (self.size, self.size)
        return [splu(csc_array((row, (self.rows, self.columns)), shape)) for row in self.values]

    def solve(self, right: np.ndarray, transposed: bool = False) -> np.ndarray:
        """Y x = b for each product: (products, unknowns, cases). Raises LinAlgError where one is singular."""
        if self.size <= MOST_UNKNOWNS_DENSE:
            backwards = 0 if transposed else 1
            solved = [zgetrs(*one, b, trans=backwards)[0] for one, b in zip(self._dense_factors, right, strict=True)]
            return np.stack(solved)
        try:
            factors = self._factors
        except RuntimeError as error:
            raise np.linalg.LinAlgError(str(error)) from None
        way = "T" if transposed else "N"
        return np.stack(
            [one.solve(np.ascontiguousarray(b, complex), way) for one, b in zip(factors, right, strict=True)]
        )

    def columns_of(self, rows: np.ndarray) -> np.ndarray:
        """Y^-1 of a one in each of these rows (products, unknowns, rows)."""
        ones = np.zeros((len(self.values), self.size, len(rows)), complex)
        ones[:, rows, np.arange(len(rows))] = 1.0
        return self.solve(ones)


@dataclass(frozen=True)
class Reach:
    """Where N is not nothing: its `rows`, which are `weights` (rows, count) times as many as are independent (devices keep
    their charge: what flows into one terminal comes out of the others), and its `columns`; of each of its `entries` in an
    independent row where that is among these, and where its column is. `basis` are the independent rows."""

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

    def row_of(self, unknown: int) -> int:
        """Where an unknown stands among the independent rows."""
        return int(np.flatnonzero(self.basis == unknown)[0])

    def column_of(self, unknown: int) -> int:
        """Where it stands among the columns."""
        return int(np.searchsorted(self.columns, unknown))


def reach_of(
    circuit: LaneCircuit, along: Along, s: np.ndarray, shunted: tuple[int, ...] = (), shunt: float = 0.0
) -> Reach:  # fmt: skip
    """Of what was found along a period, for derivatives in time that multiply by `s` (products,) [1/s]."""
    bent = along.bent
    rows = np.union1d(circuit.rows[bent], shunted).astype(np.int64)
    columns = np.union1d(circuit.columns[bent], shunted).astype(np.int64)
    row, column = np.searchsorted(rows, circuit.rows[bent]), np.searchsorted(columns, circuit.columns[bent])
    some = slice(None, None, max(1, len(along.slopes) // SAMPLES))
    speed = float(np.abs(s).max(initial=0.0))
    pieces = [
        one[some][:, bent] - one[:, bent].mean(axis=0) for one in (along.slopes, speed * along.capacitances)
    ]  # fmt: skip
    moving = np.concatenate(pieces).T
    table = np.zeros((len(rows), len(columns), moving.shape[1]))
    table[row, column] = moving
    own = np.zeros((len(rows), len(shunted)))
    for k, net in enumerate(shunted):  # more than all else together, so that it is independent
        own[np.searchsorted(rows, net), k] = (shunt + np.abs(moving).max(initial=0.0)) * np.sqrt(table.size)
    basis, weights = _independent(np.hstack([table.reshape(len(rows), len(columns) * moving.shape[1]), own]))
    place = np.full(len(rows), -1)
    place[basis] = np.arange(len(basis))
    kept = place[row] >= 0
    return Reach(rows, weights, rows[basis], columns, bent[kept], place[row[kept]], column[kept])


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

    @property
    def columns(self) -> np.ndarray:
        """The unknowns that N reaches."""
        return self._reach.columns

    @cached_property
    def _reach(self) -> Reach:
        return reach_of(self.circuit, self.along, self.s, self.shunted, self.shunt)

    @cached_property
    def _mixed(self) -> tuple[np.ndarray, np.ndarray]:
        """N as (products, rows, products, columns), to products of rows from those of columns: what multiplies phasors, and
        what their conjugates."""
        reach, tones = self._reach, self.tones
        row, column = reach.row, reach.column
        g = tones.transform(self.along.slopes[:, reach.entries]).T
        c = tones.transform(self.along.capacitances[:, reach.entries]).T
        minus, plus = tones.mixing
        shape = (len(tones), reach.count, len(tones), len(reach.columns))
        found = []
        here = np.arange(len(tones))
        for places, own in ((minus, here), (plus, here[:1])):  # the means are in Y
            values = g[:, places] + self.s[None, :, None] * c[:, places]
            values[:, own, own] = 0.0
            values[:, 0] *= 0.5
            made = np.zeros(shape, complex)
            made[:, row, :, column] = values
            found.append(made)
        for net in self.shunted:
            for h in here:
                found[0][h, reach.row_of(net), h, reach.column_of(net)] -= self.shunt
        return found[0], found[1]

    @cached_property
    def _responses(self) -> np.ndarray:
        """Of all unknowns to a one in each row that N is made of (products, unknowns, rows)."""
        return self.blocks.columns_of(self._reach.rows) @ self._reach.weights

    def solve(self, right: np.ndarray) -> np.ndarray:
        """J x = b for phasors (products, unknowns). Raises LinAlgError where it is singular."""
        straight = self.blocks.solve(right[:, :, None])[:, :, 0]
        if not len(self.columns):
            return straight
        inner = self.mixed(straight[:, self.columns])
        u = (
            self._iterated(inner)
            if self._large
            else unpacked(dgetrs(*self._factors, packed(inner), trans=1)[0], len(right))
        )
        return straight - self._responding(u)

    def _responding(self, u: np.ndarray) -> np.ndarray:
        """All unknowns to u (products, rows)."""
        found: np.ndarray = (self._responses @ u[:, :, None])[:, :, 0]
        return found

    @cached_property
    def _factors(self) -> tuple[np.ndarray, np.ndarray]:
        factors, pivots, singular = dgetrf(self._small_matrix.T, overwrite_a=True)
        if singular:
            raise np.linalg.LinAlgError("what is left has no solution")
        return factors, pivots

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
        found = np.zeros((len(self.tones), self._reach.count), complex)
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
        straight, conjugate = self._mixed
        found = np.zeros((len(z), self.circuit.size), complex)
        flat = z.ravel()
        through = (flat.conj() @ _as_matrix(straight)).conj() + flat.conj() @ _as_matrix(conjugate)
        found[:, self.columns] = through.reshape(len(z), -1)
        found[0] = found[0].real
        return found

    def mixed(self, phasors: np.ndarray) -> np.ndarray:
        """N x: from phasors of its columns (products, columns) to those of its rows."""
        if self._large:
            return self._mixed_by_samples(phasors)
        straight, conjugate = self._mixed
        flat = phasors.ravel()
        found = _as_matrix(straight) @ flat + _as_matrix(conjugate) @ flat.conj()
        return found.reshape(len(self.tones), -1)

    @property
    def reals(self) -> int:
        """Real unknowns of what is left."""
        return self._reach.count * self.tones.reals

    @property
    def _large(self) -> bool:
        return self.reals > MOST_DENSE

    def _mixed_by_samples(self, phasors: np.ndarray) -> np.ndarray:
        reach, tones = self._reach, self.tones
        x = tones.to_samples(phasors)[:, reach.column]
        found = np.zeros((len(tones), reach.count), complex)
        for slopes, factor in ((self.along.slopes, 1.0), (self.along.capacitances, self.s)):
            here = slopes[:, reach.entries]
            total = np.zeros((tones.count, reach.count))
            np.add.at(total.T, reach.row, ((here - here.mean(axis=0)) * x).T)
            found += np.reshape(factor, (-1, 1)) * tones.to_phasors(total)
        for net in self.shunted:
            found[:, reach.row_of(net)] -= self.shunt * phasors[:, reach.column_of(net)]
        return found

    @property
    def _small_matrix(self) -> np.ndarray:
        """1 + N Y^-1 among the rows that N reaches, in real numbers."""
        straight, conjugate = self._mixed
        products, rows, _, columns = straight.shape
        inner = self._responses[:, self.columns]
        by_product = [
            np.matmul(one.reshape(products * rows, products, columns).swapaxes(0, 1), through)
            .reshape(products, products, rows, rows)
            .transpose(1, 2, 0, 3)
            for one, through in ((straight, inner), (conjugate, inner.conj()))
        ]  # (h, r, l, r')
        added, taken = by_product[0] + by_product[1], by_product[0] - by_product[1]
        reals = 2 * products - 1
        found = np.empty((reals, rows, reals, rows))
        found[:products, :, :products] = added.real
        np.negative(taken.imag[:, :, 1:], out=found[:products, :, products:])
        found[products:, :, :products] = added.imag[1:]
        found[products:, :, products:] = taken.real[1:, :, 1:]
        matrix = found.reshape(rows * reals, rows * reals)
        matrix[np.diag_indices(len(matrix))] += 1.0
        return matrix

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
    shunt: float = 0.0,
) -> Jacobian:  # fmt: skip
    """J where the products are at frequencies [Hz] and a derivative in time is a product with `s`."""
    extra = circuit.dispersion(frequencies)
    blocks = Blocks(circuit, along.slopes.mean(axis=0), along.capacitances.mean(axis=0), s, extra)
    if shunt:
        blocks.add_shunt(shunted, shunt, circuit)
    return Jacobian(circuit, tones, along, s, blocks, shunted, shunt)
