"""Kernel of the MOS transistor, level 1.

H. Shichman and D. A. Hodges, "Modeling and simulation of insulated-gate field-effect transistor switching circuits",
IEEE Journal of Solid-State Circuits, SC-3, 1968, with the body effect and the form of channel-length modulation that
the Berkeley level 1 has: the factor (1 + lambda·vds) stands in triode and in saturation alike, so that the current is
continuous. All voltages below are those of an n-channel device; `POLARITY` (+1, -1) turns them.
"""

from __future__ import annotations

import math

import numba as nb

from hearthline.core.engine.kernels.limiting import junction, limit_channel, limit_gate, limit_junction
from hearthline.core.engine.signature import (
    COUNT,
    FLOW,
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


@nb.njit("UniTuple(float64, 2)(float64, float64, float64, float64)", **OPTIONS)
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


@nb.njit("UniTuple(float64, 4)(float64, float64, float64, float64)", **OPTIONS)
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
def mos1(wants, span, x, nodes, values, memory, setting, flow, slope, charge, capacity, readout):
    """Terminals d, g, s, b. readout: id vgs vds vbs vth vdsat gm gds gmb ron region, with the signs of the terminals."""
    limited = 0
    for k in range(span[COUNT]):
        n, p = span[NODE0] + 4 * k, span[VALUE0] + VALUES * k
        m, s, r = span[MEMORY0] + MEMORY * k, span[SLOPE0] + 16 * k, span[READOUT0] + READOUTS * k
        sign, vto, gamma, phi = values[p + POLARITY], values[p + VTO], values[p + GAMMA], values[p + PHI]
        vt, critical = values[p + VT], values[p + CRITICAL]
        vgs_x = sign * (x[nodes[n + 1]] - x[nodes[n + 2]])
        vds_x = sign * (x[nodes[n]] - x[nodes[n + 2]])
        vbs_x = sign * (x[nodes[n + 3]] - x[nodes[n + 2]])
        vgs, vds, vbs = vgs_x, vds_x, vbs_x
        if wants & FLOW:
            if setting[START_MODE] == START:
                vgs, vds, vbs = vto + 0.1, 0.1, 0.0
            elif setting[START_MODE] == LIMIT:
                von, _ = threshold(memory[m + 2] if memory[m + 1] >= 0.0 else memory[m + 3], vto, gamma, phi)
                if memory[m + 1] >= 0.0:
                    vgs = limit_gate(vgs_x, memory[m], von)
                    vds = limit_channel(vgs - (vgs_x - vds_x), memory[m + 1])
                else:
                    vgd = limit_gate(vgs_x - vds_x, memory[m] - memory[m + 1], von)
                    vds = -limit_channel(-(vgs_x - vgd), -memory[m + 1])
                    vgs = vgd + vds
                if vds >= 0.0:
                    vbs = limit_junction(vbs_x, memory[m + 2], vt, critical)
                else:
                    vbs = limit_junction(vbs_x - vds_x, memory[m + 3], vt, critical) + vds
            memory[m], memory[m + 1], memory[m + 2], memory[m + 3] = vgs, vds, vbs, vbs - vds
            moved = abs(vgs - vgs_x) + abs(vds - vds_x) + abs(vbs - vbs_x)
            limited += moved > 1e-12 + 1e-9 * (abs(vgs) + abs(vds) + abs(vbs))
        forward = vds >= 0.0
        von, back = threshold(vbs if forward else vbs - vds, vto, gamma, phi)
        overdrive = (vgs if forward else vgs - vds) - von
        ids, gm, gds, region = channel(overdrive, abs(vds), values[p + BETA], values[p + LAMBDA])
        gmb = gm * back
        isb, gs = junction(vbs, values[p + IS_SOURCE], vt)
        idb, gd = junction(vbs - vds, values[p + IS_DRAIN], vt)
        gmin = setting[GMIN]
        isb, gs, idb, gd = isb + gmin * vbs, gs + gmin, idb + gmin * (vbs - vds), gd + gmin
        if forward:  # slopes of the channel current into the drain by (vgs, vds, vbs)
            current, by_gate, by_drain, by_body = ids, gm, gds, gmb
        else:
            current, by_gate, by_drain, by_body = -ids, -gm, gds + gm + gmb, -gmb
        if wants & FLOW:
            drain = current - idb + by_gate * (vgs_x - vgs) + (by_drain + gd) * (vds_x - vds)
            drain += (by_body - gd) * (vbs_x - vbs)
            bulk = isb + idb + (gs + gd) * (vbs_x - vbs) - gd * (vds_x - vds)
            flow[n], flow[n + 1], flow[n + 2], flow[n + 3] = sign * drain, 0.0, -sign * (drain + bulk), sign * bulk
            dg, dd, db = by_gate, by_drain + gd, by_body - gd
            slope[s], slope[s + 1], slope[s + 2], slope[s + 3] = dd, dg, -(dd + dg + db), db
            slope[s + 4], slope[s + 5], slope[s + 6], slope[s + 7] = 0.0, 0.0, 0.0, 0.0
            bd, bb = -gd, gs + gd
            slope[s + 12], slope[s + 13], slope[s + 14], slope[s + 15] = bd, 0.0, -(bd + bb), bb
            slope[s + 8], slope[s + 9] = -(dd + bd), -dg
            slope[s + 10], slope[s + 11] = dd + dg + db + bd + bb, -(db + bb)
        if wants & READOUT:
            total = current - idb
            readout[r], readout[r + 1], readout[r + 2], readout[r + 3] = (
                sign * total,
                sign * vgs,
                sign * vds,
                sign * vbs,
            )
            readout[r + 4], readout[r + 5] = sign * von, sign * max(overdrive, 0.0)
            readout[r + 6], readout[r + 7], readout[r + 8] = gm, gds, gmb
            readout[r + 9] = vds / total if total != 0.0 else math.inf
            readout[r + 10] = region
    return limited
