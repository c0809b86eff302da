"""The linearised balance: its matrix, which couples all products, and the ways to solve it.

J = Y + N. Y has a block for each product h: the slopes' means, G0 + j ω_h C0 and what disperses. N is what mixes products:
what slopes are beside their means, in the rows R and columns C of devices that are not straight. Since N reaches only these,

    (1 + [Y^-1]_CR N_RC) x_C = [Y^-1 b]_C,    x = Y^-1 (b - N x_C)

is exact and small: the block-diagonal Y takes what is straight, and what is left is dense (or, where it is large, solved
by GMRES, for which it is well preconditioned already). About an oscillation Y alone may be singular: there a `shunt` at
each net of such a device is added to Y and taken from N, which changes nothing else.

Real and imaginary parts are unknowns of their own, because N also takes conjugates: the (h, l) block is
g[h-l] x_l + g[h+l] conj(x_l), with g the transform of a slope.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hearthline.core.engine.periodic.circuit import Along, LaneCircuit
from hearthline.core.engine.periodic.tones import Tones

MOST_DENSE = 2600
"""Real unknowns of what is left, up to which it is solved directly."""
MOST_UNKNOWNS_DENSE = 160
"""Unknowns up to which the blocks of Y are solved as dense matrices."""
ITERATIVE = 1e-11
"""How well GMRES solves, as a share of its right side."""


Picks = Sequence[tuple[int, int, bool]]


def packed(phasors: np.ndarray) -> np.ndarray:
    """(products, quantities) as real numbers, quantity by quantity: (quantities * (2 products - 1),)."""
    return np.concatenate([phasors.real, phasors.imag[1:]]).T.ravel()


def unpacked(numbers: np.ndarray, products: int) -> np.ndarray:
    """Back to (products, quantities)."""
    table = numbers.reshape(-1, 2 * products - 1).T
    found = table[:products].astype(complex)
    found[1:] += 1j * table[products:]
    return found


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

    def add_shunt(self, nets: np.ndarray, shunt: float, circuit: LaneCircuit) -> None:
        """A conductance [S] from each of these nets, counted from 0, to ground."""
        self.values[:, np.asarray(circuit.arrays.diagonal)[1 + nets]] += shunt

    @cached_property
    def dense(self) -> np.ndarray:
        """All of them (products, unknowns, unknowns)."""
        found = np.zeros((len(self.values), self.size, self.size), complex)
        found[:, self.rows, self.columns] = self.values
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
            return np.linalg.solve(self.dense.swapaxes(1, 2) if transposed else self.dense, right)
        try:
            factors = self._factors
        except RuntimeError as error:
            raise np.linalg.LinAlgError(str(error)) from None
        way = "T" if transposed else "N"
        return np.stack(
            [one.solve(np.ascontiguousarray(b, complex), way) for one, b in zip(factors, right, strict=True)]
        )

    def times(self, phasors: np.ndarray) -> np.ndarray:
        """Y x (products, unknowns)."""
        found = np.zeros((self.size, len(phasors)), complex)
        np.add.at(found, self.rows, (self.values * phasors[:, self.columns]).T)
        return found.T


@dataclass(frozen=True)
class Jacobian:
    """The linearised balance at what was found along a period, for derivatives in time that multiply by `s` (products,)
    [1/s]."""

    circuit: LaneCircuit
    tones: Tones
    along: Along
    s: np.ndarray
    blocks: Blocks
    shunt: float = 0.0

    @cached_property
    def columns(self) -> np.ndarray:
        """The unknowns that N reaches."""
        return self._reach[1]

    @cached_property
    def _shunted(self) -> tuple[np.ndarray, np.ndarray]:
        """Where the shunts stand among rows and columns."""
        rows, columns, *_ = self._reach
        nets = shunted_nets(self.circuit)
        return np.searchsorted(rows, nets), np.searchsorted(columns, nets)

    @cached_property
    def _reach(self) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
        """Rows and columns that N reaches, and where each of its entries stands among these."""
        bent = self.circuit.bent
        rows, row = np.unique(self.circuit.rows[bent], return_inverse=True)
        columns, column = np.unique(self.circuit.columns[bent], return_inverse=True)
        return rows, columns, row, column

    @cached_property
    def _mixed(self) -> tuple[np.ndarray, np.ndarray]:
        """N as (rows, columns, products, products): what multiplies phasors, and what their conjugates."""
        rows, columns, row, column = self._reach
        bent, tones = self.circuit.bent, self.tones
        g = tones.transform(self.along.slopes[:, bent]).T
        c = tones.transform(self.along.capacitances[:, bent]).T
        minus, plus = tones.mixing
        shape = (len(rows), len(columns), len(tones), len(tones))
        found = []
        here = np.arange(len(tones))
        for places, own in ((minus, here), (plus, here[:1])):  # the means are in Y
            values = g[:, places] + self.s[None, :, None] * c[:, places]
            values[:, own, own] = 0.0
            values[:, 0] *= 0.5
            made = np.zeros(shape, complex)
            made[row, column] = values
            found.append(made)
        if self.shunt:
            row, column = self._shunted
            for h in here:
                found[0][row, column, h, h] -= self.shunt
        return found[0], found[1]

    def solve(self, right: np.ndarray) -> np.ndarray:
        """J x = b for phasors (products, unknowns). Raises LinAlgError where it is singular."""
        straight, responses = self._straight(right[:, :, None])
        straight = straight[:, :, 0]
        if not len(self.columns):
            return straight
        small = self._left(straight[:, self.columns], responses[:, self.columns])
        return straight - np.einsum("hnr,hr->hn", responses, self.mixed(small))

    def _straight(self, right: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Y^-1 of right sides (products, unknowns, cases), and of a one in each row that N reaches."""
        rows = self._reach[0]
        products, size, cases = right.shape
        ways = np.zeros((products, size, cases + len(rows)), complex)
        ways[:, :, :cases] = right
        ways[:, rows, cases + np.arange(len(rows))] = 1.0
        solved = self.blocks.solve(ways)
        return solved[:, :, :cases], solved[:, :, cases:]

    def bordered(
        self, right: np.ndarray, ways: np.ndarray, picks: Picks, wanted: np.ndarray
    ) -> tuple[np.ndarray, np.ndarray]:
        """J x + sum of ways a = b with parts of x given: phasors x, and the real numbers a, as many as picks.

        `ways` (numbers, products, unknowns); each of `picks` is a column that N reaches, a product of it, and whether its
        imaginary part is meant; `wanted` is what these come to. Raises LinAlgError where it is singular.
        """
        sides = np.concatenate([right[None], ways])
        straight, responses = self._straight(np.moveaxis(sides, 0, 2))
        matrix, columns = self._left_matrix(responses[:, self.columns]), self.columns
        count, more = len(matrix), len(picks)
        whole, side = np.zeros((count + more, count + more)), np.zeros(count + more)
        whole[:count, :count] = matrix
        whole[:count, count:] = np.stack([packed(straight[:, columns, 1 + k]) for k in range(more)], axis=1)
        whole[count + np.arange(more), [self._place(*pick) for pick in picks]] = 1.0
        side[:count], side[count:] = packed(straight[:, columns, 0]), wanted
        found = np.linalg.solve(whole, side)
        small, numbers = unpacked(found[:count], len(right)), found[count:]
        flat = straight[:, :, 0] - straight[:, :, 1:] @ numbers
        return flat - np.einsum("hnr,hr->hn", responses, self.mixed(small)), numbers

    def _place(self, column: int, product: int, imaginary: bool) -> int:
        """Where a part of a phasor stands among the real numbers."""
        products = len(self.tones)
        first = int(np.searchsorted(self.columns, column)) * (2 * products - 1)
        return first + (products + product - 1 if imaginary else product)

    def left_null(self, way: np.ndarray, tangent: np.ndarray) -> np.ndarray:
        """w with w J = 0 where J is singular, as phasors (products, unknowns): of real parts and imaginary parts, w x is the
        sum of Re(conj(w_h) x_h). `way` is a right side out of J's reach, `tangent` the x that J makes nothing of."""
        straight, responses = self._straight(way[:, :, None])
        matrix, columns = self._left_matrix(responses[:, self.columns]), self.columns
        count = len(matrix)
        whole = np.zeros((count + 1, count + 1))
        whole[:count, :count] = matrix.T
        whole[count, :count] = packed(straight[:, columns, 0])
        whole[:count, count] = packed(tangent[:, columns])
        side = np.zeros(count + 1)
        side[count] = 1.0
        small = unpacked(np.linalg.solve(whole, side)[:count], len(way))
        right = np.zeros_like(way)
        right[:, columns] = small.conj()
        return self.blocks.solve(right[:, :, None], transposed=True)[:, :, 0].conj()

    def mixed(self, phasors: np.ndarray) -> np.ndarray:
        """N x: from phasors of its columns (products, columns) to those of its rows."""
        if self._large:
            return self._mixed_by_samples(phasors)
        straight, conjugate = self._mixed
        found = np.einsum("rchl,lc->hr", straight, phasors) + np.einsum("rchl,lc->hr", conjugate, phasors.conj())
        return found

    @property
    def _large(self) -> bool:
        return len(self._reach[1]) * self.tones.reals > MOST_DENSE

    def _mixed_by_samples(self, phasors: np.ndarray) -> np.ndarray:
        rows, _, row, column = self._reach
        bent, tones = self.circuit.bent, self.tones
        x = tones.to_samples(phasors)[:, column]
        found = np.zeros((len(tones), len(rows)), complex)
        for slopes, factor in ((self.along.slopes, 1.0), (self.along.capacitances, self.s)):
            beside = slopes[:, bent] - slopes[:, bent].mean(axis=0)
            total = np.zeros((tones.count, len(rows)))
            np.add.at(total.T, row, (beside * x).T)
            found += np.reshape(factor, (-1, 1)) * tones.to_phasors(total)
        if self.shunt:
            row, column = self._shunted
            found[:, row] -= self.shunt * phasors[:, column]
        return found

    def _left(self, right: np.ndarray, responses: np.ndarray) -> np.ndarray:
        """What is left: phasors of the columns (products, columns)."""
        if self._large:
            return self._left_iterated(right, responses)
        matrix = self._left_matrix(responses)
        return unpacked(np.linalg.solve(matrix, packed(right)), len(right))

    def _left_matrix(self, responses: np.ndarray) -> np.ndarray:
        straight, conjugate = self._mixed
        rows, columns, products, _ = straight.shape
        by_product = [
            np.matmul(responses, one.transpose(2, 0, 1, 3).reshape(products, rows, columns * products)).reshape(
                products, columns, columns, products
            )
            for one in (straight, conjugate)
        ]  # (h, c, c', l)
        added, taken = by_product[0] + by_product[1], by_product[0] - by_product[1]
        reals = 2 * products - 1
        found = np.zeros((columns, reals, columns, reals))
        turned, back = added.transpose(1, 0, 2, 3), taken.transpose(1, 0, 2, 3)
        found[:, :products, :, :products] = turned.real
        found[:, :products, :, products:] = -back.imag[..., 1:]
        found[:, products:, :, :products] = turned.imag[:, 1:]
        found[:, products:, :, products:] = back.real[:, 1:, :, 1:]
        matrix = found.reshape(columns * reals, columns * reals)
        matrix[np.diag_indices(len(matrix))] += 1.0
        return matrix

    def _left_iterated(self, right: np.ndarray, responses: np.ndarray) -> np.ndarray:
        from scipy.sparse.linalg import LinearOperator, gmres  # late: for large circuits only

        wanted, products = packed(right), len(right)

        def times(numbers: np.ndarray) -> np.ndarray:
            phasors = unpacked(numbers, products)
            return packed(phasors + np.einsum("hcr,hr->hc", responses, self.mixed(phasors)))

        operator = LinearOperator((len(wanted), len(wanted)), matvec=times, dtype=float)
        found, left = gmres(operator, wanted, rtol=ITERATIVE, restart=120, maxiter=6)
        if left:
            raise np.linalg.LinAlgError("GMRES did not come down")
        return unpacked(found, products)


def shunted_nets(circuit: LaneCircuit) -> np.ndarray:
    """The nets that may have a shunt: those of devices that are not straight."""
    bent = circuit.bent
    both = np.intersect1d(circuit.rows[bent], circuit.columns[bent])
    return both[both < circuit.system.net_count]


def jacobian(
    circuit: LaneCircuit, tones: Tones, along: Along, s: np.ndarray, frequencies: np.ndarray, shunt: float = 0.0
) -> Jacobian:
    """J where the products are at frequencies [Hz] and a derivative in time is a product with `s`."""
    extra = circuit.dispersion(frequencies)
    blocks = Blocks(circuit, along.slopes.mean(axis=0), along.capacitances.mean(axis=0), s, extra)
    if shunt:
        blocks.add_shunt(shunted_nets(circuit), shunt, circuit)
    return Jacobian(circuit, tones, along, s, blocks, shunt)
