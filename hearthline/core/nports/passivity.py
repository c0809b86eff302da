"""Whether a rational model is passive at every frequency, and the smallest change that makes it so.

Where the largest singular value of S stands above 1, its slopes by the residues say what must change (Gustavsen, IEEE Trans.
Power Delivery 2008, for scattering: Grivet-Talocia 2004); of all changes that bring it down, the one that moves S least.
"""

from __future__ import annotations

import numpy as np

from hearthline.core.nports.rational import Rational, basis

Array = np.ndarray
ROUNDS = 30
ALLOWED = 1e-7
"""Above 1, that counts as 1."""


def largest(model: Rational, omega: Array) -> Array:
    """The largest singular value of S at angular frequencies."""
    return np.linalg.norm(model.at(omega), 2, axis=(1, 2))


def places(model: Rational, omega: Array) -> Array:
    """Angular frequencies at which a model must be looked at: the file's, about each pole, and far outside."""
    poles = model.poles
    about = poles.imag[:, None] + np.abs(poles.real)[:, None] * np.linspace(-3.0, 3.0, 13)
    top = max(float(omega[-1]), float(np.abs(poles).max(initial=0.0)), 1.0)
    far = np.concatenate([[0.0], np.geomspace(1e-4 * top, 1e3 * top, 200)])
    between = 0.5 * (omega[1:] + omega[:-1])
    return np.unique(np.abs(np.concatenate([omega, between, about.ravel(), far])))


def made_passive(model: Rational, omega: Array, rest: bool) -> Rational:
    """A model with no singular value above 1, as near to the old one as can be; with `rest`, what it is at 0 Hz stays. What
    cannot be brought down stays above: ask `largest`."""
    if not len(model.poles):
        return model
    at = places(model, omega)
    constant = basis(model.poles, np.zeros(1, complex))[0].real
    weights = basis(model.poles, 1j * omega) - (constant if rest else 0.0)
    gram = np.vstack([weights.real, weights.imag])
    _, r = np.linalg.qr(gram)
    scale = np.abs(np.diag(r)).max()
    r = r + 1e-10 * scale * np.eye(len(r))
    margin = ALLOWED / 4.0
    for _ in range(ROUNDS):
        found = _above(model, at)
        if not len(found):
            break
        model = _lowered(model, found, r, constant if rest else np.zeros_like(constant), margin)
        margin *= 1.5
    return model


def _above(model: Rational, at: Array) -> Array:
    """Angular frequencies of the peaks above 1, infinity as a very high one."""
    size = largest(model, at)
    inner = np.concatenate([[True], size[1:] >= size[:-1]]) & np.concatenate([size[:-1] >= size[1:], [True]])
    return at[(size > 1.0 + ALLOWED) & inner]


def _lowered(model: Rational, omega: Array, r: Array, rest: Array, margin: float) -> Rational:
    s = model.at(omega)
    u, sizes, v = np.linalg.svd(s)
    phi = basis(model.poles, 1j * omega) - rest
    rows, wanted = [], []
    ports = s.shape[-1]
    for k in range(len(omega)):
        for j in np.flatnonzero(sizes[k] > 1.0 - ALLOWED):
            outer = np.outer(u[k, :, j].conj(), v[k, j].conj())
            rows.append((phi[k][:, None, None] * outer).real)
            wanted.append(1.0 - margin - sizes[k, j])
    slopes = np.array(rows)
    scaled = np.linalg.solve(r.T, slopes.transpose(1, 0, 2, 3).reshape(len(r), -1)).reshape(len(r), len(rows), -1)
    matrix = scaled.transpose(1, 0, 2).reshape(len(rows), -1)
    change = np.linalg.lstsq(matrix, np.array(wanted), rcond=1e-10)[0].reshape(len(r), -1)
    reals = np.linalg.solve(r, change).reshape(len(r), ports, ports)
    changed = model.changed(model.real_residues + reals)
    return Rational(changed.poles, changed.residues, model.constant - np.einsum("p,pij->ij", rest, reals))
