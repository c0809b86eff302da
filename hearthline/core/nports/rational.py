"""A rational model of an n-port: poles that all entries share, with what each has of them.

Vector fitting: Gustavsen and Semlyen, IEEE Trans. Power Delivery 1999; relaxed, Gustavsen 2006; one entry after the other in
the sums of squares, Deschrijver et al., IEEE Microwave Wireless Components Lett. 2008.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.nports.n_port import NPort

Array = np.ndarray
ORDERS = (2, 4, 6, 8, 12, 16, 24, 32, 48, 64)
"""Numbers of poles that are tried, one after the other."""
ROUNDS = 8
"""Of moving the poles."""
GOOD = 1e-5
"""Error of S at which no more poles are wanted."""
GAIN = 0.5
"""Of the error, that more poles must leave at most to be worth it."""
LIGHTLY, FIRMLY = 1e-4, 1e-2
"""Weights of being small outside the file's range."""
POINTS = 400
"""Frequencies that a fit looks at."""


@dataclass(frozen=True)
class Rational:
    """S(s) = constant + sum of residues / (s - poles), s = jω [1/s].

    `poles` (poles,) are real ones, and of pairs the upper ones; `residues` (poles, ports, ports) belong to them, `constant`
    (ports, ports) is real.
    """

    poles: Array
    residues: Array
    constant: Array

    def at(self, omega: Array) -> Array:
        """S (frequencies, ports, ports) at angular frequencies."""
        return self.constant + np.einsum("fp,pij->fij", basis(self.poles, 1j * np.asarray(omega)), self.real_residues)

    @property
    def real_residues(self) -> Array:
        """As numbers that stand with `basis`."""
        return _as_reals(self.poles, self.residues)

    @property
    def states(self) -> int:
        """How many a state space of it has for each port that drives it."""
        return int(np.where(self.poles.imag > 0, 2, 1).sum())

    def changed(self, reals: Array) -> Rational:
        """With other real residues."""
        return replace(self, residues=_as_residues(self.poles, reals))


def basis(poles: Array, s: Array) -> Array:
    """(points, states): 1/(s - p) of real poles; of pairs their sum, and j times their difference."""
    columns: list[Array] = []
    for p in poles:
        one = 1.0 / (s - p)
        if p.imag > 0:
            other = 1.0 / (s - p.conjugate())
            columns += [one + other, 1j * (one - other)]
        else:
            columns.append(one)
    return np.stack(columns, axis=-1) if columns else np.zeros((len(s), 0), complex)


def _as_reals(poles: Array, residues: Array) -> Array:
    rows: list[Array] = []
    for p, r in zip(poles, residues, strict=True):
        rows += [r.real, r.imag] if p.imag > 0 else [r.real]
    return np.array(rows).reshape(-1, *residues.shape[1:])


def _as_residues(poles: Array, reals: Array) -> Array:
    found, k = [], 0
    for p in poles:
        if p.imag > 0:
            found.append(reals[k] + 1j * reals[k + 1])
            k += 2
        else:
            found.append(reals[k] + 0j)
            k += 1
    return np.array(found, complex).reshape(-1, *reals.shape[1:])


def candidates(network: NPort, held: float = LIGHTLY) -> list[Rational]:
    """Models of a network with few poles and many, all of them stable, the one that follows it best first; at 0 Hz each is what
    the network is there, and outside of its frequencies they are `held` small. More poles go first only where they leave much
    less of the error."""
    chosen = np.unique(np.linspace(0, len(network.frequencies) - 1, POINTS).round().astype(int))
    omega = 2.0 * np.pi * network.frequencies[chosen]
    scale = float(omega[-1]) or 1.0
    w, s = omega / scale, network.s[chosen]
    found = [_solved(np.zeros(0, complex), w, s, held)]
    least = _error(found[0], w, s)
    for order in ORDERS:
        if least < GOOD or order >= len(w):
            break
        model = _tried(order, w, s, held)
        error = _error(model, w, s)
        if error < GAIN * least:
            found, least = [model, *found], error
    return [Rational(one.poles * scale, one.residues * scale, one.constant) for one in found]


def _error(model: Rational, w: Array, s: Array) -> float:
    return float(np.abs(model.at(w) - s).max(initial=0.0))


def _tried(order: int, w: Array, s: Array, held: float) -> Rational:
    """A model of so many poles."""
    flat = _entries(s)
    poles = _first_poles(order, w)
    for _ in range(ROUNDS):
        poles = _moved(poles, w, flat)
    return _solved(poles, w, s, held)


def _entries(s: Array) -> Array:
    """(entries, frequencies) that differ from each other."""
    ports = s.shape[-1]
    same = np.abs(s - np.swapaxes(s, 1, 2)).max(initial=0.0) < 1e-9
    rows, columns = np.nonzero(np.triu(np.ones((ports, ports))) if same else np.ones((ports, ports)))
    return np.asarray(s[:, rows, columns].T)


def _first_poles(order: int, w: Array) -> Array:
    places = np.linspace(max(w[0], 1e-3), 1.0, order // 2 + 1)[1:] if order > 2 else np.array([0.5])
    return -places / 100.0 + 1j * places


def _moved(poles: Array, w: Array, flat: Array) -> Array:
    """The zeros of the weight that makes entries times weight a sum over the same poles."""
    phi = basis(poles, 1j * w)
    count = phi.shape[1]
    ones = np.ones((len(w), 1))
    size = np.sqrt(np.mean(np.abs(flat) ** 2, axis=1)) + 1e-12
    h = flat[:, :, None]
    left = np.broadcast_to(np.hstack([phi, ones]), (len(flat), len(w), count + 1))
    whole = np.concatenate([left, -h * phi, -h * ones], axis=2) / size[:, None, None]
    real = np.concatenate([whole.real, whole.imag], axis=1)
    triangles = np.asarray(np.linalg.qr(real, mode="r"))
    rows = triangles[:, count + 1 :, count + 1 :].reshape(-1, count + 1)
    weight = np.linalg.norm(flat) / len(w) / max(float(size.max()), 1e-12)
    sums = weight * np.append(phi.sum(axis=0).real, len(w))
    matrix, right = np.vstack([rows, sums]), np.zeros(len(rows) + 1)
    right[-1] = weight * len(w)
    scales = np.linalg.norm(matrix, axis=0) + 1e-300
    found = np.linalg.lstsq(matrix / scales, right, rcond=None)[0] / scales
    constant = found[-1] if abs(found[-1]) > 1e-8 else np.copysign(1e-8, found[-1])
    a, b = _state_matrix(poles)
    roots = np.linalg.eigvals(a - np.outer(b, found[:-1] / constant))
    return _stable(roots)


def _state_matrix(poles: Array) -> tuple[Array, Array]:
    count = int(np.where(poles.imag > 0, 2, 1).sum())
    a, b, k = np.zeros((count, count)), np.zeros(count), 0
    for p in poles:
        if p.imag > 0:
            a[k : k + 2, k : k + 2] = [[p.real, p.imag], [-p.imag, p.real]]
            b[k] = 2.0
            k += 2
        else:
            a[k, k], b[k] = p.real, 1.0
            k += 1
    return a, b


def _stable(roots: Array) -> Array:
    """Real ones and the upper ones of pairs, all in the left half of the plane."""
    small = 1e-9
    kept = roots[(roots.imag > small * np.abs(roots)) | (np.abs(roots.imag) <= small * np.abs(roots))]
    real = np.abs(kept.imag) <= small * np.abs(kept)
    kept = np.where(real, kept.real, kept)
    damping = np.maximum(np.abs(kept.real), 1e-7 * np.abs(kept) + 1e-12)
    return np.asarray(-damping + 1j * kept.imag, complex)


def _outside(w: Array) -> Array:
    """Places above and below the file's, where a model is to stay small."""
    above = w[-1] * np.geomspace(1.1, 100.0, 40)
    return above if w[0] == 0.0 else np.concatenate([np.linspace(0.0, 0.95 * w[0], 20), above])


def _solved(poles: Array, w: Array, s: Array, held: float) -> Rational:
    """The best residues of given poles; exact at 0 Hz, where that is among the frequencies."""
    ports = s.shape[-1]
    outside = _outside(w)
    places = np.concatenate([w, outside])
    target = np.concatenate([s, np.zeros((len(outside), ports, ports))])
    weights = np.append(np.ones(len(w)), np.full(len(outside), held))[:, None]
    phi, constant = basis(poles, 1j * places), np.zeros((ports, ports))
    at_rest = basis(poles, np.zeros(1, complex))[0]
    if w[0] == 0.0:
        phi, target = phi - at_rest, target - s[0].real
    else:
        phi = np.hstack([phi, np.ones((len(places), 1))])
    phi, target = weights * phi, weights * target.reshape(len(places), -1)
    matrix = np.vstack([phi.real, phi.imag])
    right = np.vstack([target.real, target.imag])
    scales = np.linalg.norm(matrix, axis=0) + 1e-300
    found = (np.linalg.lstsq(matrix / scales, right, rcond=None)[0] / scales[:, None]).reshape(-1, ports, ports)
    if w[0] == 0.0:
        constant = s[0].real - np.einsum("p,pij->ij", at_rest.real, found)
    else:
        found, constant = found[:-1], found[-1]
    return Rational(poles, _as_residues(poles, found), constant)
