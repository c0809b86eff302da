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

from hearthline.core.engine.noise_sources import NoiseSources
from hearthline.core.engine.periodic.circuit import Along, LaneCircuit
from hearthline.core.engine.periodic.matrix import Reach, reach_of
from hearthline.core.engine.periodic.states import LaneState


@dataclass(frozen=True)
class Sidebands:
    """The circuit about the state of a lane, at f [Hz] and the sidebands -count to count of it."""

    state: LaneState
    circuit: LaneCircuit
    along: Along
    frequency: float

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
    def _inverse(self) -> np.ndarray:
        """Y^-1 (sidebands, unknowns, unknowns)."""
        circuit, s = self.circuit, 2j * np.pi * self.at
        means, charged = self.along.slopes.mean(axis=0), self.along.capacitances.mean(axis=0)
        matrix = np.zeros((len(s), circuit.size, circuit.size), complex)
        values = means[None, :] + s[:, None] * charged[None, :]
        entries, gains = circuit.dispersion(self.at)
        for k, entry in enumerate(entries):
            values[:, entry] += gains[:, k]
        matrix[:, circuit.rows, circuit.columns] = values
        return np.linalg.inv(matrix)

    @cached_property
    def _reach(self) -> Reach:
        return reach_of(self.circuit, self.along, 2j * np.pi * self.at)

    @cached_property
    def _mixing(self) -> np.ndarray:
        """N (rows, columns, sidebands, sidebands)."""
        reach, tones, s = self._reach, self.state.balanced.tones, 2j * np.pi * self.at
        g = tones.transform(self.along.slopes[:, reach.entries]).T
        c = tones.transform(self.along.capacitances[:, reach.entries]).T
        places = (self.orders[:, None] - self.orders[None, :]) % tones.count
        values = g[:, places] + s[None, :, None] * c[:, places]
        here = np.arange(len(s))
        values[:, here, here] = 0.0
        found = np.zeros((reach.count, len(reach.columns), len(s), len(s)), complex)
        found[reach.row, reach.column] = values
        return found

    @cached_property
    def _responses(self) -> np.ndarray:
        return self._inverse[:, :, self._reach.rows] @ self._reach.weights

    @cached_property
    def _small(self) -> np.ndarray:
        """1 + N Y^-1 among the independent rows (rows * sidebands, squared)."""
        inner = self._responses[:, self._reach.columns]
        rows, columns, bands, _ = self._mixing.shape
        by_band = self._mixing.transpose(3, 0, 2, 1).reshape(bands, rows * bands, columns) @ inner  # (l, rk, q)
        return by_band.transpose(1, 2, 0).reshape(rows * bands, rows * bands) + np.eye(rows * bands)

    @cached_property
    def _factors(self) -> tuple[np.ndarray, np.ndarray]:
        return lu_factor(self._small, check_finite=False)

    def solve(self, right: np.ndarray) -> np.ndarray:
        """Of all unknowns at all sidebands to right sides there (sidebands, unknowns)."""
        straight = np.einsum("knm,km->kn", self._inverse, right)
        if not self._reach.count:
            return straight
        inner = np.einsum("rckl,lc->rk", self._mixing, straight[:, self._reach.columns])
        u = lu_solve(self._factors, inner.ravel(), check_finite=False).reshape(inner.shape)
        return straight - np.einsum("knr,rk->kn", self._responses, u)

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
        straight = np.zeros((len(self.orders), self.circuit.size), complex)
        straight[place] = wanted @ self._inverse[place]
        if not self._reach.count:
            return straight
        inner = np.zeros((self._reach.count, len(self.orders)), complex)
        inner[:, place] = self._reach.weights.T @ straight[place][self._reach.rows]
        z = lu_solve(self._factors, inner.ravel(), trans=1, check_finite=False).reshape(inner.shape)
        into = np.zeros_like(straight)
        into[:, self._reach.columns] = np.einsum("rk,rckl->lc", z, self._mixing)
        return straight - np.einsum("kn,knm->km", into, self._inverse)

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
