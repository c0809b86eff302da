"""Whether a periodic state stands: the exponents of what grows or dies about it (Floquet), by the conversion matrices.

A disturbance exp(s t) times something periodic obeys J(s) x = 0, with J as for small signals at s. Since J(σ) + (s - σ) B = 0,
1 / (σ - s) are eigenvalues of J(σ)^-1 B: those near σ come first by Arnoldi's method. σ is looked at about 0 and about half the
tone, where a state is left for one of another mean, or of twice the period.
"""

from __future__ import annotations

import numpy as np

from hearthline.core.engine.periodic.sidebands import Sidebands, about
from hearthline.core.engine.periodic.states import LaneState

MODES = 6
"""That are looked for about each place."""
SAME = 1e-6
"""Share of the tone by which two exponents may differ and be one."""
NOTHING = 1e-12
"""That is left of a disturbance after a period, as rounding leaves it."""
BESIDE = 1e-3
"""Share of the tone that a place is beside its own, so that nothing is singular there."""


def modes(state: LaneState, itself: bool = False) -> np.ndarray:
    """Exponents [1/s] that grow most first, one of each pair, their imaginary part between 0 and half the tone's; of what
    swings by `itself` without that of its phase, which neither grows nor dies."""
    found = _all(state)
    return np.delete(found, np.argmin(np.abs(found))) if itself and len(found) else found


def _all(state: LaneState) -> np.ndarray:
    tone = float(state.hertz[0])
    if state.balanced.shot is not None:
        return _of_multipliers(np.linalg.eigvals(state.balanced.shot.monodromy), tone)
    circuit, along = about(state)
    omega = 2.0 * np.pi * tone
    found: list[complex] = []
    for place in (BESIDE, 0.5 - BESIDE):
        for s in _near(Sidebands(state, circuit, along, place * tone)):
            turned = complex(s.real, abs((s.imag + 0.5 * omega) % omega - 0.5 * omega))
            if np.isfinite(s) and all(abs(turned - one) > SAME * omega for one in found):
                found.append(turned)
    return np.array(sorted(found, key=lambda s: -s.real), complex)


def _of_multipliers(multipliers: np.ndarray, tone: float) -> np.ndarray:
    """Of what is left of a disturbance after one period; what leaves nothing is left out."""
    with np.errstate(divide="ignore"):
        s = np.log(multipliers[np.abs(multipliers) > NOTHING].astype(complex)) * tone
    return np.array(sorted(s[s.imag >= 0], key=lambda one: -one.real), complex)


def _near(bands: Sidebands) -> np.ndarray:
    """Exponents near the frequency of the sidebands [1/s]."""
    from scipy.sparse.linalg import ArpackNoConvergence, LinearOperator, eigs  # late: it is rarely wanted

    shape = (len(bands.orders), bands.circuit.size)
    size = shape[0] * shape[1]

    def times(numbers: np.ndarray) -> np.ndarray:
        return bands.solve(bands.charged(numbers.reshape(shape))).ravel()

    if size <= 4 * MODES:
        values = np.linalg.eigvals(np.stack([times(column) for column in np.eye(size, dtype=complex)], axis=1))
    else:
        operator = LinearOperator((size, size), matvec=times, dtype=complex)
        start = np.random.default_rng(1).standard_normal(size) + 0j
        try:
            values = eigs(operator, MODES, which="LM", return_eigenvectors=False, v0=start)
        except ArpackNoConvergence as error:
            values = error.eigenvalues
    with np.errstate(all="ignore"):
        return 2j * np.pi * bands.frequency - 1.0 / values[np.abs(values) > 1e-30]
