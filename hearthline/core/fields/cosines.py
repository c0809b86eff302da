"""Cosines on a box with insulated sides, which heat and currents in it are sums of."""

from __future__ import annotations

import math

import numpy as np


def cosines(angles: np.ndarray, count: int) -> np.ndarray:
    """cos(m φ) for m from 0 on (angles, terms), by sums of angles: two products take a tenth of a cosine."""
    step = math.isqrt(max(count - 1, 0)) + 1
    coarse = np.outer(angles, step * np.arange(-(-count // step)))[:, :, None]
    fine = np.outer(angles, np.arange(step))[:, None, :]
    found = np.cos(coarse) * np.cos(fine) - np.sin(coarse) * np.sin(fine)
    return found.reshape(len(angles), -1)[:, :count]


def cosine_means(span: float, middles: np.ndarray, sizes: np.ndarray, count: int) -> np.ndarray:
    """Means of cos(mπx/span) over intervals, for m from 0 on (intervals, terms)."""
    each, kind = np.unique(sizes, return_inverse=True)
    shares = np.sinc(np.outer(each, np.arange(count)) / (2.0 * span))
    return cosines(np.pi * middles / span, count) * shares[kind.ravel()]
