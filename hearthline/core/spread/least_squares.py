"""Least squares with many terms of which few matter: the elastic net (H. Zou and T. Hastie, J. R. Statist. Soc. B 67, 2005),
its strength by cross-validation, found by accelerated proximal gradients (A. Beck and M. Teboulle, SIAM J. Imaging Sci. 2,
2009); what it picks is then fitted without it."""

from __future__ import annotations

from itertools import combinations

import numpy as np

MIX = 0.9
"""Of the absolute part in the penalty; the rest is quadratic, so that terms that go together stay together."""
FOLDS, STRENGTHS, TURNS = 5, 24, 200
ENOUGH = 3
"""Samples a term from which on a plain fit is trusted."""
CURVED = 16
"""Terms whose squares and pairs are looked at."""
SHORTEST = 1e-3
"""Of the path of strengths: the last, as a share of the first."""


def fitted(terms: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Coefficients (terms,) of the best plain fit of centred values (samples,) by centred terms (samples, terms)."""
    return np.linalg.lstsq(terms, values, rcond=None)[0]


def bent(terms: np.ndarray, rest: np.ndarray) -> np.ndarray:
    """How the square of each term (samples, terms) goes with values (samples,) of mean 0: (terms,), of either sign."""
    squares = np.square(terms)
    squares -= squares.mean(axis=0)
    size = squares.std(axis=0)
    return squares.T @ rest / len(rest) / np.where(size > 0, size, 1.0)


def bending(terms: np.ndarray, linear: np.ndarray, rest: np.ndarray) -> list[tuple[int, int]]:
    """Squares and pairs of the terms that matter most, by their linear weights or by what is left without those."""
    strength = np.maximum(np.abs(linear), np.abs(bent(terms, rest)))
    strong = [int(k) for k in np.argsort(-strength, kind="stable")[:CURVED]]
    return [(k, k) for k in strong] + list(combinations(strong, 2))


def plain_or_elastic(terms: np.ndarray, values: np.ndarray) -> np.ndarray:
    """A plain fit where there are samples enough, else one of the terms that help."""
    return fitted(terms, values) if len(values) >= ENOUGH * terms.shape[1] else elastic(terms, values)


def elastic(terms: np.ndarray, values: np.ndarray) -> np.ndarray:
    """Coefficients (terms,) of the terms (samples, terms), each of mean 0 and variance 1, that help to foretell values
    (samples,) of mean 0; 0 of the others."""
    count = len(values)
    found = np.zeros(terms.shape[1])
    whole = _Squares(terms, values)
    largest = float(np.abs(whole.moments).max(initial=0.0)) / MIX
    if largest <= 0.0 or count < 2 * FOLDS:
        return found
    strengths = np.geomspace(largest, SHORTEST * largest, STRENGTHS)
    fold = np.arange(count) % FOLDS
    errors = np.zeros((FOLDS, STRENGTHS))
    for k in range(FOLDS):
        inside = _Squares(terms[fold != k], values[fold != k])
        path = inside.path(strengths)
        errors[k] = np.square(values[fold == k][:, None] - terms[fold == k] @ path.T).mean(axis=0)
    mean = errors.mean(axis=0)
    best = int(np.argmin(mean))
    within = mean[best] + errors[:, best].std(ddof=1) / np.sqrt(FOLDS)
    chosen = int(np.argmax(mean <= within))  # the simplest that is as good
    picked = np.abs(whole.path(strengths[: chosen + 1])[-1]) > 0
    if picked.any() and picked.sum() < count:
        found[picked] = fitted(terms[:, picked], values)
    return found


class _Squares:
    """The sums that least squares needs: products of terms, and of terms with values."""

    def __init__(self, terms: np.ndarray, values: np.ndarray):
        self.products = terms.T @ terms / len(values)
        self.moments = terms.T @ values / len(values)
        self.steepest = float(np.linalg.eigvalsh(self.products)[-1]) if len(self.products) else 1.0

    def path(self, strengths: np.ndarray) -> np.ndarray:
        """Coefficients (strengths, terms), each begun where the one before ended."""
        found = np.zeros((len(strengths), len(self.moments)))
        here = np.zeros(len(self.moments))
        for k, strength in enumerate(strengths):
            here = found[k] = self._at(strength, here)
        return found

    def _at(self, strength: float, begin: np.ndarray) -> np.ndarray:
        flat, round_ = MIX * strength, (1.0 - MIX) * strength
        step = 1.0 / (self.steepest + round_)
        here, ahead, pace = begin, begin, 1.0
        for _ in range(TURNS):
            slope = self.products @ ahead - self.moments + round_ * ahead
            there = ahead - step * slope
            there = np.sign(there) * np.maximum(np.abs(there) - step * flat, 0.0)
            faster = 0.5 * (1.0 + np.sqrt(1.0 + 4.0 * pace * pace))
            ahead = there + (pace - 1.0) / faster * (there - here)
            moved = np.abs(there - here).max()
            here, pace = there, faster
            if moved <= 1e-7 * max(np.abs(here).max(), 1e-300):
                break
        return here
