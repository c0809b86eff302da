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

from hearthline.core.compiled.codes import Words
from hearthline.core.engine.kernels.spectra import TABLES, Tables

OVERSAMPLING = 4
"""Samples a period for each harmonic, to begin with."""
MOST_SAMPLES, MOST_FOR_EACH = {1: 1024, 2: 128}, 16
"""Along each axis, by the number of tones; more where there are more harmonics, so many for each."""
MOST_IN_A_TABLE = 1 << 15
"""Numbers of a table from spectra to samples, up to which a product with it is faster than a fast transform."""
ABREAST = 8
"""Samples are a multiple of that: so many are evaluated at a time."""
SAME = 1e-9
"""Share by which two frequencies may differ and be one."""


@dataclass(frozen=True)
class Tones:
    """`products` (products, tones) whole numbers, the mean first; `samples` along each axis of phases."""

    products: np.ndarray
    samples: tuple[int, ...]

    def __len__(self) -> int:
        return len(self.products)

    @cached_property
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
        if self.few:
            return self._waves @ np.concatenate([phasors.real, phasors.imag[1:]])
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
        found = ifftn(shaped, axes=self._axes, norm="forward", overwrite_x=True).real
        return np.ascontiguousarray(found).reshape(self.count, -1)

    @cached_property
    def tables(self) -> Tables:
        """The way to samples and back for compiled code."""
        return Tables(self._waves, self._means)

    @cached_property
    def words(self) -> Words:
        """The same, to be handed over again and again."""
        return Words.of(TABLES, self.tables)

    @cached_property
    def few(self) -> bool:
        """Whether tables are the faster way."""
        return self.count * self.reals <= MOST_IN_A_TABLE

    @cached_property
    def _waves(self) -> np.ndarray:
        """What real parts, and imaginary ones but the mean's, give at each sample (samples, reals)."""
        grid = np.stack(np.unravel_index(np.arange(self.count), self.samples), axis=1)
        turns = grid / np.array(self.samples) @ self.products.T % 1.0
        return np.hstack([np.cos(2.0 * np.pi * turns), -np.sin(2.0 * np.pi * turns[:, 1:])])

    @cached_property
    def _means(self) -> np.ndarray:
        """The way back (reals, samples)."""
        found = 2.0 / self.count * self._waves.T
        found[0] *= 0.5
        return np.ascontiguousarray(found)

    @property
    def _axes(self) -> tuple[int, ...]:
        return tuple(range(len(self.samples)))

    def to_phasors(self, samples: np.ndarray) -> np.ndarray:
        """(samples, quantities) real to (products, quantities) complex."""
        if self.few:
            parts, count = self._means @ samples, len(self)
            found = parts[:count].astype(complex)
            found[1:].imag = parts[count:]
            return found
        found = 2.0 * self.transform(samples)[self._places[0]]
        found[0] *= 0.5
        return found

    def transform(self, samples: np.ndarray) -> np.ndarray:
        """Coefficients of exp(jθ) for all products that the grid tells apart (samples, quantities)."""
        if len(self.samples) == 1:
            half = rfft(samples, axis=0, norm="forward")
            return np.concatenate([half, half[(self.count - 1) // 2 : 0 : -1].conj()])
        shaped = samples.reshape(*self.samples, -1)
        return fftn(shaped, axes=self._axes, norm="forward").reshape(self.count, -1)

    def mixed(self, samples: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Coefficients of exp(jθ) for all differences and sums of products (places, quantities), and where these two of each
        pair of products are among them (products, products)."""
        places, minus, plus = self._mixing
        if len(self.samples) > 1:
            return self.transform(samples)[places], minus, plus
        half = rfft(samples, axis=0, norm="forward")
        mirrored = places > self.count // 2
        found = half[np.where(mirrored, self.count - places, places)]
        found.imag[mirrored] *= -1.0
        return found, minus, plus

    @cached_property
    def _mixing(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Where differences and sums stand in a transform, and which of these each pair of products has."""
        pairs = self.products[:, None, :], self.products[None, :, :]
        shape = np.array(self.samples)
        both = [
            np.ravel_multi_index(tuple(np.moveaxis(one % shape, 2, 0)), self.samples)
            for one in (pairs[0] - pairs[1], pairs[0] + pairs[1])
        ]
        places, which = np.unique(np.stack(both), return_inverse=True)
        minus, plus = which.reshape(2, len(self), len(self))
        return places, np.ascontiguousarray(minus), np.ascontiguousarray(plus)

    def rest(self, samples: np.ndarray) -> float:
        """How much of (samples, quantities) lies in the highest products that the grid can tell apart, as a share of the
        largest: what is beyond them has been taken for something else."""
        if len(self.samples) == 1:
            shaped = np.abs(rfft(samples, axis=0, norm="forward"))
        else:
            shaped = np.abs(self.transform(samples)).reshape(*self.samples, -1)
        largest = float(shaped.max(initial=0.0))
        if largest == 0.0:
            return 0.0
        edges = (
            shaped.take(range(3 * count // 8, min(5 * count // 8, shaped.shape[axis])), axis=axis)
            for axis, count in enumerate(self.samples)
        )
        return max(float(edge.max(initial=0.0)) for edge in edges) / largest

    def finer(self) -> Tones | None:
        """The same with half as many samples again; None where there are as many as there may be."""
        most = max(MOST_SAMPLES[len(self.samples)], MOST_FOR_EACH * int(np.abs(self.products).max(initial=0)))
        if max(self.samples) >= most:
            return None
        return replace(self, samples=tuple(min(_whole(1.5 * count), most) for count in self.samples))

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
    return _whole(OVERSAMPLING * max(harmonics, 2) + 2)


def _whole(samples: float) -> int:
    """No fewer samples, all evaluated abreast."""
    return ABREAST * int(np.ceil(samples / ABREAST))
