"""Steps of a matrix that is kept, combined so that least is left (D. G. Anderson, Journal of the ACM 12, 1965)."""

from __future__ import annotations

import numpy as np

DEPTH = 5
"""Steps that are remembered."""
SURE = 1e-8
"""Of the largest of remembered differences, what is nothing beside it."""


class Mixing:
    """Of the steps of one matrix; what counts is how many times its tolerance each unknown moves."""

    def __init__(self, weights: np.ndarray):
        self.weights = weights
        self._past: list[tuple[np.ndarray, np.ndarray]] = []

    def mixed(self, x: np.ndarray, step: np.ndarray) -> np.ndarray:
        """The step to take from x (products, unknowns), where the matrix proposes one."""
        past = self._past
        self._past = [*past[1 - DEPTH :], (x, step)]
        if not past:
            return step
        falls = np.stack([self._flat(step - one) for _, one in past], axis=1)
        share = np.linalg.lstsq(falls, self._flat(step), rcond=SURE)[0]
        found = step.copy()
        for weight, (before, one) in zip(share, past, strict=True):
            found -= weight * (x - before + step - one)
        return found

    def _flat(self, step: np.ndarray) -> np.ndarray:
        scaled = step / self.weights
        return np.concatenate([scaled.real.ravel(), scaled.imag.ravel()])
