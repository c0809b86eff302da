"""A mesh made finer until resonances hardly move, and how far they may still be off."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hearthline.core.fields.box import Housing, HousingError
from hearthline.core.fields.going import Going, always
from hearthline.core.fields.grid import Grid
from hearthline.core.fields.mesh import mesh_lines
from hearthline.core.fields.modes import Modes, resonances

STEP = 1.4
"""How much finer each mesh is than the one before."""
SECOND_ORDER = STEP**2 - 1.0
"""Errors fall with the square of the cells: what is left after a step, in what it moved."""


@dataclass(frozen=True)
class Refined:
    """Resonances on the finest mesh, by what share any of them moved with the last step (infinite where there was none), and
    whether that was enough."""

    grid: Grid
    modes: Modes
    moved: float
    enough: bool

    @property
    def left(self) -> float:
        """By what share they are still off, about."""
        return self.moved / SECOND_ORDER


def refined(housing: Housing, told: Callable[[Grid], object] = lambda grid: None, going: Going = always) -> Refined:
    """Until the housing's accuracy is reached, or the mesh has as many cells as it may; without one, the mesh as it is. `told`
    gets each mesh before it is solved. Raises HousingError, also where it does not go on `going`."""
    grid = Grid(housing, mesh_lines(housing))
    told(grid)
    modes, moved, finer = resonances(grid, going), np.inf, 1.0
    while housing.accuracy is not None and moved / SECOND_ORDER > housing.accuracy:
        finer *= STEP
        try:
            grid = Grid(housing, mesh_lines(housing, finer))
        except HousingError:
            return Refined(grid, modes, moved, False)
        told(grid)
        before, modes = modes, resonances(grid, going)
        count = min(len(before.frequencies), len(modes.frequencies))
        moved = float(np.abs(before.frequencies[:count] / modes.frequencies[:count] - 1.0).max(initial=0.0))
    return Refined(grid, modes, moved, housing.accuracy is None or moved / SECOND_ORDER <= housing.accuracy)
