"""Partial inductances of straight pieces of wire anywhere in space.

By Neumann's integral: in closed form along one piece, ln((R1 + R2 + l) / (R1 + R2 - l)), by Gauss and Legendre along the other
(Grover, Inductance Calculations; Ruehli, IBM Journal of Research and Development 1972). That of a piece with itself is of its
axis with a line on its surface. A plane of ground carries the image: mirrored, with the current the other way.
"""

from __future__ import annotations

import numpy as np

from hearthline.core.constants import MU0

POINTS, PARTS = 12, 4
"""Of Gauss and Legendre on a part, and parts of a piece, which are shorter towards its ends."""


def self_inductance(length: float, radius: float) -> float:
    """Of the field outside of a straight round wire [H] (Grover)."""
    ratio = length / radius
    return float(
        MU0 * length / (2.0 * np.pi) * (np.log(ratio + np.hypot(1.0, ratio)) - np.hypot(1.0, 1.0 / ratio) + 1.0 / ratio)
    )


def mutual_inductance(
    begins: np.ndarray, ends: np.ndarray, others: np.ndarray, far: np.ndarray, aside: np.ndarray
) -> np.ndarray:
    """Between pieces (pieces, 3) and others (others, 3) [m], by their axes, which are moved aside by (pieces, others) [m]: by
    the radius between pieces of one wire, so that it does not matter how it is cut, else by nothing. (pieces, others) [H]."""
    ways, lengths = _ways(begins, ends)
    other_ways, other_lengths = _ways(others, far)
    places, weights = _places()
    points = begins[:, None] + places[None, :, None] * (ends - begins)[:, None]
    first = np.hypot(np.linalg.norm(points[:, None] - others[None, :, None], axis=-1), aside[:, :, None])
    last = np.hypot(np.linalg.norm(points[:, None] - far[None, :, None], axis=-1), aside[:, :, None])
    span = other_lengths[None, :, None]
    with np.errstate(divide="ignore", invalid="ignore"):
        inner = np.log((first + last + span) / np.maximum(first + last - span, 1e-300))
    return MU0 / (4.0 * np.pi) * (ways @ other_ways.T) * (inner @ weights) * lengths[:, None]


def _ways(begins: np.ndarray, ends: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    lengths = np.linalg.norm(ends - begins, axis=1)
    return (ends - begins) / lengths[:, None], lengths


def _places() -> tuple[np.ndarray, np.ndarray]:
    """From 0 to 1, with their weights: close at both ends, where the next piece begins."""
    x, w = np.polynomial.legendre.leggauss(POINTS)
    edges = 0.5 * (1.0 - np.cos(np.linspace(0.0, np.pi, PARTS + 1)))
    widths = np.diff(edges)
    places = edges[:-1, None] + 0.5 * widths[:, None] * (1.0 + x)
    return places.ravel(), (0.5 * widths[:, None] * w).ravel()
