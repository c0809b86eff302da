"""Resonances of a housing, and what loses their energy.

Static fields, which have the frequency 0 and are many, are gradients; they are taken away at every step. The lowest resonances
are then found by shift and invert (ARPACK). Losses follow from the fields (perturbation): 1/Q of the filling is the mean of its
loss tangents over the energy, that of the walls Rs/2 times the square of H along them over ω W (Pozar, Microwave Engineering).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.sparse import csc_array, diags_array, eye_array

from hearthline.core.constants import MU0
from hearthline.core.fields.dissection import dissected, factored
from hearthline.core.fields.grid import Grid
from hearthline.core.fields.static import Static

MORE, CHECKED = 4, 3
"""Resonances that are sought beyond those wanted: some may be static; and each time that it is looked again."""
EXACT, NEAR = 1e-6, 1e-6
"""Of what ARPACK finds, which is combined anew then; and share by which two are the same."""
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


def resonances(grid: Grid) -> Modes:
    """As many as the housing wants; fewer where the mesh has no more."""
    if grid.housing.strongly_lossy:
        return _damped(grid)
    free, wanted = grid.free, grid.housing.modes
    bare = 2.0 * np.pi * grid.housing.bare_frequencies(1)[0]
    scale = diags_array(1.0 / np.sqrt(grid.capacitances()[free]))
    curl = grid.curl[:, free]
    matrix = csc_array(scale @ (curl.T @ (diags_array(grid.reluctances()) @ curl)) @ scale)
    squares, shapes = _lowest(matrix, Static(grid, grid.capacitances()), 0.2 * bare**2, wanted)
    kept = np.flatnonzero(squares > (STATIC * bare) ** 2)
    whole = np.zeros((len(kept), grid.curl.shape[1]))
    whole[:, free] = (scale @ shapes[:, kept]).T
    omega = np.sqrt(squares[kept])[:wanted]
    whole = _told_apart(grid, np.sqrt(squares[kept]), whole)[:wanted]
    walls, filling = _qualities(grid, omega, whole)
    return Modes(omega / (2.0 * np.pi), walls, filling, whole)


def _damped(grid: Grid) -> Modes:
    """With strong losses inside; what walls lose is a small correction still."""
    from hearthline.core.fields.damped import damped

    omega, voltages = damped(grid)
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


def _lowest(matrix: csc_array, static: Static, shift: float, wanted: int) -> tuple[np.ndarray, np.ndarray]:
    """The lowest eigenvalues that are not static, and their vectors. One start may miss one of several that are alike: what
    has been found is taken away and it is looked again, until nothing lower comes."""
    from scipy.sparse.linalg import LinearOperator, eigsh  # late: it is rarely wanted

    size = matrix.shape[0]
    if size <= DENSE:
        return np.linalg.eigh(matrix.toarray())
    solved = factored(csc_array(matrix + shift * eye_array(size)), dissected(matrix))
    found, vectors = np.zeros(0), np.zeros((size, 0))
    random = np.random.default_rng(1)
    for count in (wanted + MORE, CHECKED, CHECKED, CHECKED):
        known = vectors

        def apply(field: np.ndarray, known: np.ndarray = known) -> np.ndarray:
            field = static.removed(solved.solve(field - known @ (known.T @ field)))
            return field - known @ (known.T @ field)

        operator = LinearOperator((size, size), matvec=apply, dtype=float)
        start = static.removed(random.standard_normal(size))
        inverse, more = eigsh(operator, count, which="LA", v0=start, tol=EXACT, ncv=min(3 * count + 10, size - 1))
        lowest = float((1.0 / inverse.max()) - shift)
        before = np.sort(found)[:wanted]
        found, vectors = _within(matrix, np.hstack([vectors, more]))
        if len(before) == wanted and lowest >= before[-1] * (1.0 - NEAR):
            break
    return found, vectors


def _within(matrix: csc_array, vectors: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The best that these vectors can be combined to (Rayleigh and Ritz), by rising eigenvalue."""
    basis = np.linalg.qr(vectors)[0]
    values, turns = np.linalg.eigh(basis.T @ (matrix @ basis))
    return values, basis @ turns


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
