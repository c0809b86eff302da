"""Kernels of the linear parts: resistor, capacitor, inductor, independent and controlled sources.

A branch current is an unknown and stands as the last terminal; its row holds the branch equation. The current of a
branch flows from the first terminal through the part to the second.
"""

from __future__ import annotations

from hearthline.core.models.layout import COUNT, NODE0
from hearthline.core.models.signature import (
    CAPACITANCE0,
    CHARGE,
    CHARGE0,
    FLOW,
    FLOW0,
    READOUT,
    READOUT0,
    SCALE,
    SLOPE0,
    TIME,
    VALUE0,
    kernel,
)


@kernel
def resistor(wants, span, nodes, w):
    """i = g v. values: conductance [S]. readout: current, voltage, resistance."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 2 * k, span[FLOW0] + 2 * k, span[SLOPE0] + 4 * k
        g = w[span[VALUE0] + k]
        v = w[nodes[n]] - w[nodes[n + 1]]
        if wants & FLOW:
            w[f], w[f + 1] = g * v, -g * v
            w[s], w[s + 1], w[s + 2], w[s + 3] = g, -g, -g, g
        if wants & READOUT:
            r = span[READOUT0] + 2 * k
            w[r], w[r + 1] = g * v, v
    return 0


@kernel
def capacitor(wants, span, nodes, w):
    """q = C v, open for direct current. values: capacitance [F]."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 2 * k, span[FLOW0] + 2 * k, span[SLOPE0] + 4 * k
        farads = w[span[VALUE0] + k]
        if wants & FLOW:
            w[f], w[f + 1] = 0.0, 0.0
            w[s], w[s + 1], w[s + 2], w[s + 3] = 0.0, 0.0, 0.0, 0.0
        if wants & CHARGE:
            q, c = span[CHARGE0] + 2 * k, span[CAPACITANCE0] + 4 * k
            v = w[nodes[n]] - w[nodes[n + 1]]
            w[q], w[q + 1] = farads * v, -farads * v
            w[c], w[c + 1], w[c + 2], w[c + 3] = farads, -farads, -farads, farads
        if wants & READOUT:
            w[span[READOUT0] + k] = w[nodes[n]] - w[nodes[n + 1]]
    return 0


@kernel
def inductor(wants, span, nodes, w):
    """v = d(L i)/dt, a short for direct current. values: inductance [H]."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 3 * k, span[FLOW0] + 3 * k, span[SLOPE0] + 9 * k
        inductance = w[span[VALUE0] + k]
        i = w[nodes[n + 2]]
        if wants & FLOW:
            for j in range(9):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2] = i, -i, w[nodes[n]] - w[nodes[n + 1]]
            w[s + 2], w[s + 5], w[s + 6], w[s + 7] = 1.0, -1.0, 1.0, -1.0
        if wants & CHARGE:
            q, c = span[CHARGE0] + 3 * k, span[CAPACITANCE0] + 9 * k
            for j in range(9):
                w[c + j] = 0.0
            w[q], w[q + 1], w[q + 2] = 0.0, 0.0, -inductance * i
            w[c + 8] = -inductance
        if wants & READOUT:
            w[span[READOUT0] + k] = i
    return 0


@kernel
def voltage_source(wants, span, nodes, w):
    """v = E. values: E [V]. readout: current, power delivered."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 3 * k, span[FLOW0] + 3 * k, span[SLOPE0] + 9 * k
        v, i = w[nodes[n]] - w[nodes[n + 1]], w[nodes[n + 2]]
        if wants & FLOW:
            for j in range(9):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2] = i, -i, v - w[SCALE] * w[span[VALUE0] + k]
            w[s + 2], w[s + 5], w[s + 6], w[s + 7] = 1.0, -1.0, 1.0, -1.0
        if wants & READOUT:
            r = span[READOUT0] + 2 * k
            w[r], w[r + 1] = i, -v * i
    return 0


@kernel
def current_source(wants, span, nodes, w):
    """i = J. values: J [A]. readout: voltage."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 2 * k, span[FLOW0] + 2 * k, span[SLOPE0] + 4 * k
        if wants & FLOW:
            i = w[SCALE] * w[span[VALUE0] + k]
            w[f], w[f + 1] = i, -i
            w[s], w[s + 1], w[s + 2], w[s + 3] = 0.0, 0.0, 0.0, 0.0
        if wants & READOUT:
            w[span[READOUT0] + k] = w[nodes[n]] - w[nodes[n + 1]]
    return 0


@kernel
def voltage_controlled_voltage(wants, span, nodes, w):
    """v = A vc. Terminals: p, n, cp, cn, branch. values: A."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 5 * k, span[FLOW0] + 5 * k, span[SLOPE0] + 25 * k
        gain = w[span[VALUE0] + k]
        i = w[nodes[n + 4]]
        if wants & FLOW:
            for j in range(25):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2], w[f + 3] = i, -i, 0.0, 0.0
            w[f + 4] = w[nodes[n]] - w[nodes[n + 1]] - gain * (w[nodes[n + 2]] - w[nodes[n + 3]])
            w[s + 4], w[s + 9] = 1.0, -1.0
            w[s + 20], w[s + 21], w[s + 22], w[s + 23] = 1.0, -1.0, -gain, gain
        if wants & READOUT:
            w[span[READOUT0] + k] = i
    return 0


@kernel
def voltage_controlled_current(wants, span, nodes, w):
    """i = gm vc. Terminals: p, n, cp, cn. values: gm [S]."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 4 * k, span[FLOW0] + 4 * k, span[SLOPE0] + 16 * k
        gm = w[span[VALUE0] + k]
        i = gm * (w[nodes[n + 2]] - w[nodes[n + 3]])
        if wants & FLOW:
            for j in range(16):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2], w[f + 3] = i, -i, 0.0, 0.0
            w[s + 2], w[s + 3], w[s + 6], w[s + 7] = gm, -gm, -gm, gm
        if wants & READOUT:
            w[span[READOUT0] + k] = i
    return 0


@kernel
def current_controlled_current(wants, span, nodes, w):
    """i = F ic. Terminals: p, n, the controlling branch. values: F."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 3 * k, span[FLOW0] + 3 * k, span[SLOPE0] + 9 * k
        gain = w[span[VALUE0] + k]
        i = gain * w[nodes[n + 2]]
        if wants & FLOW:
            for j in range(9):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2] = i, -i, 0.0
            w[s + 2], w[s + 5] = gain, -gain
        if wants & READOUT:
            w[span[READOUT0] + k] = i
    return 0


@kernel
def current_controlled_voltage(wants, span, nodes, w):
    """v = H ic. Terminals: p, n, the controlling branch, own branch. values: H [Ohm]."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 4 * k, span[FLOW0] + 4 * k, span[SLOPE0] + 16 * k
        gain = w[span[VALUE0] + k]
        i = w[nodes[n + 3]]
        if wants & FLOW:
            for j in range(16):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2] = i, -i, 0.0
            w[f + 3] = w[nodes[n]] - w[nodes[n + 1]] - gain * w[nodes[n + 2]]
            w[s + 3], w[s + 7], w[s + 12], w[s + 13], w[s + 14] = 1.0, -1.0, 1.0, -1.0, -gain
        if wants & READOUT:
            w[span[READOUT0] + k] = i
    return 0


@kernel
def mutual(wants, span, nodes, w):
    """Flux of each of two inductors by the current of the other. Terminals: their branches. values: M [H]."""
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 2 * k, span[FLOW0] + 2 * k, span[SLOPE0] + 4 * k
        inductance = w[span[VALUE0] + k]
        if wants & FLOW:
            w[f], w[f + 1] = 0.0, 0.0
            w[s], w[s + 1], w[s + 2], w[s + 3] = 0.0, 0.0, 0.0, 0.0
        if wants & CHARGE:
            q, c = span[CHARGE0] + 2 * k, span[CAPACITANCE0] + 4 * k
            w[q], w[q + 1] = -inductance * w[nodes[n + 1]], -inductance * w[nodes[n]]
            w[c], w[c + 1], w[c + 2], w[c + 3] = 0.0, -inductance, -inductance, 0.0
    return 0


@kernel
def lossless_line(wants, span, nodes, w):
    """What arrives at each port left the other one a delay ago (Branin 1967): v - Z0 i = e, e = v' + Z0 i' of the other.

    Terminals: p1, n1, p2, n2, and the currents into both ports. values: Z0 [Ohm], delay [s], and e of both ports [V],
    which the transient puts there; at direct current, and for small signals, e is that of this moment.
    """
    for k in range(span[COUNT]):
        n, f, s = span[NODE0] + 6 * k, span[FLOW0] + 6 * k, span[SLOPE0] + 36 * k
        value = span[VALUE0] + 4 * k
        z, i1, i2 = w[value], w[nodes[n + 4]], w[nodes[n + 5]]
        v1, v2 = w[nodes[n]] - w[nodes[n + 1]], w[nodes[n + 2]] - w[nodes[n + 3]]
        if wants & FLOW:
            for j in range(36):
                w[s + j] = 0.0
            w[f], w[f + 1], w[f + 2], w[f + 3] = i1, -i1, i2, -i2
            w[s + 4], w[s + 10], w[s + 17], w[s + 23] = 1.0, -1.0, 1.0, -1.0
            w[s + 24], w[s + 25], w[s + 28] = 1.0, -1.0, -z
            w[s + 32], w[s + 33], w[s + 35] = 1.0, -1.0, -z
            if w[TIME] > 0.0:
                w[f + 4], w[f + 5] = v1 - z * i1 - w[value + 2], v2 - z * i2 - w[value + 3]
            else:
                w[f + 4], w[f + 5] = v1 - z * i1 - (v2 + z * i2), v2 - z * i2 - (v1 + z * i1)
                w[s + 26], w[s + 27], w[s + 29] = -1.0, 1.0, -z
                w[s + 30], w[s + 31], w[s + 34] = -1.0, 1.0, -z
        if wants & READOUT:
            r = span[READOUT0] + 2 * k
            w[r], w[r + 1] = i1, i2
    return 0
