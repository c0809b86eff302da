"""Impedances both ways at connections between terminals and nets, for many connections with one factorisation a frequency.

The connection is cut in the equations: with the part's end 1 V above the net, and with 1 A into the net, what happens follows
from the impedances between the unknowns, which are columns of the inverse, and from what the part itself has at that terminal.
"""

from __future__ import annotations

import math

import numba as nb
import numpy as np
from numba import complex128, float64, int64

from hearthline.core.engine.kernels.small_signal import COMPLEX_ROOM, fill_at, system_at
from hearthline.core.engine.linear import sparse
from hearthline.core.engine.newton import SINGULAR, SOLVED, STOPPED
from hearthline.core.engine.pointers import pointer
from hearthline.core.engine.worker import CIRCUIT, MEMORY
from hearthline.core.models.calling import OPTIONS

_F, _I, _T, _ZM = float64[::1], int64[::1], int64[:, ::1], complex128[:, ::1]

SERIES_VOLTAGE, SERIES_CURRENT, NODE_VOLTAGE, NODE_CURRENT = range(4)
"""What is found: voltage of the net [V/V] and current into the part [S] with 1 V between its end and the net; then both with
1 A into the net [Ω, A/A]."""


@nb.njit(**OPTIONS)
def entries_at(worker, omega, gains, terms, admittances):
    """What the parts have at a frequency: the admittance of each term."""
    for j in range(terms.shape[0]):
        k = terms[j, 1]
        if terms[j, 0] == 0:
            admittances[j] = complex(worker.conductance[k], 0.0)
        else:
            admittances[j] = complex(0.0, omega * worker.capacitance[k])
        if terms[j, 6] >= 0:
            admittances[j] += gains[terms[j, 6]]


@nb.njit(
    int64(CIRCUIT, MEMORY, COMPLEX_ROOM, _F, _F, _I, _ZM, _F, _T, _T, _I, _I, complex128[:, :, ::1], _I, _I, int64, _F),
    **OPTIONS,
)
def look(
    circuit, memory, room, values, x, entries, gains, frequencies, connections, terms, wanted, place, out, flag, progress,
    share, limits,
):  # fmt: skip
    """out (connections, frequencies, 4), see `SERIES_VOLTAGE` and what follows. An Outcome.

    `connections` (connections, 3): the net's unknown, where its terms begin, and where they end. `terms` (terms, 7): 0 for a
    conductance or 1 for a capacitance, its place among these, row and column as unknowns, whether the row is at that
    terminal, whether the column is, its place among `gains` or -1. `wanted` are unknowns whose columns of the inverse are
    needed, `place` (unknowns + 1,) where each stands among them, or -1.
    """
    worker, conductance, capacitance, matrix, _ = system_at(circuit, memory, values, x, flag, limits)
    lu = sparse.lu_in(room)
    inverse = np.zeros((wanted.shape[0], worker.size), np.complex128)
    own = np.zeros(terms.shape[0], np.complex128)
    for k in range(frequencies.shape[0]):
        if flag[0] != 0:
            return STOPPED
        omega = 2.0 * math.pi * frequencies[k]
        if fill_at(worker, lu, conductance, capacitance, omega, entries, gains[k], matrix) != sparse.GOOD:
            return SINGULAR
        for j in range(wanted.shape[0]):
            inverse[j, :] = 0.0
            inverse[j, wanted[j]] = 1.0
            sparse.solve(lu, pointer(inverse, j * worker.size))
        entries_at(worker, omega, gains[k], terms, own)
        for c in range(connections.shape[0]):
            net, begin, end = connections[c, 0], connections[c, 1], connections[c, 2]
            voltage, current, through = 0.0j, 0.0j, 0.0j
            for a in range(begin, end):
                row = terms[a, 2]
                if terms[a, 5] == 1:  # 1 V at this column: it sends a current into this row
                    if terms[a, 4] == 1:
                        current += own[a]
                    if row > 0:
                        voltage -= inverse[place[row], net] * own[a]
                        for b in range(begin, end):
                            if terms[b, 4] == 1:
                                current -= own[b] * inverse[place[row], terms[b, 3]] * own[a]
                if terms[a, 4] == 1 and net > 0:
                    through += own[a] * inverse[place[net], terms[a, 3]]
            out[c, k, 0], out[c, k, 1] = voltage, current
            out[c, k, 2] = inverse[place[net], net] if net > 0 else 0.0j
            out[c, k, 3] = through
        progress[share] += 1
    return SOLVED
