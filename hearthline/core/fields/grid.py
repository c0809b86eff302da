"""The equations of a field on a mesh: voltages along edges, fluxes through faces (Yee, IEEE Trans. Antennas and Propagation
1966; Weiland, AEU 1977).

With e the voltages along edges, curl e is the sum around a face; edges have capacitances M_ε by the materials of the four cells
about them, faces reluctances M_ν by those of the two beside them: Cᵀ M_ν C e = ω² M_ε e. On and in metal e is 0.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.sparse import block_array, csr_array, diags_array, eye_array, kron, vstack

from hearthline.core.constants import EPSILON0, MU0
from hearthline.core.fields.box import Housing
from hearthline.core.fields.mesh import Lines


@dataclass(frozen=True)
class Grid:
    """A housing on its mesh lines."""

    housing: Housing
    lines: Lines

    @cached_property
    def cells(self) -> tuple[int, int, int]:
        """Along each axis."""
        a, b, c = (len(one) - 1 for one in self.lines)
        return a, b, c

    @cached_property
    def steps(self) -> tuple[np.ndarray, ...]:
        """Their lengths [m]."""
        return tuple(np.diff(one) for one in self.lines)

    @cached_property
    def _materials(self) -> dict[str, np.ndarray]:
        """Of each cell: er, er tan δ, real and imaginary part of 1 / (mur (1 - j tan δ_μ)), and whether it is metal."""
        middles = [0.5 * (one[1:] + one[:-1]) for one in self.lines]
        found = {
            name: np.full(self.cells, value) for name, value in (("er", 1.0), ("loss", 0.0), ("nu", 1.0), ("turn", 0.0))
        }
        metal = np.zeros(self.cells, bool)
        for one in self.housing.things:
            inside = [(m > a) & (m < b) for m, a, b in zip(middles, one.low, one.high, strict=True)]
            here = np.ix_(*inside)
            metal[here] = one.metal
            found["er"][here], found["loss"][here] = one.er, one.er * one.tan_delta
            turned = one.mur * (1.0 + one.mu_tan_delta**2)
            found["nu"][here], found["turn"][here] = 1.0 / turned, one.mu_tan_delta / turned
        return {**found, "metal": metal}

    # -- incidences

    @cached_property
    def _derivatives(self) -> tuple[csr_array, ...]:
        return tuple(csr_array(diags_array([-1.0, 1.0], offsets=[0, 1], shape=(n, n + 1))) for n in self.cells)

    def _placed(self, pieces: tuple) -> csr_array:
        return csr_array(kron(kron(pieces[0], pieces[1]), pieces[2]))

    def _along(self, derivative: int, counts: tuple[int, int, int]) -> csr_array:
        """A difference along one axis; along the others as many as `counts`."""
        return self._placed(tuple(self._derivatives[k] if k == derivative else eye_array(counts[k]) for k in range(3)))

    @cached_property
    def curl(self) -> csr_array:
        """From all edges to all faces."""
        nx, ny, nz = self.cells
        xz, xy = self._along(1, (nx + 1, 0, nz)), self._along(2, (nx + 1, ny, 0))
        yx, yz = self._along(2, (nx, ny + 1, 0)), self._along(0, (0, ny + 1, nz))
        zy, zx = self._along(0, (0, ny, nz + 1)), self._along(1, (nx, 0, nz + 1))
        return csr_array(block_array([[None, -xy, xz], [yx, None, -yz], [-zx, zy, None]]))

    @cached_property
    def gradient(self) -> csr_array:
        """From all nodes to all edges."""
        nx, ny, nz = (n + 1 for n in self.cells)
        return csr_array(
            vstack([self._along(0, (0, ny, nz)), self._along(1, (nx, 0, nz)), self._along(2, (nx, ny, 0))])
        )

    # -- materials

    def capacitances(self, name: str = "er") -> np.ndarray:
        """Of all edges [F], by a quantity of the cells."""
        found = []
        for axis in range(3):
            cells = np.moveaxis(self._materials[name], axis, 0)
            across = [self.steps[k] for k in range(3) if k != axis]
            weighted = cells * across[0][None, :, None] * across[1][None, None, :]
            padded = np.pad(weighted, ((0, 0), (1, 1), (1, 1)))
            total = 0.25 * (padded[:, :-1, :-1] + padded[:, 1:, :-1] + padded[:, :-1, 1:] + padded[:, 1:, 1:])
            found.append(np.moveaxis(total / self.steps[axis][:, None, None], 0, axis).ravel())
        return EPSILON0 * np.concatenate(found)

    def reluctances(self, name: str = "nu") -> np.ndarray:
        """Of all faces [1/H], by a quantity of the cells."""
        found = []
        for axis in range(3):
            cells = np.moveaxis(self._materials[name], axis, 0)
            padded = np.pad(cells * self.steps[axis][:, None, None], ((1, 1), (0, 0), (0, 0)))
            total = 0.5 * (padded[:-1] + padded[1:])
            across = [self.steps[k] for k in range(3) if k != axis]
            area = across[0][:, None] * across[1][None, :]
            found.append(np.moveaxis(total / area, 0, axis).ravel())
        return np.concatenate(found) / MU0

    @cached_property
    def free(self) -> np.ndarray:
        """Places of the edges that have a voltage: not on or in metal."""
        found = []
        for axis in range(3):
            metal = np.moveaxis(np.pad(self._materials["metal"], 1, constant_values=True), axis, 0)[1:-1]
            any_of = metal[:, :-1, :-1] | metal[:, 1:, :-1] | metal[:, :-1, 1:] | metal[:, 1:, 1:]
            found.append(np.moveaxis(~any_of, 0, axis).ravel())
        return np.flatnonzero(np.concatenate(found))

    @cached_property
    def free_nodes(self) -> np.ndarray:
        """Places of the nodes that touch no metal."""
        metal = np.pad(self._materials["metal"], 1, constant_values=True)
        touched = np.zeros(tuple(n + 1 for n in self.cells), bool)
        for a in (slice(None, -1), slice(1, None)):
            for b in (slice(None, -1), slice(1, None)):
                for c in (slice(None, -1), slice(1, None)):
                    touched |= metal[a, b, c]
        return np.flatnonzero(~touched.ravel())

    # -- places, for whoever divides the mesh

    @cached_property
    def edge_places(self) -> np.ndarray:
        """Middles of the free edges (edges, axes), in half steps."""
        found = []
        for axis in range(3):
            shape = tuple(n + (k != axis) for k, n in enumerate(self.cells))
            found.append(2 * np.indices(shape).reshape(3, -1).T + (np.arange(3) == axis))
        return np.concatenate(found)[self.free]

    @cached_property
    def node_places(self) -> np.ndarray:
        """Of the free nodes (nodes, axes), in steps."""
        return np.indices(tuple(n + 1 for n in self.cells)).reshape(3, -1).T[self.free_nodes]

    # -- volumes

    def node_volumes(self, name: str) -> np.ndarray:
        """Sum over the eighths of the cells about each node of a quantity times volume [m³]."""
        dx, dy, dz = self.steps
        weighted = self._materials[name] * dx[:, None, None] * dy[None, :, None] * dz[None, None, :]
        padded = np.pad(weighted, 1)
        total = np.zeros(tuple(n + 1 for n in self.cells))
        for a in (slice(None, -1), slice(1, None)):
            for b in (slice(None, -1), slice(1, None)):
                for c in (slice(None, -1), slice(1, None)):
                    total += padded[a, b, c]
        return 0.125 * total.ravel()

    # -- surfaces

    @cached_property
    def surface(self) -> np.ndarray:
        """Of each face the area of metal that its tangential field H runs along, over the square of the length that its
        voltage of H is along: with h that voltage, the sum of H² over all metal is that of this times h². H does not change
        across the half cell to the metal, to second order."""
        metal = np.pad(self._materials["metal"], 1, constant_values=True)
        open_ = ~metal[1:-1, 1:-1, 1:-1]
        shares = [np.zeros(tuple(n + (k == axis) for k, n in enumerate(self.cells))) for axis in range(3)]
        for normal in range(3):
            rest = [k for k in range(3) if k != normal]
            area = self.steps[rest[0]][:, None] * self.steps[rest[1]][None, :]
            for side in (0, 2):
                beside = np.moveaxis(metal, normal, 0)[side : side + self.cells[normal], 1:-1, 1:-1]
                patch = np.moveaxis(open_, normal, 0) & beside
                wide = np.moveaxis(patch * area[None], 0, normal)
                for axis in rest:  # H along this axis, on the two faces of the cell across it
                    half = 0.5 * np.moveaxis(wide, axis, 0)
                    share = np.moveaxis(shares[axis], axis, 0)
                    share[:-1] += half
                    share[1:] += half
        found = []
        for axis in range(3):
            step = self.steps[axis]
            length = 0.5 * (np.append(step, 0.0) + np.append(0.0, step))
            found.append(np.moveaxis(np.moveaxis(shares[axis], axis, 0) / length[:, None, None] ** 2, 0, axis).ravel())
        return np.concatenate(found)

    def edges_along(self, axis: int, at: tuple[int, int, int], count: int) -> np.ndarray:
        """Places of edges in a row from a node on."""
        offset = sum(int(np.prod([n + (j != k) for j, n in enumerate(self.cells)])) for k in range(axis))
        shape = tuple(n + (k != axis) for k, n in enumerate(self.cells))
        places = [tuple(at[k] + (j if k == axis else 0) for k in range(3)) for j in range(count)]
        return np.array([offset + np.ravel_multi_index(place, shape) for place in places])
