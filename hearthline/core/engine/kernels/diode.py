"""Kernel of the junction diode: the exponential law, and the exponential reverse breakdown of SPICE.

Shockley 1949; breakdown after the Berkeley equations, i = -IS·exp(-(BV + v)/(N·vt)) beyond BV.
"""

from __future__ import annotations

import math

from hearthline.core.models.limiting import junction, limit_junction
from hearthline.core.models.signature import (
    COUNT,
    FLOW,
    FLOW0,
    GMIN,
    LIMIT,
    MEMORY0,
    NODE0,
    READOUT,
    READOUT0,
    SLOPE0,
    START,
    START_MODE,
    VALUE0,
    kernel,
)  # fmt: skip

IS, NVT, CRITICAL, BV, VALUES = range(5)


@kernel
def diode(wants, span, nodes, w):
    """values: saturation current [A], n·vt [V], critical voltage [V], breakdown voltage [V] (0: none)."""
    limited = 0
    for k in range(span[COUNT]):
        n, f, p = span[NODE0] + 2 * k, span[FLOW0] + 2 * k, span[VALUE0] + VALUES * k
        m, s, r = span[MEMORY0] + k, span[SLOPE0] + 4 * k, span[READOUT0] + 3 * k
        isat, nvt, bv = w[p + IS], w[p + NVT], w[p + BV]
        wanted = w[nodes[n]] - w[nodes[n + 1]]
        v = wanted
        if wants & FLOW:
            if w[START_MODE] == START:
                v = w[p + CRITICAL]
            elif w[START_MODE] == LIMIT and bv > 0.0 and wanted < min(0.0, -bv + 10.0 * nvt):
                v = -(limit_junction(-(wanted + bv), -(w[m] + bv), nvt, w[p + CRITICAL]) + bv)
            elif w[START_MODE] == LIMIT:
                v = limit_junction(wanted, w[m], nvt, w[p + CRITICAL])
            w[m] = v
            limited += abs(v - wanted) > 1e-12 + 1e-9 * abs(v)
        i, g = junction(v, isat, nvt)
        if bv > 0.0 and v < 0.0:
            e = math.exp(min(-(bv + v) / nvt, 80.0))
            i -= isat * e
            g += isat * e / nvt
        i += w[GMIN] * v
        g += w[GMIN]
        if wants & FLOW:
            total = i + g * (wanted - v)
            w[f], w[f + 1] = total, -total
            w[s], w[s + 1], w[s + 2], w[s + 3] = g, -g, -g, g
        if wants & READOUT:
            w[r], w[r + 1], w[r + 2] = i, v, g
    return limited
