"""The logarithm of a circuit's determinant at many frequencies, compiled."""

from __future__ import annotations

import math

import numpy as np

from hearthline.core.compiled.codes import ZM, F, I, Z
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.kernels.small_signal import COMPLEX_ROOM, linearise
from hearthline.core.engine.linear import sparse
from hearthline.core.engine.newton import SINGULAR, SOLVED, STOPPED
from hearthline.core.engine.pointers import pointer
from hearthline.core.engine.worker import CIRCUIT, MEMORY, worker_in


@entry(CIRCUIT, MEMORY, F, F, F, F, F, gives=None)
def slopes_at(circuit, memory, values, x, limits, conductances, capacitances):
    """Every conductance and capacitance of every part at x."""
    flag = np.zeros(1, np.int64)
    worker = worker_in(circuit, memory, flag, limits)
    conductance, capacitance = np.zeros(memory.matrix.shape[0]), np.zeros(memory.matrix.shape[0])
    linearise(worker, values, x, conductance, capacitance)
    for j in range(worker.conductances):
        conductances[j] = worker.conductance[j]
    for j in range(worker.capacitances):
        capacitances[j] = worker.capacitance[j]


@inner
def swaps(count, order):
    """1 or -1: whether an order of 0 to count - 1 is an even or an odd number of swaps."""
    seen = np.zeros(count, np.bool_)
    sign = 1
    for k in range(count):
        length = 0
        j = k
        while not seen[j]:
            seen[j] = True
            j = order[j]
            length += 1
        if length > 0 and length % 2 == 0:
            sign = -sign
    return sign


@entry(COMPLEX_ROOM, I, I, F, F, I, ZM, F, Z, I)
def determinants(
    room, slots, capacitance_slots, conductances, capacitances, entries, gains, frequencies, out, flag
):  # fmt: skip
    """Logarithms (frequencies,) of the determinant of a matrix of these conductances and capacitances; its imaginary part is
    an angle of no more than half a turn. An Outcome."""
    lu = sparse.lu_in(room)
    matrix = np.zeros(room.count + 1, np.complex128)
    rows, columns = np.zeros(lu.size, np.int64), np.zeros(lu.size, np.int64)
    for k in range(frequencies.shape[0]):
        if flag[0] != 0:
            return STOPPED
        omega = 2.0 * math.pi * frequencies[k]
        matrix[:] = 0.0
        for j in range(slots.shape[0]):
            matrix[slots[j]] += conductances[j]
        for j in range(capacitance_slots.shape[0]):
            matrix[capacitance_slots[j]] += 1j * omega * capacitances[j]
        for j in range(entries.shape[0]):
            matrix[slots[entries[j]]] += gains[k, j]
        if sparse.fill(lu, pointer(matrix, 0)) != sparse.GOOD:
            return SINGULAR
        size, angle = 0.0, 0.0
        for j in range(lu.size):
            pivot = lu.pivots[j]
            size += math.log(abs(pivot))
            angle += math.atan2(pivot.imag, pivot.real)
            rows[j], columns[j] = lu.row_at[j] - 1, lu.column_at[j] - 1
        if swaps(lu.size, rows) * swaps(lu.size, columns) < 0:
            angle += math.pi
        out[k] = complex(size, angle - 2.0 * math.pi * math.floor(angle / (2.0 * math.pi) + 0.5))
    return SOLVED
