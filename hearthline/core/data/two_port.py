"""Figures of two-ports from their S-parameters, at the ports' own impedances. Arrays of S are (..., 2, 2), figures (...).

Stability: Rollett, IRE Trans. Circuit Theory 1962 (K); Edwards and Sinsky, IEEE Trans. Microwave Theory Tech. 1992 (mu).
Gains: Mason, IRE Trans. Circuit Theory 1954 (the invariant); Kurokawa 1965. Noise: Rothe and Dahlke, Proc. IRE 1956; waves of
noise after Wedge and Rutledge, IEEE Trans. Microwave Theory Tech. 1992.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.constants import BOLTZMANN

NOISE_TEMPERATURE = 290.0
"""[K] Of the source of a noise factor, by definition."""

Array = np.ndarray


def _entries(s: Array) -> tuple[Array, Array, Array, Array]:
    return s[..., 0, 0], s[..., 0, 1], s[..., 1, 0], s[..., 1, 1]


def delta(s: Array) -> Array:
    """Determinant."""
    s11, s12, s21, s22 = _entries(s)
    return s11 * s22 - s12 * s21


def _surplus(s: Array) -> Array:
    """1 - |S11|² - |S22|² + |Δ|², which is 2 K |S12 S21|."""
    s11, _, _, s22 = _entries(s)
    return 1.0 - np.abs(s11) ** 2 - np.abs(s22) ** 2 + np.abs(delta(s)) ** 2


def stability_factor(s: Array) -> Array:
    """K; infinite where nothing comes back, or nothing gets through."""
    _, s12, s21, _ = _entries(s)
    loop = np.abs(s12 * s21)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.where(loop == 0.0, np.where(np.isnan(loop), np.nan, np.inf), _surplus(s) / (2.0 * loop))


def mu(s: Array) -> Array:
    """Distance from the middle of the chart to the nearest load that is not stable."""
    s11, s12, s21, s22 = _entries(s)
    with np.errstate(divide="ignore", invalid="ignore"):
        return (1.0 - np.abs(s11) ** 2) / (np.abs(s22 - delta(s) * s11.conj()) + np.abs(s12 * s21))


def mu_prime(s: Array) -> Array:
    """The same of sources."""
    return mu(s[..., ::-1, ::-1])


def largest_gain(s: Array) -> Array:
    """Maximum available gain, or maximum stable gain |S21/S12| where K < 1; ratios of powers."""
    _, s12, s21, _ = _entries(s)
    half, loop = 0.5 * _surplus(s), np.abs(s12 * s21)
    with np.errstate(divide="ignore", invalid="ignore"):
        matched = np.abs(s21) ** 2 / (half + np.sqrt(np.maximum(half**2 - loop**2, 0.0)))
        return np.where(half >= loop, matched, np.abs(s21 / s12))


def available_gain(s: Array, source: Array | complex = 0.0) -> Array:
    """From a source of that reflection: power available at the output over that of the source."""
    s11, s12, s21, s22 = _entries(s)
    with np.errstate(divide="ignore", invalid="ignore"):
        out = s22 + s12 * s21 * source / (1.0 - s11 * source)
        one = np.abs(s21) ** 2 * (1.0 - np.abs(source) ** 2) / np.abs(1.0 - s11 * source) ** 2
        return one / (1.0 - np.abs(out) ** 2)


def transducer_gain(s: Array) -> Array:
    """Power into the load over that available from the source, both at the ports' own impedances."""
    return np.abs(s[..., 1, 0]) ** 2


def unilateral_gain(s: Array) -> Array:
    """Mason's invariant: gain when what comes back has been taken away by a lossless network."""
    _, s12, s21, _ = _entries(s)
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.abs(s21 - s12) ** 2 / (_surplus(s) - 2.0 * (s21 * s12.conj()).real)


def group_delay(s21: Array, slope: Array) -> Array:
    """-dφ/dω [s] from S21 and its slope by the angular frequency."""
    with np.errstate(divide="ignore", invalid="ignore"):
        return -(slope / s21).imag


@dataclass(frozen=True)
class NoiseFigures:
    """Noise factor at the ports' own impedances, the least one, the source's reflection (Z - Z1*)/(Z + Z1) and admittance
    [S] that give it, and the equivalent noise resistance [Ω]."""

    factor: Array
    least: Array
    optimum: Array
    admittance: Array
    resistance: Array


def noise_figures(s: Array, waves: Array, source: Array) -> NoiseFigures:
    """From S, the correlation (..., 2, 2) of the noise waves that come out [W/Hz], and port 1's impedance [Ω].

    The two-port is one without noise behind a voltage v and a current i: with p = (v + Z i)/2√R, q = (v - Z* i)/2√R the waves
    out of it are c1 = q - S11 p and c2 = -S21 p.
    """
    s11, _, s21, _ = _entries(s)
    hot = BOLTZMANN * NOISE_TEMPERATURE
    root = np.sqrt(source.real)
    with np.errstate(divide="ignore", invalid="ignore"):
        factor = 1.0 + waves[..., 1, 1].real / (hot * np.abs(s21) ** 2)
        # v and i as linear forms of (c1, c2)
        p = np.stack([np.zeros_like(s21), -1.0 / s21], -1)
        q = np.stack([np.ones_like(s21), np.zeros_like(s21)], -1) + s11[..., None] * p
        current = (p - q) / root[..., None]
        voltage = 2.0 * root[..., None] * p - source[..., None] * current
        vv, ii = (np.einsum("...a,...ab,...b->...", f, waves, f.conj()).real for f in (voltage, current))
        vi = np.einsum("...a,...ab,...b->...", voltage, waves, current.conj())
        conductance = np.sqrt(np.maximum(vv * ii - vi.imag**2, 0.0))
        least = 1.0 + (conductance + vi.real) / (2.0 * hot)
        best = conductance + 1j * vi.imag
        optimum = (vv - source.conj() * best) / (vv + source * best)
        return NoiseFigures(factor, least, optimum, best / vv, vv / (4.0 * hot))
