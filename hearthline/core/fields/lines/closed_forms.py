"""Single lines in closed form, at once: what a drawn cross-section is compared with, and a first idea of a width."""

from __future__ import annotations

import numpy as np

ETA0 = 376.730313668


def microstrip(width: float, height: float, er: float) -> tuple[float, float]:
    """Impedance [Ω] and effective permittivity of a thin strip on a layer, both to 0.2 % (Hammerstad and Jensen, IEEE MTT-S
    International Microwave Symposium Digest 1980)."""
    u = width / height
    a = 1.0 + np.log((u**4 + (u / 52.0) ** 2) / (u**4 + 0.432)) / 49.0 + np.log(1.0 + (u / 18.1) ** 3) / 18.7
    b = 0.564 * ((er - 0.9) / (er + 3.0)) ** 0.053
    effective = 0.5 * (er + 1.0) + 0.5 * (er - 1.0) * (1.0 + 10.0 / u) ** (-a * b)
    shape = 6.0 + (2.0 * np.pi - 6.0) * np.exp(-((30.666 / u) ** 0.7528))
    bare = ETA0 / (2.0 * np.pi) * np.log(shape / u + np.sqrt(1.0 + 4.0 / u**2))
    return float(bare / np.sqrt(effective)), float(effective)


def coplanar(width: float, gap: float, height: float, er: float) -> tuple[float, float]:
    """The same of a thin strip between wide grounds on a layer over the plane, by conformal mapping of each half (Ghione and
    Naldi, Electronics Letters 1983)."""
    a, b = 0.5 * width, 0.5 * width + gap
    above = _share(a / b)
    below = _share(np.tanh(0.5 * np.pi * a / height) / np.tanh(0.5 * np.pi * b / height))
    effective = (above + er * below) / (above + below)
    return float(0.5 * ETA0 / (np.sqrt(effective) * (above + below))), float(effective)


def _share(k: float) -> float:
    """K(k) / K'(k): twice that is a half's capacitance over ε."""
    from scipy.special import ellipk, ellipkm1

    return float(ellipk(k**2) / ellipkm1(k**2))
