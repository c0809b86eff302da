"""The largest eigenvalues of a symmetric operator, several vectors at a time: what is alike is found alike, and factors are
read once for all (block Lanczos with full orthogonalisation: Golub and Underwood 1977)."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

MOST = 400
"""Vectors."""


def largest(
    apply: Callable[[np.ndarray], np.ndarray], start: np.ndarray, wanted: int, exact: float
) -> tuple[np.ndarray, np.ndarray]:
    """The `wanted` largest, falling, to a relative residual `exact`, and their vectors; from a block `start` (unknowns,
    vectors) of at least as many vectors as eigenvalues may be equal."""
    size, width = start.shape
    most = min(size, MOST)
    basis = np.zeros((size, most), order="F")
    within = np.zeros((most, most))
    basis[:, :width] = np.linalg.qr(start)[0]
    begin, count = 0, width
    while True:
        image = apply(basis[:, begin:count])
        projected = basis[:, :count].T @ image
        within[:count, begin:count] = projected
        within[begin:count, :count] = projected.T
        rest = image - basis[:, :count] @ projected
        rest -= basis[:, :count] @ (basis[:, :count].T @ rest)
        following = np.linalg.svd(rest, full_matrices=False)[0][:, : most - count]
        values, turns = np.linalg.eigh(within[:count, :count])
        values, turns = values[::-1][:wanted], turns[:, ::-1][:, :wanted]
        left = np.linalg.norm(rest @ turns[begin:count], axis=0)
        if (len(values) == wanted and (left <= exact * np.abs(values)).all()) or count == most:
            return values, basis[:, :count] @ turns
        begin, count = count, count + following.shape[1]
        basis[:, begin:count] = following
