"""Conductivity over temperature: Kirchhoff's transform, exact where the back is of one temperature.

With k(T) = k0 (T/300 K)^n, what is linear in power is the integral of k from the back's temperature to the surface's.
"""

from __future__ import annotations

import numpy as np

from hearthline.core.thermal.die import REFERENCE, Die


def warmed(die: Die, back: np.ndarray, rise: np.ndarray) -> np.ndarray:
    """Temperatures [K] where a conductivity of 1 gives a rise [W/m] above the back [K]; NaN where no temperature is high enough
    to carry that heat away."""
    n = die.exponent
    share = rise * REFERENCE**n / die.conductivity
    if abs(n + 1.0) < 1e-12:
        return back * np.exp(share)
    inner = back ** (n + 1.0) + (n + 1.0) * share
    with np.errstate(all="ignore"):
        return np.where(inner > 0.0, np.maximum(inner, 0.0) ** (1.0 / (n + 1.0)), np.nan)
