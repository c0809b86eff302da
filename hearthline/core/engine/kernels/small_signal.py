"""Small signals about an operating point, compiled: transfer at many frequencies, and noise by the adjoint.

(G + jωC)·x = b with G the conductances and C the capacitances. Noise solves the transposed system once for
each frequency: that gives the transfer from every source in the circuit to the output at once (Rohrer, Nagel, Meyer,
Weber, IEEE J. Solid-State Circuits 1971).
"""

from __future__ import annotations

import math

import numpy as np

from hearthline.core.compiled.codes import IM, INT, ZM, ZT, F, I, M, U, Z, record
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.linear import sparse
from hearthline.core.engine.linear.sparse import LuRoom
from hearthline.core.engine.newton import SINGULAR, SOLVED, STOPPED, evaluate, take_values
from hearthline.core.engine.pointers import copy, pointer
from hearthline.core.engine.worker import CIRCUIT, MEMORY, worker_in
from hearthline.core.models.signature import CHARGE, CURRENT, NOISE, READOUT, START_MODE, STATIC, TRUST

COMPLEX_ROOM = record(LuRoom, INT, INT, INT, U, I, Z)


@inner
def linearise(worker, values, x, conductance, capacitance):
    """Slopes at x into two arrays of the matrix's values."""
    take_values(worker, pointer(values, 0))
    copy(worker.x, pointer(x, 0), worker.size)
    worker.setting[START_MODE], worker.setting[STATIC] = TRUST, 0.0
    evaluate(worker, CURRENT | CHARGE)
    conductance[:] = 0.0
    capacitance[:] = 0.0
    for j in range(worker.conductances):
        conductance[worker.slots[j]] += worker.conductance[j]
    for j in range(worker.capacitances):
        capacitance[worker.capacitance_slots[j]] += worker.capacitance[j]


@inner
def system_at(circuit, memory, values, x, flag, limits):
    """A worker at x, G and C as values of the matrix's entries, and room for the matrix and a right side."""
    worker = worker_in(circuit, memory, flag, limits)
    entries = memory.matrix.shape[0]
    conductance, capacitance, matrix = np.zeros(entries), np.zeros(entries), np.zeros(entries, np.complex128)
    linearise(worker, values, x, conductance, capacitance)
    return worker, conductance, capacitance, matrix, np.zeros(worker.size, np.complex128)


@inner
def fill_at(worker, lu, conductance, capacitance, omega, entries, gains, matrix):
    """Factors of the matrix at an angular frequency [rad/s]; `gains` is what the conductances `entries` have beside."""
    for j in range(matrix.shape[0]):
        matrix[j] = complex(conductance[j], omega * capacitance[j])
    for k in range(entries.shape[0]):
        matrix[worker.slots[entries[k]]] += gains[k]
    return sparse.fill(lu, pointer(matrix, 0))


@inner
def density_of(worker, place, own, frequency):
    """Density [A²/Hz] of a source at a frequency [Hz]: by its place among the noise of the kernels, or of its own."""
    density = own[0] if place < 0 else worker.noise[2 * place]
    exponent = own[1] if place < 0 else worker.noise[2 * place + 1]
    return density if exponent == 0.0 else density / frequency**exponent


@inner
def together(first, second, span, rows, matrix):
    """What correlated sources do to two outputs, whose adjoints these are: their cross density."""
    total = 0.0j
    for a in range(span[1]):
        for b in range(span[1]):
            entry = matrix[span[2] + a * span[1] + b]
            total += first[rows[span[0] + a]] * entry * second[rows[span[0] + b]].conjugate()
    return total


@entry(CIRCUIT, MEMORY, F, F, F, F, F, F, gives=None)
def linearised_at(circuit, memory, values, x, limits, conductance, capacitance, residual):
    """G and C at x, as values of the matrix's entries, and the sums of the residual, for whoever solves them elsewhere."""
    flag = np.zeros(1, np.int64)
    worker = worker_in(circuit, memory, flag, limits)
    linearise(worker, values, x, conductance, capacitance)
    residual[:] = 0.0
    for j in range(worker.currents):
        residual[worker.rows[j]] += worker.current[j]


@entry(CIRCUIT, MEMORY, COMPLEX_ROOM, F, F, I, ZM, F, ZM, I, ZT, I, I, INT, F)
def transfer(
    circuit, memory, room, values, x, entries, gains, frequencies, excitations, watched, out, flag, progress, share, limits
):  # fmt: skip
    """Answers to excitations (cases, unknowns + 1) at each frequency [Hz]: out (cases, frequencies, watched). An Outcome."""
    worker, conductance, capacitance, matrix, right = system_at(circuit, memory, values, x, flag, limits)
    lu = sparse.lu_in(room)
    for k in range(frequencies.shape[0]):
        if flag[0] != 0:
            return STOPPED
        omega = 2.0 * math.pi * frequencies[k]
        if fill_at(worker, lu, conductance, capacitance, omega, entries, gains[k], matrix) != sparse.GOOD:
            return SINGULAR
        for case in range(excitations.shape[0]):
            right[:] = excitations[case]
            sparse.solve(lu, pointer(right, 0))
            for j in range(watched.shape[0]):
                out[case, k, j] = right[watched[j]]
        progress[share] += 1
    return SOLVED


@entry(CIRCUIT, MEMORY, COMPLEX_ROOM, F, F, I, ZM, F, Z, Z, IM, M, IM, I, ZM, M, Z, I, I, INT, F)
def noise(
    circuit, memory, room, values, x, entries, added, frequencies, output, excitation, ends, own, spans, rows, matrices,
    densities, gains, flag, progress, share, limits,
):  # fmt: skip
    """Noise at an output: densities (frequencies, sources) [V²/Hz], and gains (frequencies,) from the excitation.

    `output` picks the output from the unknowns; `ends` (sources, 3): the unknowns that a source flows between and its place
    among the noise of the kernels, or -1 for one whose density [A²/Hz] and exponent are in `own` (sources, 2). Correlated
    ones follow behind them, see `noise_sources.Groups`.
    """
    worker, conductance, capacitance, matrix, right = system_at(circuit, memory, values, x, flag, limits)
    evaluate(worker, NOISE)
    lu = sparse.lu_in(room)
    for k in range(frequencies.shape[0]):
        if flag[0] != 0:
            return STOPPED
        omega = 2.0 * math.pi * frequencies[k]
        if fill_at(worker, lu, conductance, capacitance, omega, entries, added[k], matrix) != sparse.GOOD:
            return SINGULAR
        right[:] = output
        sparse.solve_transposed(lu, pointer(right, 0))
        for j in range(ends.shape[0]):
            across = right[ends[j, 0]] - right[ends[j, 1]]
            density = density_of(worker, ends[j, 2], own[j], frequencies[k])
            densities[k, j] = density * (across.real**2 + across.imag**2)
        for g in range(spans.shape[0]):
            densities[k, ends.shape[0] + g] = together(right, right, spans[g], rows, matrices[k]).real
        total = 0.0j
        for i in range(worker.size):
            total += right[i] * excitation[i]
        gains[k] = total
        progress[share] += 1
    return SOLVED


@entry(CIRCUIT, MEMORY, F, M, I, M, F, gives=None)
def readouts_at(circuit, memory, values, points, wanted, out, limits):
    """Operating-point variables `wanted` at each of `points` (points, unknowns + 1): out (points, wanted)."""
    flag = np.zeros(1, np.int64)
    worker = worker_in(circuit, memory, flag, limits)
    take_values(worker, pointer(values, 0))
    worker.setting[START_MODE], worker.setting[STATIC] = TRUST, 0.0
    for k in range(points.shape[0]):
        copy(worker.x, pointer(points[k], 0), worker.size)
        evaluate(worker, READOUT)
        for j in range(wanted.shape[0]):
            out[k, j] = worker.readout[wanted[j]]
