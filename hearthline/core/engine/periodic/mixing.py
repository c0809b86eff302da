"""Steps of a matrix that is kept, combined so that least is left (D. G. Anderson, Journal of the ACM 12, 1965)."""

from __future__ import annotations

import numpy as np

from hearthline.core.engine.kernels.mixing import Past, mix

DEPTH = 5
"""Steps that are remembered."""


class Mixing:
    """Of the steps of one matrix; what counts is how many times its tolerance each unknown (unknowns,) moves."""

    def __init__(self, weights: np.ndarray, products: int):
        flat = np.tile(np.repeat(weights, 2), products)
        lengths, ends = np.zeros((2, DEPTH, len(flat)))
        self.past = Past(lengths, ends, flat)
        self.count = 0

    def mixed(self, x: np.ndarray, step: np.ndarray) -> np.ndarray:
        """The step to take from x (products, unknowns), where the matrix proposes one."""
        found = np.empty_like(step)
        mix(self.past, self.count, *(np.ascontiguousarray(one).view(float).ravel() for one in (x, step, found)))
        self.count += 1
        return found
