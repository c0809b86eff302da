"""Finer steps where curves bend: which points of a sweep a straight line would miss, and two sweeps as one."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from hearthline.core.data.dataset import Dataset

MOST_ROUNDS = 12


def refined(solve: Callable[[np.ndarray], Dataset], points: np.ndarray, bend: float, maximum: int) -> Dataset:
    """Solves at `points` and goes on between them until no curve misses a straight line by more than the share `bend` of
    its height, or there are `most` points."""
    found = solve(points)
    for _ in range(MOST_ROUNDS):
        miss = np.max([misses(points, np.real(curve)) for curve in found.curves.values()], axis=0, initial=0.0)
        wanted = np.zeros(len(points) - 1, bool)
        wanted[:-1] |= miss > bend
        wanted[1:] |= miss > bend
        more = (0.5 * (points[1:] + points[:-1]))[wanted][: max(0, maximum - len(points))]
        if not len(more):
            break
        points, found = merged(points, found, more, solve(more))
    return found


def misses(points: np.ndarray, view: np.ndarray) -> np.ndarray:
    """For each inner point the largest miss over all lanes, as a share of the lane's height."""
    height = np.nanmax(view, axis=1, initial=-np.inf) - np.nanmin(view, axis=1, initial=np.inf)
    share = (points[1:-1] - points[:-2]) / (points[2:] - points[:-2])
    between = view[:, :-2] + share * (view[:, 2:] - view[:, :-2])
    with np.errstate(invalid="ignore", divide="ignore"):
        miss = np.abs(view[:, 1:-1] - between) / height[:, None]
    return np.nan_to_num(miss, nan=0.0, posinf=0.0).max(axis=0)


def merged(points: np.ndarray, found: Dataset, more: np.ndarray, added: Dataset) -> tuple[np.ndarray, Dataset]:
    """Two sweeps of the same circuit as one, in the order of their points (points,)."""
    order = np.argsort(np.concatenate([points, more]), kind="stable")
    curves = {
        label: np.concatenate([found.curves[label], added.curves[label]], axis=1)[:, order] for label in found.curves
    }
    outcomes = np.concatenate([found.outcomes, added.outcomes], axis=1)[:, order]
    together = np.concatenate([points, more])[order]
    dataset = Dataset(
        found.kind, found.axis, found.axis_unit, together, curves, found.units, found.conditions, outcomes
    )  # fmt: skip
    return together, dataset
