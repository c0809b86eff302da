"""Readings as quadratic functions of what varies, fitted to samples, with the error that they make on samples they have not
seen."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from hearthline.core.spread.least_squares import bending, elastic, plain_or_elastic
from hearthline.core.spread.samples import SampleSet

FOLDS = 5


@dataclass(frozen=True)
class Surface:
    """A reading: its mean, and a weight for each variable, and for each pair (a variable with itself: its square) of them. What
    it foretells is off by `error` (root of the mean square, by cross-validation), and `rests` (samples,) are its own."""

    mean: float
    linear: np.ndarray
    pairs: tuple[tuple[int, int], ...]
    weights: np.ndarray
    error: float
    rests: np.ndarray
    explained: float

    def values(self, x: np.ndarray) -> np.ndarray:
        """What it foretells (samples,) of deviations (samples, variables)."""
        found = self.mean + x @ self.linear
        for (a, b), weight in zip(self.pairs, self.weights, strict=True):
            if weight:
                found = found + weight * x[:, a] * x[:, b]
        return found


def deviations(samples: SampleSet) -> np.ndarray:
    """What each variable deviates by in each sample (samples, variables), in standard deviations."""
    columns = [
        one.deviations(z) / (one.sigma or 1.0) for one, z in zip(samples.variables, samples.normal.T, strict=True)
    ]
    return np.column_stack(columns) if columns else np.zeros((samples.count, 0))


def surface_of(x: np.ndarray, values: np.ndarray) -> Surface | None:
    """The surface through values (samples,) over deviations (samples, variables); None where too few have a value."""
    known = np.isfinite(values)
    if known.sum() < 4 * FOLDS:
        return None
    x, y = x[known], values[known]
    fit = _fit(x, y)
    fold = np.arange(len(y)) % FOLDS
    off = np.empty(len(y))
    for k in range(FOLDS):
        inside = fold != k
        off[~inside] = y[~inside] - _again(fit, x[inside], y[inside]).values(x[~inside])
    rests = np.zeros(len(known))
    rests[known] = off
    error, size = float(np.sqrt(np.square(off).mean())), float(y.std())
    explained = max(0.0, 1.0 - (error / size) ** 2) if size > 0 else 1.0
    return Surface(fit.mean, fit.linear, fit.pairs, fit.weights, error, rests, explained)


def surfaces(samples: SampleSet, names: Mapping[str, object]) -> dict[str, Surface | None]:
    """Those of readings, by name; a reading over several rows by its first."""
    x = deviations(samples)
    return {name: surface_of(x, samples.reading(name)) for name in names}


def _fit(x: np.ndarray, y: np.ndarray) -> Surface:
    mean = float(y.mean())
    centre, size = x.mean(axis=0), np.where(x.std(axis=0) > 0, x.std(axis=0), 1.0)
    scaled, off = (x - centre) / size, y - mean
    linear = plain_or_elastic(scaled, off)
    rest = off - scaled @ linear
    pairs = bending(scaled, linear, rest)
    terms = np.column_stack([x[:, a] * x[:, b] for a, b in pairs])
    spread = terms.std(axis=0)
    spread = np.where(spread > 0, spread, 1.0)
    picked = np.abs(elastic((terms - terms.mean(axis=0)) / spread, rest)) > 0
    kept = tuple(pair for pair, wanted in zip(pairs, picked, strict=True) if wanted)
    return _again(Surface(mean, (np.abs(linear) > 0).astype(float), kept, np.zeros(len(kept)), 0.0, y, 0.0), x, y)


def _again(form: Surface, x: np.ndarray, y: np.ndarray) -> Surface:
    """The same terms with the weights that fit these samples best."""
    used = np.flatnonzero(form.linear)
    columns = [np.ones(len(y)), *(x[:, k] for k in used), *(x[:, a] * x[:, b] for a, b in form.pairs)]
    weights = np.linalg.lstsq(np.column_stack(columns), y, rcond=None)[0]
    linear = np.zeros(x.shape[1])
    linear[used] = weights[1 : 1 + len(used)]
    return Surface(float(weights[0]), linear, form.pairs, weights[1 + len(used) :], 0.0, form.rests, 0.0)
