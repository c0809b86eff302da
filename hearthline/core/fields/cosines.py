"""Cosines on a box with insulated sides, which heat and currents in it are sums of."""

from __future__ import annotations

import numpy as np


def cosine_means(span: float, middles: np.ndarray, sizes: np.ndarray, count: int) -> np.ndarray:
    """Means of cos(mπx/span) over intervals, for m from 0 on (intervals, terms)."""
    m = np.arange(count)
    return np.asarray(np.cos(np.pi * np.outer(middles, m) / span) * np.sinc(np.outer(sizes, m) / (2.0 * span)))
