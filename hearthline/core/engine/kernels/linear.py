"""Kernels of the linear parts: resistor, capacitor, inductor, independent and controlled sources.

A branch current is an unknown and stands as the last terminal; its row holds the branch equation. The current of a
branch flows from the first terminal through the part to the second.
"""

from __future__ import annotations

from hearthline.core.engine.signature import (
    CHARGE,
    COUNT,
    FLOW,
    NODE0,
    READOUT,
    READOUT0,
    SCALE,
    SLOPE0,
    VALUE0,
    kernel,
)  # fmt: skip


@kernel
def resistor(wants, span, x, nodes, values, memory, setting, flow, slope, charge, capacity, readout):
    """i = g v. values: conductance [S]. readout: current, voltage, resistance."""
    for k in range(span[COUNT]):
        n, s, g = span[NODE0] + 2 * k, span[SLOPE0] + 4 * k, values[span[VALUE0] + k]
        v = x[nodes[n]] - x[nodes[n + 1]]
        if wants & FLOW:
            flow[n], flow[n + 1] = g * v, -g * v
            slope[s], slope[s + 1], slope[s + 2], slope[s + 3] = g, -g, -g, g
        if wants & READOUT:
            r = span[READOUT0] + 2 * k
            readout[r], readout[r + 1] = g * v, v
    return 0


@kernel
def capacitor(wants, span, x, nodes, values, memory, setting, flow, slope, charge, capacity, readout):
    """q = C v, open for direct current. values: capacitance [F]."""
    for k in range(span[COUNT]):
        n, s, c = span[NODE0] + 2 * k, span[SLOPE0] + 4 * k, values[span[VALUE0] + k]
        if wants & FLOW:
            flow[n], flow[n + 1] = 0.0, 0.0
            slope[s], slope[s + 1], slope[s + 2], slope[s + 3] = 0.0, 0.0, 0.0, 0.0
        if wants & CHARGE:
            v = x[nodes[n]] - x[nodes[n + 1]]
            charge[n], charge[n + 1] = c * v, -c * v
            capacity[s], capacity[s + 1], capacity[s + 2], capacity[s + 3] = c, -c, -c, c
        if wants & READOUT:
            readout[span[READOUT0] + k] = x[nodes[n]] - x[nodes[n + 1]]
    return 0


@kernel
def inductor(wants, span, x, nodes, values, memory, setting, flow, slope, charge, capacity, readout):
    """v = d(L i)/dt, a short for direct current. values: inductance [H]."""
    for k in range(span[COUNT]):
        n, s, inductance = span[NODE0] + 3 * k, span[SLOPE0] + 9 * k, values[span[VALUE0] + k]
        i = x[nodes[n + 2]]
        if wants & FLOW:
            for j in range(9):
                slope[s + j] = 0.0
            flow[n], flow[n + 1], flow[n + 2] = i, -i, x[nodes[n]] - x[nodes[n + 1]]
            slope[s + 2], slope[s + 5], slope[s + 6], slope[s + 7] = 1.0, -1.0, 1.0, -1.0
        if wants & CHARGE:
            for j in range(9):
                capacity[s + j] = 0.0
            charge[n], charge[n + 1], charge[n + 2] = 0.0, 0.0, -inductance * i
            capacity[s + 8] = -inductance
        if wants & READOUT:
            readout[span[READOUT0] + k] = i
    return 0


@kernel
def voltage_source(wants, span, x, nodes, values, memory, setting, flow, slope, charge, capacity, readout):
    """v = E. values: E [V]. readout: current, power delivered."""
    for k in range(span[COUNT]):
        n, s = span[NODE0] + 3 * k, span[SLOPE0] + 9 * k
        v, i = x[nodes[n]] - x[nodes[n + 1]], x[nodes[n + 2]]
        if wants & FLOW:
            for j in range(9):
                slope[s + j] = 0.0
            flow[n], flow[n + 1], flow[n + 2] = i, -i, v - setting[SCALE] * values[span[VALUE0] + k]
            slope[s + 2], slope[s + 5], slope[s + 6], slope[s + 7] = 1.0, -1.0, 1.0, -1.0
        if wants & READOUT:
            r = span[READOUT0] + 2 * k
            readout[r], readout[r + 1] = i, -v * i
    return 0


@kernel
def current_source(wants, span, x, nodes, values, memory, setting, flow, slope, charge, capacity, readout):
    """i = J. values: J [A]. readout: voltage."""
    for k in range(span[COUNT]):
        n, s = span[NODE0] + 2 * k, span[SLOPE0] + 4 * k
        if wants & FLOW:
            i = setting[SCALE] * values[span[VALUE0] + k]
            flow[n], flow[n + 1] = i, -i
            slope[s], slope[s + 1], slope[s + 2], slope[s + 3] = 0.0, 0.0, 0.0, 0.0
        if wants & READOUT:
            readout[span[READOUT0] + k] = x[nodes[n]] - x[nodes[n + 1]]
    return 0


@kernel
def voltage_controlled_voltage(wants, span, x, nodes, values, memory, setting, flow, slope, charge, capacity, readout):
    """v = A vc. Terminals: p, n, cp, cn, branch. values: A."""
    for k in range(span[COUNT]):
        n, s, gain = span[NODE0] + 5 * k, span[SLOPE0] + 25 * k, values[span[VALUE0] + k]
        i = x[nodes[n + 4]]
        if wants & FLOW:
            for j in range(25):
                slope[s + j] = 0.0
            flow[n], flow[n + 1], flow[n + 2], flow[n + 3] = i, -i, 0.0, 0.0
            flow[n + 4] = x[nodes[n]] - x[nodes[n + 1]] - gain * (x[nodes[n + 2]] - x[nodes[n + 3]])
            slope[s + 4], slope[s + 9] = 1.0, -1.0
            slope[s + 20], slope[s + 21], slope[s + 22], slope[s + 23] = 1.0, -1.0, -gain, gain
        if wants & READOUT:
            readout[span[READOUT0] + k] = i
    return 0


@kernel
def voltage_controlled_current(wants, span, x, nodes, values, memory, setting, flow, slope, charge, capacity, readout):
    """i = gm vc. Terminals: p, n, cp, cn. values: gm [S]."""
    for k in range(span[COUNT]):
        n, s, gm = span[NODE0] + 4 * k, span[SLOPE0] + 16 * k, values[span[VALUE0] + k]
        i = gm * (x[nodes[n + 2]] - x[nodes[n + 3]])
        if wants & FLOW:
            for j in range(16):
                slope[s + j] = 0.0
            flow[n], flow[n + 1], flow[n + 2], flow[n + 3] = i, -i, 0.0, 0.0
            slope[s + 2], slope[s + 3], slope[s + 6], slope[s + 7] = gm, -gm, -gm, gm
        if wants & READOUT:
            readout[span[READOUT0] + k] = i
    return 0


@kernel
def current_controlled_current(wants, span, x, nodes, values, memory, setting, flow, slope, charge, capacity, readout):
    """i = F ic. Terminals: p, n, the controlling branch. values: F."""
    for k in range(span[COUNT]):
        n, s, gain = span[NODE0] + 3 * k, span[SLOPE0] + 9 * k, values[span[VALUE0] + k]
        i = gain * x[nodes[n + 2]]
        if wants & FLOW:
            for j in range(9):
                slope[s + j] = 0.0
            flow[n], flow[n + 1], flow[n + 2] = i, -i, 0.0
            slope[s + 2], slope[s + 5] = gain, -gain
        if wants & READOUT:
            readout[span[READOUT0] + k] = i
    return 0


@kernel
def current_controlled_voltage(wants, span, x, nodes, values, memory, setting, flow, slope, charge, capacity, readout):
    """v = H ic. Terminals: p, n, the controlling branch, own branch. values: H [Ohm]."""
    for k in range(span[COUNT]):
        n, s, gain = span[NODE0] + 4 * k, span[SLOPE0] + 16 * k, values[span[VALUE0] + k]
        i = x[nodes[n + 3]]
        if wants & FLOW:
            for j in range(16):
                slope[s + j] = 0.0
            flow[n], flow[n + 1], flow[n + 2] = i, -i, 0.0
            flow[n + 3] = x[nodes[n]] - x[nodes[n + 1]] - gain * x[nodes[n + 2]]
            slope[s + 3], slope[s + 7], slope[s + 12], slope[s + 13], slope[s + 14] = 1.0, -1.0, 1.0, -1.0, -gain
        if wants & READOUT:
            readout[span[READOUT0] + k] = i
    return 0
