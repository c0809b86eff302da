"""Resonances of a housing with strong losses inside: the complex eigenproblem, of which frequency and decay are both found.

The matrix of `modes` with complex reluctances and capacitances; it is symmetric still, and static fields are taken away by the
same bilinear form. A field that goes as exp(jωt) has Q = Re ω / 2 Im ω.
"""

from __future__ import annotations

import numpy as np
from scipy.sparse import csr_array, diags_array, eye_array

from hearthline.core.fields.fronts import factored
from hearthline.core.fields.going import Going, going_on
from hearthline.core.fields.grid import Grid
from hearthline.core.fields.static import Static

MORE = 8
"""That are sought beyond twice those wanted, since the nearest are not those of the lowest frequency."""
DENSE, EXACT = 800, 1e-9
"""Unknowns up to which all resonances are found, in a dense matrix; and how well, else."""
STATIC, DEAD = 1e-4, 0.5
"""Of the lowest resonance of the bare box, a frequency that is none; and a quality under which nothing resonates."""


def damped(grid: Grid, going: Going) -> tuple[np.ndarray, np.ndarray]:
    """ω [rad/s] by rising frequency (modes,), and voltages along all edges (modes, edges)."""
    free, wanted = grid.free, grid.housing.modes
    bare = 2.0 * np.pi * float(grid.housing.bare_frequencies(1)[0])
    capacitances = grid.capacitances() - 1j * grid.capacitances("loss")
    scale, curl = diags_array(1.0 / np.sqrt(capacitances[free])), grid.curl[:, free]
    reluctances = grid.reluctances() + 1j * grid.reluctances("turn")
    matrix = csr_array(scale @ (curl.T @ (diags_array(reluctances) @ curl)) @ scale)
    static, places = Static(grid, capacitances, going), grid.edge_places
    squares, shapes = _nearest(matrix, places, static, 0.2 * bare**2, 2 * wanted + MORE, going)
    omega = np.sqrt(squares)
    omega = np.where(omega.real < 0, -omega, omega)
    quality = omega.real / np.maximum(2.0 * omega.imag, 1e-300)
    kept = np.flatnonzero((omega.real > STATIC * bare) & (quality > DEAD))
    kept = kept[np.argsort(omega.real[kept])][:wanted]
    voltages = np.zeros((len(kept), grid.curl.shape[1]), complex)
    voltages[:, free] = (scale @ shapes[:, kept]).T
    return omega[kept], voltages


def _nearest(
    matrix: csr_array, places: np.ndarray, static: Static, shift: float, count: int, going: Going
) -> tuple[np.ndarray, np.ndarray]:
    """Eigenvalues next to -shift that are not static, and their vectors."""
    from scipy.sparse.linalg import LinearOperator, eigs  # late: it is rarely wanted

    size = matrix.shape[0]
    if size <= DENSE:
        return np.linalg.eig(matrix.toarray())
    solved = factored(csr_array(matrix + shift * eye_array(size)), places, going)
    operator = LinearOperator(
        (size, size), matvec=lambda x: static.removed(solved.solve(static.removed(going_on(x, going)))), dtype=complex
    )
    start = static.removed(np.random.default_rng(1).standard_normal(size) + 0j)
    inverse, shapes = eigs(operator, count, which="LM", v0=start, tol=EXACT, ncv=min(3 * count, size - 1))
    return 1.0 / inverse - shift, shapes
