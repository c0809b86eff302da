"""A driven housing as a sum over poles: its reduced equations in their own modes, which is passive as they are.

Modes a with (s² + s D + Λ) a = s r i, v = rᵀ a at the ports. With G = r R^-½ the waves at impedances R are
S = 2 s Gᵀ (s² + s (D + G Gᵀ) + Λ)⁻¹ G - 1: of second order with matrices that are not negative, so that S is passive whatever
is left out. Modes at rest become as many as there are ports, exactly; those far above become as many again, by their first two
terms at low frequencies. Losses are those of each mode at its own resonance: constant loss tangents are no sum over poles.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.nports.rational import Rational

BEYOND = 1.5
"""Of the highest frequency, from which modes are far above."""
AT_REST = 1e-3
"""Of the highest frequency, up to which they are at rest."""
NOTHING = 1e-9


@dataclass(frozen=True)
class Modal:
    """`omega` (modes,) [1/s], what the ports see of each (modes, ports), and their losses (modes, modes) [1/s]."""

    omega: np.ndarray
    seen: np.ndarray
    losses: np.ndarray

    def short(self, top: float) -> Modal:
        """With few modes where the frequency `top` [1/s] is the highest that matters."""
        rest, far = self.omega < AT_REST * top, self.omega > BEYOND * top
        near = ~(rest | far)
        below = _rows(self.seen[rest].T @ self.seen[rest])
        first = (self.seen[far] / self.omega[far, None]).T @ (self.seen[far] / self.omega[far, None])
        sizes, ways = np.linalg.eigh(first)
        kept = sizes > NOTHING * max(float(sizes.max(initial=0.0)), 1e-300)
        sizes, ways = sizes[kept], ways[:, kept]
        second = np.square(ways.T @ (self.seen[far] / self.omega[far, None] ** 2).T).sum(axis=1)
        above = np.sqrt(sizes / second)
        omega = np.concatenate([np.zeros(len(below)), self.omega[near], above])
        seen = np.vstack([below, self.seen[near], (above * np.sqrt(sizes))[:, None] * ways.T])
        losses = np.zeros((len(omega), len(omega)))
        inner = slice(len(below), len(below) + int(near.sum()))
        losses[inner, inner] = self.losses[np.ix_(near, near)]
        return Modal(omega, seen, losses)

    def rational(self, impedances: np.ndarray) -> Rational:
        """S at impedances (ports,) [Ω]."""
        count, scale = len(self.omega), float(self.omega.max())
        given = self.seen / np.sqrt(impedances) / np.sqrt(scale)
        damped = self.losses / scale + given @ given.T
        matrix = np.block([[np.zeros((count, count)), np.eye(count)], [-np.diag((self.omega / scale) ** 2), -damped]])
        poles, right = np.linalg.eig(matrix)
        left = np.linalg.inv(right)
        out, into = given.T @ right[count:], left[:, count:] @ given
        residues = 2.0 * out.T[:, :, None] * into[:, None, :]
        size = np.abs(residues).max(axis=(1, 2))
        kept = (poles.imag >= 0.0) & (np.abs(poles) > NOTHING) & (size > NOTHING * size.max())
        real = np.abs(poles.imag) < NOTHING
        poles = np.where(real, poles.real, poles)
        residues = np.where(real[:, None, None], residues.real, residues)
        return Rational(scale * poles[kept], scale * residues[kept], -np.eye(given.shape[1]))


def _rows(gram: np.ndarray) -> np.ndarray:
    """The fewest rows with that product."""
    sizes, ways = np.linalg.eigh(gram)
    kept = sizes > NOTHING * max(float(sizes.max(initial=0.0)), 1e-300)
    return np.asarray(np.sqrt(sizes[kept])[:, None] * ways[:, kept].T)
