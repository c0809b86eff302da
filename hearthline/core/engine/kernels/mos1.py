"""Kernel of the MOS transistor, level 1.

H. Shichman and D. A. Hodges, "Modeling and simulation of insulated-gate field-effect transistor switching circuits",
IEEE Journal of Solid-State Circuits, SC-3, 1968, with the body effect and the form of channel-length modulation that
the Berkeley level 1 has: the factor (1 + lambda·vds) stands in triode and in saturation alike, so that the current is
continuous. All voltages below are those of an n-channel device; `POLARITY` (+1, -1) turns them.
"""

from __future__ import annotations

import math

import numba as nb

from hearthline.core.models.limiting import junction, limit_channel, limit_gate, limit_junction
from hearthline.core.models.signature import (
    COUNT,
    FLOW,
    FLOW0,
    GMIN,
    LIMIT,
    MEMORY0,
    NODE0,
    OPTIONS,
    READOUT,
    READOUT0,
    SLOPE0,
    START,
    START_MODE,
    VALUE0,
    kernel,
)  # fmt: skip

POLARITY, BETA, VTO, GAMMA, PHI, LAMBDA, IS_DRAIN, IS_SOURCE, VT, CRITICAL, VALUES = range(11)
MEMORY = 4
READOUTS = 11
OFF, TRIODE, SATURATION = 0.0, 1.0, 2.0


@nb.njit(**OPTIONS)
def threshold(vbs, vto, gamma, phi):
    """Threshold voltage [V] at the body voltage vbs [V], and minus its slope by vbs."""
    root = math.sqrt(phi)
    if vbs <= 0.0:
        bent = math.sqrt(phi - vbs)
        back = gamma / (2.0 * bent)
    else:
        bent = max(root - vbs / (2.0 * root), 0.0)
        back = gamma / (2.0 * root) if bent > 0.0 else 0.0
    return vto + gamma * (bent - root), back


@nb.njit(**OPTIONS)
def channel(overdrive, vds, beta, modulation):
    """Current [A] of the channel for vds >= 0, its slopes by vgs and vds [S], and the region."""
    if overdrive <= 0.0:
        return 0.0, 0.0, 0.0, OFF
    factor = beta * (1.0 + modulation * vds)
    if overdrive <= vds:
        square = 0.5 * overdrive * overdrive
        return factor * square, factor * overdrive, beta * modulation * square, SATURATION
    area = vds * (overdrive - 0.5 * vds)
    return factor * area, factor * vds, factor * (overdrive - vds) + beta * modulation * area, TRIODE


@kernel
def mos1(wants, span, nodes, w):
    """Terminals d, g, s, b. readout: id vgs vds vbs vth vdsat gm gds gmb ron region, with the signs of the terminals."""
    limited = 0
    for k in range(span[COUNT]):
        n, f, p = span[NODE0] + 4 * k, span[FLOW0] + 4 * k, span[VALUE0] + VALUES * k
        m, s, r = span[MEMORY0] + MEMORY * k, span[SLOPE0] + 16 * k, span[READOUT0] + READOUTS * k
        sign, vto, gamma, phi = w[p + POLARITY], w[p + VTO], w[p + GAMMA], w[p + PHI]
        vt, critical = w[p + VT], w[p + CRITICAL]
        vgs_x = sign * (w[nodes[n + 1]] - w[nodes[n + 2]])
        vds_x = sign * (w[nodes[n]] - w[nodes[n + 2]])
        vbs_x = sign * (w[nodes[n + 3]] - w[nodes[n + 2]])
        vgs, vds, vbs = vgs_x, vds_x, vbs_x
        if wants & FLOW:
            if w[START_MODE] == START:
                vgs, vds, vbs = vto + 0.1, 0.1, 0.0
            elif w[START_MODE] == LIMIT:
                von, _ = threshold(w[m + 2] if w[m + 1] >= 0.0 else w[m + 3], vto, gamma, phi)
                if w[m + 1] >= 0.0:
                    vgs = limit_gate(vgs_x, w[m], von)
                    vds = limit_channel(vgs - (vgs_x - vds_x), w[m + 1])
                else:
                    vgd = limit_gate(vgs_x - vds_x, w[m] - w[m + 1], von)
                    vds = -limit_channel(-(vgs_x - vgd), -w[m + 1])
                    vgs = vgd + vds
                if vds >= 0.0:
                    vbs = limit_junction(vbs_x, w[m + 2], vt, critical)
                else:
                    vbs = limit_junction(vbs_x - vds_x, w[m + 3], vt, critical) + vds
            w[m], w[m + 1], w[m + 2], w[m + 3] = vgs, vds, vbs, vbs - vds
            moved = abs(vgs - vgs_x) + abs(vds - vds_x) + abs(vbs - vbs_x)
            limited += moved > 1e-12 + 1e-9 * (abs(vgs) + abs(vds) + abs(vbs))
        forward = vds >= 0.0
        von, back = threshold(vbs if forward else vbs - vds, vto, gamma, phi)
        overdrive = (vgs if forward else vgs - vds) - von
        ids, gm, gds, region = channel(overdrive, abs(vds), w[p + BETA], w[p + LAMBDA])
        gmb = gm * back
        isb, gs = junction(vbs, w[p + IS_SOURCE], vt)
        idb, gd = junction(vbs - vds, w[p + IS_DRAIN], vt)
        gmin = w[GMIN]
        isb, gs, idb, gd = isb + gmin * vbs, gs + gmin, idb + gmin * (vbs - vds), gd + gmin
        if forward:  # slopes of the channel current into the drain by (vgs, vds, vbs)
            current, by_gate, by_drain, by_body = ids, gm, gds, gmb
        else:
            current, by_gate, by_drain, by_body = -ids, -gm, gds + gm + gmb, -gmb
        if wants & FLOW:
            drain = current - idb + by_gate * (vgs_x - vgs) + (by_drain + gd) * (vds_x - vds)
            drain += (by_body - gd) * (vbs_x - vbs)
            bulk = isb + idb + (gs + gd) * (vbs_x - vbs) - gd * (vds_x - vds)
            w[f], w[f + 1], w[f + 2], w[f + 3] = sign * drain, 0.0, -sign * (drain + bulk), sign * bulk
            dg, dd, db = by_gate, by_drain + gd, by_body - gd
            w[s], w[s + 1], w[s + 2], w[s + 3] = dd, dg, -(dd + dg + db), db
            w[s + 4], w[s + 5], w[s + 6], w[s + 7] = 0.0, 0.0, 0.0, 0.0
            bd, bb = -gd, gs + gd
            w[s + 12], w[s + 13], w[s + 14], w[s + 15] = bd, 0.0, -(bd + bb), bb
            w[s + 8], w[s + 9] = -(dd + bd), -dg
            w[s + 10], w[s + 11] = dd + dg + db + bd + bb, -(db + bb)
        if wants & READOUT:
            total = current - idb
            w[r], w[r + 1], w[r + 2], w[r + 3] = (
                sign * total,
                sign * vgs,
                sign * vds,
                sign * vbs,
            )
            w[r + 4], w[r + 5] = sign * von, sign * max(overdrive, 0.0)
            w[r + 6], w[r + 7], w[r + 8] = gm, gds, gmb
            w[r + 9] = vds / total if total != 0.0 else math.inf
            w[r + 10] = region
    return limited
