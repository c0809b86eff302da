"""Currents of all ports for all excitations, their slopes by frequency, and the noise at them, compiled.

With v + Z i = e at each port, the current of port k for e = 1 behind port j is entry (branch j) of the transposed system's
solution for branch k: as many solutions as ports give both the scattering and the noise of every source (Rohrer, Nagel,
Meyer, Weber 1971; adjoint networks: Director and Rohrer 1969).
"""

from __future__ import annotations

import math

import numpy as np

from hearthline.core.compiled.codes import IM, INT, ZM, ZT, F, I, M
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.kernels.small_signal import COMPLEX_ROOM, density_of, fill_at, system_at, together
from hearthline.core.engine.linear import sparse
from hearthline.core.engine.newton import SINGULAR, SOLVED, STOPPED, evaluate
from hearthline.core.engine.pointers import pointer
from hearthline.core.engine.worker import CIRCUIT, MEMORY
from hearthline.core.models.signature import NOISE


@inner
def _noise(worker, adjoint, frequency, ends, own, spans, rows, matrix, correlation, parts):
    """What every source does at the ports."""
    ports = adjoint.shape[0]
    last = ports - 1
    across = np.zeros(ports, np.complex128)
    for j in range(ends.shape[0]):
        density = density_of(worker, ends[j, 2], own[j], frequency)
        for port in range(ports):
            across[port] = adjoint[port, ends[j, 0]] - adjoint[port, ends[j, 1]]
        for a in range(ports):
            for b in range(ports):
                correlation[a, b] += density * across[a] * across[b].conjugate()
        parts[j] = density * (across[last].real ** 2 + across[last].imag ** 2)
    for g in range(spans.shape[0]):
        for a in range(ports):
            for b in range(ports):
                correlation[a, b] += together(adjoint[a], adjoint[b], spans[g], rows, matrix)
        parts[ends.shape[0] + g] = together(adjoint[last], adjoint[last], spans[g], rows, matrix).real


@entry(
    CIRCUIT, MEMORY, COMPLEX_ROOM, F, F, I, ZM, ZM, IM, IM, F, I, IM, M, IM, I, ZM, ZT, ZT, M, ZM, I, I, INT, F
)  # fmt: skip
def scatter(
    circuit, memory, room, values, x, entries, gains, slopes, pairs, capacitive, frequencies, branches, ends, own, spans, rows,
    matrices, currents, correlations, parts, slope, flag, progress, share, limits,
):  # fmt: skip
    """An Outcome; `branches` (ports,) are the unknowns of the ports' currents.

    out: `currents` (frequencies, ports, ports) [A/V], of the first for the second; `correlations` of noise currents, alike
    [A²/Hz]; `parts` (frequencies, sources) of that at the last port; `slope` (frequencies, 1) of the last port's current for
    the first excitation, by the angular frequency, where there is room for it. `pairs` (2, entries) and `capacitive` (2,
    capacitances) are row and column of what has gains, and of capacitances.
    """
    worker, conductance, capacitance, matrix, _ = system_at(circuit, memory, values, x, flag, limits)
    evaluate(worker, NOISE)
    lu = sparse.lu_in(room)
    ports = branches.shape[0]
    adjoint = np.zeros((ports, worker.size), np.complex128)
    answer = np.zeros(worker.size, np.complex128)
    for k in range(frequencies.shape[0]):
        if flag[0] != 0:
            return STOPPED
        omega = 2.0 * math.pi * frequencies[k]
        if fill_at(worker, lu, conductance, capacitance, omega, entries, gains[k], matrix) != sparse.GOOD:
            return SINGULAR
        for port in range(ports):
            adjoint[port, :] = 0.0
            adjoint[port, branches[port]] = 1.0
            sparse.solve_transposed(lu, pointer(adjoint, port * worker.size))
            for other in range(ports):
                currents[k, port, other] = adjoint[port, branches[other]]
        _noise(worker, adjoint, frequencies[k], ends, own, spans, rows, matrices[k], correlations[k], parts[k])
        if slope.shape[1] > 0:
            answer[:] = 0.0
            answer[branches[0]] = 1.0
            sparse.solve(lu, pointer(answer, 0))
            total = 0.0j
            for j in range(capacitive.shape[1]):
                total -= adjoint[ports - 1, capacitive[0, j]] * 1j * worker.capacitance[j] * answer[capacitive[1, j]]
            for j in range(pairs.shape[1]):
                total -= adjoint[ports - 1, pairs[0, j]] * slopes[k, j] * answer[pairs[1, j]]
            slope[k, 0] = total
        progress[share] += 1
    return SOLVED
