"""The frequencies of a balance, and the way between phasors and samples over one period of each tone.

A signal is the real part of the sum of X_h exp(j θ_h) over the products h, with θ_h = k1 θ1 + k2 θ2 the phase of a product of
the tones; phasors are peak values, and product 0 is the mean. Products are kept on a half of the lattice, one of each pair
that is conjugate. Samples are taken on a grid of phases, one axis a tone, so that two tones need no common period.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from scipy.fft import fftn, ifftn, irfft, rfft

OVERSAMPLING = 4
"""Samples a period for each harmonic, to begin with."""
MOST_SAMPLES, MOST_FOR_EACH = {1: 1024, 2: 128}, 16
"""Along each axis, by the number of tones; more where there are more harmonics, so many for each."""
SAME = 1e-9
"""Share by which two frequencies may differ and be one."""


@dataclass(frozen=True)
class Tones:
    """`products` (products, tones) whole numbers, the mean first; `samples` along each axis of phases."""

    products: np.ndarray
    samples: tuple[int, ...]

    def __len__(self) -> int:
        return len(self.products)

    @property
    def count(self) -> int:
        """Samples in all."""
        return int(np.prod(self.samples))

    @property
    def reals(self) -> int:
        """Real numbers that make a spectrum: the mean has no imaginary part."""
        return 2 * len(self) - 1

    def frequencies(self, tones: np.ndarray) -> np.ndarray:
        """Of the products (products,), for tones (tones,) [Hz]."""
        return self.products @ tones

    @cached_property
    def _places(self) -> tuple[np.ndarray, np.ndarray]:
        """Where each product, and its conjugate, stand in the transform of all samples."""
        shape = np.array(self.samples)
        return tuple(np.ravel_multi_index(tuple((sign * self.products % shape).T), self.samples) for sign in (1, -1))

    def to_samples(self, phasors: np.ndarray) -> np.ndarray:
        """(products, quantities) complex to (samples, quantities) real."""
        if len(self.samples) == 1:
            half = np.zeros((self.count // 2 + 1, phasors.shape[1]), complex)
            half[self.products[:, 0]] = 0.5 * phasors
            half[0] = phasors[0].real
            return irfft(half, self.count, axis=0, norm="forward", overwrite_x=True)
        full = np.zeros((self.count, phasors.shape[1]), complex)
        there, back = self._places
        full[there] = 0.5 * phasors
        full[back] += 0.5 * phasors.conj()
        shaped = full.reshape(*self.samples, -1)
        return ifftn(shaped, axes=self._axes, norm="forward", overwrite_x=True).real.reshape(self.count, -1)

    @property
    def _axes(self) -> tuple[int, ...]:
        return tuple(range(len(self.samples)))

    def to_phasors(self, samples: np.ndarray) -> np.ndarray:
        """(samples, quantities) real to (products, quantities) complex."""
        return self.phasors_of(self.transform(samples))

    def phasors_of(self, transform: np.ndarray) -> np.ndarray:
        """Of a transform: (products, quantities)."""
        found = 2.0 * transform[self._places[0]]
        found[0] *= 0.5
        return found

    def transform(self, samples: np.ndarray) -> np.ndarray:
        """Coefficients of exp(jθ) for all products that the grid tells apart (samples, quantities)."""
        if len(self.samples) == 1:
            half = rfft(samples, axis=0, norm="forward")
            return np.concatenate([half, half[(self.count - 1) // 2 : 0 : -1].conj()])
        shaped = samples.reshape(*self.samples, -1)
        return fftn(shaped, axes=self._axes, norm="forward").reshape(self.count, -1)

    @cached_property
    def mixing(self) -> tuple[np.ndarray, np.ndarray]:
        """Where the differences and sums of all pairs of products stand in a transform (products, products)."""
        shape = np.array(self.samples)
        pairs = self.products[:, None, :], self.products[None, :, :]
        return tuple(
            np.ravel_multi_index(tuple(np.moveaxis(one % shape, 2, 0)), self.samples)
            for one in (pairs[0] - pairs[1], pairs[0] + pairs[1])
        )

    def rest(self, transform: np.ndarray) -> float:
        """How much of a transform lies in the highest products that the grid can tell apart, as a share of the largest: what
        is beyond them has been taken for something else."""
        size = np.abs(transform)
        largest = float(size.max(initial=0.0))
        if largest == 0.0:
            return 0.0
        shaped = size.reshape(*self.samples, -1)
        found = 0.0
        for axis, count in enumerate(self.samples):
            edge = shaped.take(range(3 * count // 8, 5 * count // 8), axis=axis)
            found = max(found, float(edge.max(initial=0.0)))
        return found / largest

    def finer(self) -> Tones | None:
        """The same with twice the samples; None where there are as many as there may be."""
        doubled = tuple(2 * count for count in self.samples)
        most = max(MOST_SAMPLES[len(self.samples)], MOST_FOR_EACH * int(np.abs(self.products).max(initial=0)))
        return replace(self, samples=doubled) if max(doubled) <= most else None

    def place_of(self, product: np.ndarray) -> tuple[int, bool] | None:
        """Which of the products that is, and whether as its conjugate; None where it is none of them."""
        for sign in (1, -1):
            found = np.flatnonzero((self.products == sign * product).all(axis=1))
            if len(found):
                return int(found[0]), sign < 0
        return None


def padded(phasors: np.ndarray, products: int) -> np.ndarray:
    """As many products as wanted of phasors (products, unknowns), those beyond nothing."""
    found = np.zeros((products, phasors.shape[1]), complex)
    found[: len(phasors)] = phasors[:products]
    return found


def one_tone(harmonics: int) -> Tones:
    """The mean and so many harmonics."""
    return Tones(np.arange(harmonics + 1)[:, None], (_samples(harmonics),))


def two_tones(order: int, tones: np.ndarray) -> Tones:
    """All products of two tones [Hz] with abs(k1) + abs(k2) up to an order, by rising frequency; of each pair of conjugates
    that of a frequency of 0 or more."""
    lattice = [(a, b) for a in range(-order, order + 1) for b in range(-order, order + 1) if abs(a) + abs(b) <= order]
    where = {product: product[0] * tones[0] + product[1] * tones[1] for product in lattice}
    small = SAME * tones.max()
    kept = [p for p in lattice if where[p] > small or (abs(where[p]) <= small and p > (0, 0))]
    kept.sort(key=lambda product: (where[product], abs(product[0]) + abs(product[1])))
    return Tones(np.array([(0, 0), *kept]), (_samples(order),) * 2)


def _samples(harmonics: int) -> int:
    return 1 << int(np.ceil(np.log2(OVERSAMPLING * max(harmonics, 2) + 2)))
