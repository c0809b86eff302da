"""Impedances both ways at connections between terminals and nets, for many connections with one factorisation a frequency.

The connection is cut in the equations: with the part's end 1 V above the net, and with 1 A into the net, what happens follows
from the impedances between the unknowns, which are entries of the inverse, and from what the part itself has at that terminal.
Nearly all of these entries stand where the factors have some; where one does not, its column is solved for.
"""

from __future__ import annotations

import math

import numpy as np

from hearthline.core.compiled.codes import IM, INT, ZM, ZT, F, I
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.kernels.small_signal import COMPLEX_ROOM, fill_at, system_at
from hearthline.core.engine.linear import sparse
from hearthline.core.engine.linear.inverse import DENSE, inverse_within, known_entries, rows_of_upper
from hearthline.core.engine.newton import SINGULAR, SOLVED, STOPPED
from hearthline.core.engine.pointers import pointer
from hearthline.core.engine.worker import CIRCUIT, MEMORY

SERIES_VOLTAGE, SERIES_CURRENT, NODE_VOLTAGE, NODE_CURRENT = range(4)
"""What is found: voltage of the net [V/V] and current into the part [S] with 1 V between its end and the net; then both with
1 A into the net [Ω, A/A]."""


@inner
def _alive(worker, connections, terms, begins, real, slope, gain, down, along, both):
    """The terms that have something, connection after connection: conductance, capacitance, place among the gains, where their
    sums belong, and whether row and column are the terminal's. Gives back how many; they begin at `begins`."""
    count = 0
    for c in range(connections.shape[0]):
        begins[c] = count
        for a in range(connections[c, 1], connections[c, 2]):
            g = worker.conductance[terms[a, 0]] if terms[a, 0] >= 0 else 0.0
            q = worker.capacitance[terms[a, 1]] if terms[a, 1] >= 0 else 0.0
            if g == 0.0 and q == 0.0 and terms[a, 6] < 0:
                continue
            real[count], slope[count], gain[count] = g, q, terms[a, 6]
            down[count], along[count] = terms[a, 7], terms[a, 8]
            both[count] = terms[a, 4] * terms[a, 5]
            count += 1
    begins[connections.shape[0]] = count


@inner
def _same_pivots(lu, rows, columns):
    """Whether the pivots are where they were; remembers where they are."""
    same = True
    for k in range(lu.size):
        row, column = np.int64(lu.row_at[k]), np.int64(lu.column_at[k])
        if rows[row] != k or columns[column] != k:
            same = False
            rows[row], columns[column] = k, k
    return same


@inner
def _mark_whole(connections, lists, row_steps, column_steps, known, whole):
    """Marks equations of which a column of the inverse is needed where it has no known entry."""
    for c in range(connections.shape[0]):
        net = connections[c, 0]
        for a in range(connections[c, 3], connections[c, 4] + 1):
            row = lists[a] if a < connections[c, 4] else net
            if row == 0:
                continue
            if net > 0 and known[column_steps[net], row_steps[row]] == 0:
                whole[row] = 1
            for b in range(connections[c, 4], connections[c, 5]):
                if known[column_steps[lists[b]], row_steps[row]] == 0:
                    whole[row] = 1


@entry(CIRCUIT, MEMORY, COMPLEX_ROOM, F, F, I, ZM, F, IM, IM, I, ZT, I, I, INT, F)
def look(
    circuit, memory, room, values, x, entries, gains, frequencies, connections, terms, lists, out, flag, progress,
    share, limits,
):  # fmt: skip
    """out (connections, frequencies, 4), see `SERIES_VOLTAGE` and what follows. An Outcome.

    `connections` (connections, 6): the net's unknown, where its terms begin and end, and where in `lists` the unknowns begin
    whose equations hold what its column drives, where those begin that drive its row, and where they end. `terms` (terms, 9):
    its place among the conductances and among the capacitances or -1, row and column as unknowns, whether the row is at that
    terminal, whether the column is, its place among `gains` or -1, and its places in these two stretches of `lists` or -1.
    """
    worker, conductance, capacitance, matrix, _ = system_at(circuit, memory, values, x, flag, limits)
    lu = sparse.lu_in(room)
    size, n = worker.size, np.int64(lu.size)
    dense = n <= DENSE
    square = n if dense else 1
    z, known = np.zeros((square, square), np.complex128), np.zeros((square, square), np.uint8)
    starts, columns, places = np.zeros(n + 1, np.int64), np.zeros(lu.room, np.int64), np.zeros(lu.room, np.int64)
    row_steps, column_steps = np.full(size, -1, np.int64), np.full(size, -1, np.int64)
    whole, place = np.zeros(size, np.uint8), np.full(size, -1, np.int64)
    full = np.zeros((1, size), np.complex128)
    amount = terms.shape[0]
    begins, gain, both = (
        np.zeros(connections.shape[0] + 1, np.int64),
        np.zeros(amount, np.int64),
        np.zeros(amount, np.int64),
    )
    real, slope = np.zeros(amount), np.zeros(amount)
    down_at, along_at = np.zeros(amount, np.int64), np.zeros(amount, np.int64)
    longest = 1
    for c in range(connections.shape[0]):
        longest = max(longest, connections[c, 5] - connections[c, 3])
    down, along = np.zeros(longest, np.complex128), np.zeros(longest, np.complex128)
    for k in range(frequencies.shape[0]):
        if flag[0] != 0:
            return STOPPED
        omega = 2.0 * math.pi * frequencies[k]
        if fill_at(worker, lu, conductance, capacitance, omega, entries, gains[k], matrix) != sparse.GOOD:
            return SINGULAR
        if not _same_pivots(lu, row_steps, column_steps) or k == 0:
            whole[:] = 0
            if dense:
                rows_of_upper(lu, starts, columns, places)
                known_entries(lu, starts, columns, known)
                _mark_whole(connections, lists, row_steps, column_steps, known, whole)
            else:
                for k_list in range(lists.shape[0]):
                    whole[lists[k_list]] = 1
                for c in range(connections.shape[0]):
                    whole[connections[c, 0]] = 1
            whole[0] = 0
            count = 0
            for row in range(size):
                place[row] = -1
                if whole[row] == 1:
                    place[row] = count
                    count += 1
            full = np.zeros((max(count, 1), size), np.complex128)
        if dense:
            inverse_within(lu, starts, columns, places, z)
        for row in range(size):
            if whole[row] == 1:
                full[place[row], :] = 0.0
                full[place[row], row] = 1.0
                sparse.solve(lu, pointer(full, place[row] * size))
        if k == 0:  # the slopes stay as they are
            _alive(worker, connections, terms, begins, real, slope, gain, down_at, along_at, both)
        for c in range(connections.shape[0]):
            net = connections[c, 0]
            first, middle, last = connections[c, 3], connections[c, 4], connections[c, 5]
            voltage, current, through = 0.0j, 0.0j, 0.0j
            for a in range(last - first):
                down[a], along[a] = 0.0, 0.0
            for a in range(begins[c], begins[c + 1]):
                own = complex(real[a], omega * slope[a])
                if gain[a] >= 0:
                    own += gains[k, gain[a]]
                if down_at[a] >= 0:
                    down[down_at[a]] += own
                if along_at[a] >= 0:
                    along[along_at[a]] += own
                if both[a] == 1:
                    current += own
            for a in range(first, middle):
                row, driven = lists[a], down[a - first]
                seen, at_net = 0.0j, 0.0j
                if whole[row] == 1:
                    column = full[place[row]]
                    at_net = column[net]
                    for b in range(middle, last):
                        seen += along[b - middle] * column[lists[b]]
                else:
                    step = row_steps[row]
                    at_net = z[column_steps[net], step] if net > 0 else 0.0j
                    for b in range(middle, last):
                        seen += along[b - middle] * z[column_steps[lists[b]], step]
                voltage -= at_net * driven
                current -= seen * driven
            itself = 0.0j
            if net > 0:
                if whole[net] == 1:
                    column = full[place[net]]
                    itself = column[net]
                    for b in range(middle, last):
                        through += along[b - middle] * column[lists[b]]
                else:
                    step = row_steps[net]
                    itself = z[column_steps[net], step]
                    for b in range(middle, last):
                        through += along[b - middle] * z[column_steps[lists[b]], step]
            out[c, k, 0], out[c, k, 1], out[c, k, 2], out[c, k, 3] = voltage, current, itself, through
        progress[share] += 1
    return SOLVED
