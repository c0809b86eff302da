"""Resonances of a housing, and what loses their energy.

Static fields, which have the frequency 0 and are many, are gradients; they are taken away at every step. The lowest resonances
are then found by shift and invert. Losses follow from the fields (perturbation): 1/Q of the filling is the mean of its
loss tangents over the energy, that of the walls Rs/2 times the square of H along them over ω W (Pozar, Microwave Engineering).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import csr_array, diags_array, eye_array

from hearthline.core.constants import MU0
from hearthline.core.fields.box import Housing
from hearthline.core.fields.fronts import factored
from hearthline.core.fields.going import Going, always, going_on
from hearthline.core.fields.grid import Grid
from hearthline.core.fields.krylov import largest
from hearthline.core.fields.passes import SIDES
from hearthline.core.fields.static import Static

MORE = 2
"""Resonances that are sought beyond those wanted."""
EXACT, NEAR = 1e-5, 1e-3
"""Residual of a resonance; and share by which two are the same."""
SPARE = 4
"""Vectors that are sought with beside those that may be alike."""
DENSE = 800
"""Unknowns up to which all resonances are found, in a dense matrix."""
ALIKE = 1e-6
"""Share by which frequencies differ that are one."""
STATIC = 1e-4
"""Of the lowest resonance of the bare box, a frequency that is none."""


@dataclass(frozen=True)
class Modes:
    """Rising frequencies [Hz], quality by walls and by what fills the box (infinite without loss), and voltages along all edges
    (modes, edges)."""

    frequencies: np.ndarray
    walls: np.ndarray
    filling: np.ndarray
    voltages: np.ndarray

    @property
    def quality(self) -> np.ndarray:
        """By both."""
        with np.errstate(divide="ignore"):
            return 1.0 / (1.0 / self.walls + 1.0 / self.filling)


def resonances(grid: Grid, going: Going = always) -> Modes:
    """As many as the housing wants; fewer where the mesh has no more. Raises HousingError where `going`, asked at every step,
    says no."""
    if grid.housing.strongly_lossy:
        return _damped(grid, going)
    free, wanted = grid.free, grid.housing.modes
    bare = 2.0 * np.pi * grid.housing.bare_frequencies(1)[0]
    scale = diags_array(1.0 / np.sqrt(grid.capacitances()[free]))
    curl = grid.curl[:, free]
    matrix = csr_array(scale @ (curl.T @ (diags_array(grid.reluctances()) @ curl)) @ scale)
    squares, shapes = _lowest(
        matrix,
        grid.edge_places,
        Static(grid, grid.capacitances(), going),
        0.2 * bare**2,
        wanted + _static(grid.housing),
        _most_alike(grid.housing),
        going,
    )
    kept = np.flatnonzero(squares > (STATIC * bare) ** 2)
    whole = np.zeros((len(kept), grid.curl.shape[1]))
    whole[:, free] = (scale @ shapes[:, kept]).T
    omega = np.sqrt(squares[kept])[:wanted]
    whole = _told_apart(grid, np.sqrt(squares[kept]), whole)[:wanted]
    walls, filling = _qualities(grid, omega, whole)
    return Modes(omega / (2.0 * np.pi), walls, filling, whole)


def _damped(grid: Grid, going: Going) -> Modes:
    """With strong losses inside; what walls lose is a small correction still."""
    from hearthline.core.fields.damped import damped

    omega, voltages = damped(grid, going)
    walls, _ = _qualities(grid, omega.real, voltages)
    with np.errstate(divide="ignore"):
        filling = omega.real / (2.0 * omega.imag)
    return Modes(omega.real / (2.0 * np.pi), walls, filling, voltages)


def _told_apart(grid: Grid, omega: np.ndarray, voltages: np.ndarray) -> np.ndarray:
    """Where several have one frequency, those of them that lose the least and the most."""
    found, first = voltages.copy(), 0
    while first < len(omega):
        last = first + 1
        while last < len(omega) and omega[last] - omega[first] <= ALIKE * omega[first]:
            last += 1
        if last - first > 1:
            some = voltages[first:last]
            h = (some @ grid.curl.T) * grid.reluctances()
            lost = (h * grid.surface) @ h.T + (some * grid.capacitances("loss")) @ some.T * omega[first] ** 2
            found[first:last] = np.linalg.eigh(lost)[1].T @ some
        first = last
    return found


def _static(housing: Housing) -> int:
    """How many fields at rest may be there that are no gradients of free nodes: those of metal that touches no wall."""
    return sum(one.metal for one in housing.things)


def _most_alike(housing: Housing) -> int:
    """How many of the wanted resonances are one in the bare box, at most; what is inside only parts them."""
    found = housing.bare_frequencies(housing.modes + MORE)
    return max(int((np.abs(found / one - 1.0) < NEAR).sum()) for one in found)


def _lowest(
    matrix: csr_array, places: np.ndarray, static: Static, shift: float, wanted: int, alike: int, going: Going
) -> tuple[np.ndarray, np.ndarray]:
    """The lowest eigenvalues that are not static, and their vectors; so many may be `alike`."""
    size = matrix.shape[0]
    if size <= DENSE:
        return np.linalg.eigh(matrix.toarray())
    solved = factored(csr_array(matrix + shift * eye_array(size)), places, going)
    width = -(-(alike + SPARE) // SIDES) * SIDES  # so many are solved for at a time in any case
    start = static.removed(np.random.default_rng(1).standard_normal((size, width)))
    inverse, vectors = largest(
        lambda fields: static.removed(solved.solve(going_on(fields, going))), start, wanted + 1, EXACT
    )
    return 1.0 / inverse - shift, vectors


def _qualities(grid: Grid, omega: np.ndarray, voltages: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    conductivity = grid.housing.wall_conductivity
    fluxes = voltages @ grid.curl.T  # jω times them
    h = fluxes * grid.reluctances()[None] / omega[:, None]
    electric = (np.abs(voltages) ** 2) @ grid.capacitances()
    magnetic = (h * fluxes.conj() / omega[:, None]).real.sum(axis=1)
    lost = (np.abs(voltages) ** 2) @ grid.capacitances("loss") / electric
    turned = (np.abs(fluxes / omega[:, None]) ** 2) @ grid.reluctances("turn") / magnetic
    with np.errstate(divide="ignore"):
        filling = 1.0 / (lost + turned)
    if conductivity is None:
        return np.full(len(omega), np.inf), filling
    resistance = np.sqrt(omega * MU0 / (2.0 * conductivity))
    power = 0.5 * resistance * ((np.abs(h) ** 2) @ grid.surface)
    return omega * 0.5 * electric / power, filling
