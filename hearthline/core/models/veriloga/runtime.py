"""Small functions that generated kernels call; compiled into them."""

from __future__ import annotations

import math

import numba as nb

from hearthline.core.models.limiting import limit_channel, limit_gate, limit_junction
from hearthline.core.models.signature import LIMIT, OPTIONS, START

EXP_80 = math.exp(80.0)


@nb.njit(**OPTIONS)
def limexp(x):
    """exp, continued as a straight line beyond 80."""
    return math.exp(x) if x < 80.0 else EXP_80 * (x - 79.0)


@nb.njit(**OPTIONS)
def power_slope(base, exponent, power):
    """Derivative of base^exponent = power by the base; without a second power where the base is not 0."""
    if base != 0.0:
        return exponent * power / base
    return exponent * math.pow(base, exponent - 1.0)


@nb.njit(**OPTIONS)
def idiv(a, b):
    """Quotient of whole numbers, towards 0; 0 for a division by 0."""
    if b == 0:
        return 0
    q = abs(a) // abs(b)
    return q if (a >= 0) == (b >= 0) else -q


@nb.njit(**OPTIONS)
def mod(a, b):
    """Remainder of whole numbers with the sign of the first."""
    return 0 if b == 0 else a - b * idiv(a, b)


@nb.njit(**OPTIONS)
def limited_junction(v, before, vt, critical, mode):
    """What a junction's voltage [V] is linearised at."""
    if mode == LIMIT:
        return limit_junction(v, before, vt, critical)
    return critical if mode == START else v


@nb.njit(**OPTIONS)
def limited_gate(v, before, threshold, mode):
    """What a gate's voltage [V] is linearised at."""
    if mode == LIMIT:
        return limit_gate(v, before, threshold)
    return threshold + 0.1 if mode == START else v


@nb.njit(**OPTIONS)
def limited_channel(v, before, mode):
    """What a drain-source voltage [V] is linearised at; of either sign."""
    if mode == LIMIT:
        if before >= 0.0:
            return limit_channel(v, before)
        return -limit_channel(-v, -before)
    return 0.1 if mode == START else v
