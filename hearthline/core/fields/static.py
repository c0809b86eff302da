"""Static fields: those without a curl, which are gradients. They have the frequency 0 and are many."""

from __future__ import annotations

import numpy as np
from scipy.sparse import csr_array, diags_array

from hearthline.core.fields.fronts import factored
from hearthline.core.fields.going import Going, always
from hearthline.core.fields.grid import Grid


class Static:
    """Of a grid, in fields that are scaled by the roots of the capacitances of edges [F], which may be complex."""

    def __init__(self, grid: Grid, capacitances: np.ndarray, going: Going = always):
        free, nodes = grid.free, grid.free_nodes
        self.ways = csr_array(diags_array(np.sqrt(capacitances[free])) @ grid.gradient[free][:, nodes])
        laplacian = csr_array(self.ways.T @ self.ways)
        self._laplacian = factored(laplacian, grid.node_places, going) if len(nodes) else None

    def removed(self, field: np.ndarray) -> np.ndarray:
        """A field without it."""
        if self._laplacian is None:
            return field
        return field - self.ways @ self._laplacian.solve(self.ways.T @ field)
