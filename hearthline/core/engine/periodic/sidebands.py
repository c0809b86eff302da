"""Small signals about a periodic state: from any sideband to any, and the noise that comes out of the moving circuit.

A small signal at f comes with others at f + k f0. With G and C the transforms of the slopes along the period,
sum over l of (G[k-l] + s_k C[k-l] + δ_kl D_k) X_l = B_k, s_k = 2πj (f + k f0) (conversion matrices, as of any text on mixers).
As in the balance, Y is the part that mixes nothing and N the rest, which reaches few rows.

A source of noise at each moment is a stationary one times the root of its density there, m(t): what it does at one sideband
after another adds up before it is squared (Phillips and Kundert, CICC 2000).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.linalg import lu_factor, lu_solve

from hearthline.core.engine.kernels.balance import couple_sidebands, times_slopes
from hearthline.core.engine.noise_sources import NoiseSources
from hearthline.core.engine.periodic.blocks import Blocks
from hearthline.core.engine.periodic.circuit import Along, LaneCircuit
from hearthline.core.engine.periodic.matrix import Moving, Reach, reach_of
from hearthline.core.engine.periodic.states import LaneState


@dataclass(frozen=True)
class Sidebands:
    """The circuit about the state of a lane, at f [Hz] and the sidebands -count to count of it; what N
    reaches may be `known` from another frequency."""

    state: LaneState
    circuit: LaneCircuit
    along: Along
    frequency: float
    known: Reach | None = None

    @cached_property
    def orders(self) -> np.ndarray:
        """-count to count."""
        count = len(self.state.balanced.tones) - 1
        return np.arange(-count, count + 1)

    @cached_property
    def at(self) -> np.ndarray:
        """Frequency of each sideband [Hz]; below 0 where it is a mirror."""
        return self.frequency + self.orders * float(self.state.hertz[0])

    @cached_property
    def _blocks(self) -> Blocks:
        return Blocks(self.circuit, self.along, self._s, self.at)

    @cached_property
    def _moving(self) -> Moving:
        return Moving(self.along, self.reach)

    @cached_property
    def reach(self) -> Reach:
        """What N reaches."""
        return reach_of(self.circuit, self.along, self._s, known=self.known)

    @property
    def _s(self) -> np.ndarray:
        return 2j * np.pi * self.at

    @cached_property
    def _responses(self) -> np.ndarray:
        return self._blocks.answers(self.reach.rows, self.reach.weights)

    @cached_property
    def _factors(self) -> tuple[np.ndarray, np.ndarray]:
        """Of 1 + N Y^-1 among the independent rows (sidebands * rows, squared)."""
        reach, tones, orders = self.reach, self.state.balanced.tones, self.orders
        matrix = np.zeros((len(orders) * reach.count,) * 2, complex)
        np.fill_diagonal(matrix, 1.0)
        couple_sidebands(
            reach.row, reach.column, tones.transform(self._moving.values), (orders[:, None] - orders) % tones.count, self._s,
            np.ascontiguousarray(self._responses[:, reach.columns]), matrix,
        )  # fmt: skip
        return lu_factor(matrix, overwrite_a=True, check_finite=False)

    def _mixed(self, phasors: np.ndarray) -> np.ndarray:
        """N x: from phasors of its columns (sidebands, columns) to those of its rows."""
        count = self.reach.count
        both = self._carried(phasors, *self._moving.paths, 2 * count, 1)
        return both[:, :count] + self._s[:, None] * both[:, count:]

    def _mixed_back(self, z: np.ndarray) -> np.ndarray:
        """z N: from phasors of its rows (sidebands, rows) to those of its columns."""
        both = np.hstack([z, self._s[:, None] * z])
        return self._carried(both, *self._moving.paths[::-1], len(self.reach.columns), -1)

    def _carried(self, phasors: np.ndarray, into: np.ndarray, out_of: np.ndarray, count: int, way: int) -> np.ndarray:
        """Through what moves, with sidebands counted up or down: (sidebands, count)."""
        samples, values = self.state.balanced.tones.count, self._moving.values
        places = way * self.orders % samples
        full = np.zeros((samples, phasors.shape[1]), complex)
        full[places] = phasors
        moving = np.fft.ifft(full, axis=0, norm="forward")
        total = np.zeros((2, samples, count))
        for part, x in zip(total, (moving.real, moving.imag), strict=True):
            times_slopes(into, out_of, values, np.ascontiguousarray(x), part)
        return np.fft.fft(total[0] + 1j * total[1], axis=0, norm="forward")[places]

    def solve(self, right: np.ndarray) -> np.ndarray:
        """Of all unknowns at all sidebands to right sides there (sidebands, unknowns)."""
        straight = self._blocks.solve(right[:, :, None])[:, :, 0]
        if not self.reach.count:
            return straight
        inner = self._mixed(straight[:, self.reach.columns])
        u = lu_solve(self._factors, inner.ravel(), check_finite=False).reshape(inner.shape)
        return straight - (self._responses @ u[:, :, None])[:, :, 0]

    def answer(self, excitation: np.ndarray, sideband: int) -> np.ndarray:
        """Of all unknowns at all sidebands (sidebands, unknowns) to an excitation (unknowns,) at one of them."""
        right = np.zeros((len(self.orders), self.circuit.size), complex)
        right[self.place(sideband)] = excitation
        return self.solve(right)

    def charged(self, phasors: np.ndarray) -> np.ndarray:
        """What the equations change with s, times phasors (sidebands, unknowns)."""
        circuit, tones = self.circuit, self.state.balanced.tones
        full = np.zeros((tones.count, circuit.size), complex)
        full[self.orders % tones.count] = phasors
        products = self.along.capacitances * (np.fft.ifft(full, axis=0) * tones.count)[:, circuit.columns]
        total = np.zeros((circuit.size, tones.count), complex)
        np.add.at(total, circuit.rows, products.T)
        found = (np.fft.fft(total.T, axis=0) / tones.count)[self.orders % tones.count]
        spread = circuit.system.dispersion(circuit.lane, np.abs(self.at))
        slopes = np.where(self.at[:, None] < 0, -spread.slopes.conj(), spread.slopes) / 1j
        for k, entry in enumerate(np.asarray(circuit.arrays.slots)[spread.entries].astype(np.int64)):
            if entry < len(circuit.rows):
                found[:, circuit.rows[entry]] += slopes[:, k] * phasors[:, circuit.columns[entry]]
        return found

    def adjoint(self, wanted: np.ndarray, sideband: int = 0) -> np.ndarray:
        """What each equation at each sideband does to an output (unknowns,) at one of them: (sidebands, unknowns)."""
        place = self.place(sideband)
        outputs = np.zeros((len(self.orders), self.circuit.size, 1), complex)
        outputs[place, :, 0] = wanted
        straight = self._blocks.solve(outputs, transposed=True)[:, :, 0]
        if not self.reach.count:
            return straight
        inner = np.zeros((len(self.orders), self.reach.count), complex)
        inner[place] = self.reach.weights.T @ straight[place][self.reach.rows]
        z = lu_solve(self._factors, inner.ravel(), trans=1, check_finite=False).reshape(inner.shape)
        into = np.zeros_like(straight)
        into[:, self.reach.columns] = self._mixed_back(z)
        return straight - self._blocks.solve(into[:, :, None], transposed=True)[:, :, 0]

    def place(self, sideband: int) -> int:
        """Where it stands among the orders."""
        return int(sideband - self.orders[0])


def noise_through(
    bands: Sidebands, sources: NoiseSources, adjoint: np.ndarray, densities: np.ndarray
) -> np.ndarray:  # fmt: skip
    """Density at the output that an adjoint is of, by each source [V²/Hz]; `densities` along the period (samples, sources,
    2)."""
    samples = len(densities)
    full = np.zeros((samples, adjoint.shape[1] + 1), complex)
    full[-bands.orders % samples, 1:] = adjoint
    moving = np.fft.ifft(full, axis=0) * samples
    across = moving[:, sources.ends[:, 0]] - moving[:, sources.ends[:, 1]]
    size, exponent = densities[..., 0], densities[..., 1].max(axis=0, initial=0.0)
    strength = np.abs(np.fft.ifft(across * np.sqrt(np.maximum(size, 0.0)), axis=0)) ** 2
    number = np.fft.fftfreq(samples, 1.0 / samples)
    at = np.maximum(np.abs(bands.frequency + number * float(bands.state.hertz[0])), 1e-30)
    found = np.empty(len(sources.names))
    found[: len(exponent)] = (strength / at[:, None] ** exponent[None, :]).sum(axis=0)
    found[len(exponent) :] = _correlated(bands, sources, adjoint)
    return found


def _correlated(bands: Sidebands, sources: NoiseSources, adjoint: np.ndarray) -> np.ndarray:
    """Of parts from files, at each sideband by itself."""
    groups = sources.groups(bands.circuit.lane, np.maximum(np.abs(bands.at), 1.0))
    total = np.zeros(len(groups.spans))
    for k, (first, count, entry) in enumerate(groups.spans):
        rows = adjoint[:, groups.rows[first : first + count] - 1]
        matrices = groups.matrices[:, entry : entry + count * count].reshape(-1, count, count)
        mirrored = np.where((bands.at < 0)[:, None, None], matrices.conj(), matrices)
        total[k] = float(np.einsum("ka,kab,kb->", rows, mirrored, rows.conj()).real)
    return total


def about(state: LaneState) -> tuple[LaneCircuit, Along]:
    """The circuit of a state with its slopes along the period, as exact as they are."""
    circuit = state.circuit
    return circuit, circuit.along(state.balanced.tones, state.balanced.phasors, limits=False)
