"""Keeps Newton's steps where the tangent means something: the junction and gate limits published with SPICE2 and SPICE3
(Nagel, Memorandum ERL-M520, University of California, Berkeley, 1975)."""

from __future__ import annotations

import math

import numba as nb

from hearthline.core.models.signature import OPTIONS


@nb.njit(**OPTIONS)
def limit_junction(v, before, vt, critical):
    """The junction voltage [V] to linearise at, when Newton proposes `v` after `before`."""
    if v <= critical or abs(v - before) <= 2.0 * vt:
        return v
    if before <= 0.0:
        return vt * math.log(v / vt)
    step = 1.0 + (v - before) / vt
    return before + vt * math.log(step) if step > 0.0 else critical


@nb.njit(**OPTIONS)
def limit_gate(v, before, threshold):
    """The gate-source voltage [V] to linearise at."""
    if before < threshold:
        if v <= before:
            return max(v, before - (2.0 * abs(before - threshold) + 2.0))
        if v <= threshold + 0.5:
            return min(v, before + abs(before - threshold) + 1.0)
        return threshold + 0.5
    if before < threshold + 3.5:
        return max(v, threshold - 0.5) if v <= before else min(v, threshold + 4.0)
    if v > before:
        return min(v, before + 2.0 * abs(before - threshold) + 2.0)
    if v >= threshold + 3.5:
        return max(v, before - (abs(before - threshold) + 1.0))
    return max(v, threshold + 2.0)


@nb.njit(**OPTIONS)
def limit_channel(v, before):
    """The drain-source voltage [V] to linearise at."""
    if before >= 3.5:
        if v > before:
            return min(v, 3.0 * before + 2.0)
        return max(v, 2.0) if v < 3.5 else v
    return min(v, 4.0) if v > before else max(v, -0.5)


@nb.njit(**OPTIONS)
def junction(v, saturation, vt):
    """Current [A] and slope [S] of an ideal junction; straight beyond 80 vt, where no float could follow."""
    u = v / vt
    if u > 80.0:
        e = math.exp(80.0)
        return saturation * (e * (1.0 + u - 80.0) - 1.0), saturation * e / vt
    e = math.exp(u)
    return saturation * (e - 1.0 if abs(u) > 0.5 else math.expm1(u)), saturation * e / vt
