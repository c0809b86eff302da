"""The field of a resonance in a plane of the housing, as what a picture needs."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.fields.grid import Grid


@dataclass(frozen=True)
class Slice:
    """In a plane across `normal`: its two axes, the mesh lines along them [m], and in each cell the size of the electric field
    and its parts along both axes, over the largest in the whole housing."""

    normal: int
    axes: tuple[int, int]
    lines: tuple[np.ndarray, np.ndarray]
    size: np.ndarray
    along: tuple[np.ndarray, np.ndarray]


def electric(grid: Grid, voltages: np.ndarray) -> np.ndarray:
    """The electric field in the middle of each cell (3, cells, cells, cells), over the largest; of voltages (edges,) along all
    edges, where complex ones are taken at the moment at which they are largest."""
    real = np.real(voltages * np.exp(-0.5j * np.angle(np.sum(voltages**2)))) if np.iscomplexobj(voltages) else voltages
    found, first = [], 0
    for axis in range(3):
        shape = tuple(n + (k != axis) for k, n in enumerate(grid.cells))
        count = int(np.prod(shape))
        edges = np.moveaxis(real[first : first + count].reshape(shape), axis, 0)
        middle = 0.25 * (edges[:, :-1, :-1] + edges[:, 1:, :-1] + edges[:, :-1, 1:] + edges[:, 1:, 1:])
        found.append(np.moveaxis(middle / grid.steps[axis][:, None, None], 0, axis))
        first += count
    field = np.stack(found)
    return field / max(float(np.linalg.norm(field, axis=0).max()), 1e-300)


def sliced(grid: Grid, field: np.ndarray, normal: int, place: float) -> Slice:
    """Where the plane across an axis is at a place [m]."""
    lines = grid.lines[normal]
    cell = int(np.clip(np.searchsorted(lines, place, side="right") - 1, 0, len(lines) - 2))
    plane = np.take(field, cell, axis=1 + normal)
    a, b = (k for k in range(3) if k != normal)
    return Slice(normal, (a, b), (grid.lines[a], grid.lines[b]), np.linalg.norm(plane, axis=0), (plane[a], plane[b]))
