"""Least squares with many terms of which few matter: the elastic net (H. Zou and T. Hastie, J. R. Statist. Soc. B 67, 2005),
its strength by cross-validation, found by accelerated proximal gradients (A. Beck and M. Teboulle, SIAM J. Imaging Sci. 2,
2009); what it picks is then fitted without it."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations, islice

import numpy as np

MIX = 0.9
"""Of the absolute part in the penalty; the rest is quadratic, so that terms that go together stay together."""
FOLDS, STRENGTHS, TURNS = 5, 24, 200
HOPELESS = 4
"""Strengths after the best so far, of which none was better, that end the search."""
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
    whole = _Squares((terms, values))
    largest = float(np.abs(whole.moments).max(initial=0.0)) / MIX
    if largest <= 0.0 or count < 2 * FOLDS:
        return found
    strengths = np.geomspace(largest, SHORTEST * largest, STRENGTHS)
    errors = _errors(terms, values, strengths)
    mean = errors.mean(axis=0)
    best = int(np.argmin(mean))
    within = mean[best] + errors[:, best].std(ddof=1) / np.sqrt(FOLDS)
    chosen = int(np.argmax(mean <= within))  # the simplest that is as good
    picked = np.zeros(terms.shape[1], bool)
    for weights in islice(whole.path(strengths), chosen + 1):
        picked = np.abs(weights[0]) > 0
    if picked.any() and picked.sum() < count:
        found[picked] = fitted(terms[:, picked], values)
    return found


def _errors(terms: np.ndarray, values: np.ndarray, strengths: np.ndarray) -> np.ndarray:
    """Mean squares (folds, strengths) of what weights found without a fold leave of it; those of the weakest are left out once
    they have long been no use."""
    fold = np.arange(len(values)) % FOLDS
    inside = _Squares(*((terms[fold != k], values[fold != k]) for k in range(FOLDS)))
    found: list[list[float]] = []
    best, since = np.inf, 0
    for weights in inside.path(strengths):
        rests = (values[fold == k] - terms[fold == k] @ weights[k] for k in range(FOLDS))
        found.append([float(np.square(rest).mean()) for rest in rests])
        mean = sum(found[-1])
        best, since = (mean, 0) if mean < best else (best, since + 1)
        if since > HOPELESS:
            break
    return np.array(found).T


class _Squares:
    """The sums that least squares needs, of several sets of terms and values at once: products of terms, and of terms with
    values."""

    def __init__(self, *sets: tuple[np.ndarray, np.ndarray]):
        self.products = np.stack([terms.T @ terms / len(values) for terms, values in sets])
        self.moments = np.stack([terms.T @ values / len(values) for terms, values in sets])
        self.steepest = np.linalg.eigvalsh(self.products)[:, -1:] if self.moments.shape[1] else np.ones((len(sets), 1))

    def path(self, strengths: np.ndarray) -> Iterator[np.ndarray]:
        """Weights (sets, terms) at each strength, each begun where the one before ended."""
        here = np.zeros(self.moments.shape)
        for strength in strengths:
            here = self._at(strength, here)
            yield here

    def _at(self, strength: float, begin: np.ndarray) -> np.ndarray:
        flat, round_ = MIX * strength, (1.0 - MIX) * strength
        step = 1.0 / (self.steepest + round_)
        here, ahead, pace = begin, begin, 1.0
        for _ in range(TURNS):
            slope = np.matmul(self.products, ahead[:, :, None])[:, :, 0] - self.moments + round_ * ahead
            there = ahead - step * slope
            there = there - np.clip(there, -step * flat, step * flat)
            faster = 0.5 * (1.0 + np.sqrt(1.0 + 4.0 * pace * pace))
            moved = there - here
            ahead = there + (pace - 1.0) / faster * moved
            here, pace = there, faster
            if np.all(np.abs(moved).max(axis=1) <= 1e-7 * np.abs(here).max(axis=1)):
                break
        return here
