"""Newton's method on one lane, compiled.

F(x) = 0 with F the sum of all flows into each net and the branch equations; each kernel's tangents fill the matrix.
The state of an attempt is in the arrays handed in, so that nothing is remembered between runs.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numba as nb
from numba import float64, int32, int64

from hearthline.core.engine import dense
from hearthline.core.engine.outcome import Outcome
from hearthline.core.engine.signature import FLOW, KERNELS, LIMIT, OPTIONS, START_MODE

RELTOL, VNTOL, ABSTOL, GMIN_LIMIT, ITERATIONS = range(5)
"""Entries of `limits`: relative step [1], step of voltages [V], of currents [A], gmin at junctions [S], most iterations."""

ITERATION_COUNT, LAST_COLUMN, HELPER = range(3)
COUNTERS = 3

SOLVED, NO_CONVERGENCE = int(Outcome.SOLVED), int(Outcome.NO_CONVERGENCE)
SINGULAR, NOT_A_NUMBER, STOPPED = int(Outcome.SINGULAR), int(Outcome.NOT_A_NUMBER), int(Outcome.STOPPED)


class Circuit(NamedTuple):
    """What all lanes share: compiled kernels, the span of each, terminal indices, slopes' slots, number of nets."""

    kernels: object
    spans: object
    nodes: object
    slots: object
    nets: object


class State(NamedTuple):
    """What one worker changes as it goes, and the values of the lane it is at. `step` ends as the last Newton step."""

    values: object
    memory: object
    setting: object
    x: object
    flow: object
    slope: object
    charge: object
    capacity: object
    readout: object
    matrix: object
    step: object
    counters: object
    control: object
    limits: object


_F, _M, _I = float64[::1], float64[:, ::1], int64[::1]
CIRCUIT = nb.types.NamedTuple((KERNELS, int64[:, ::1], int32[::1], _I, int64), Circuit)
STATE = nb.types.NamedTuple((_F, _F, _F, _F, _F, _F, _F, _F, _F, _M, _F, _I, _I, _F), State)


@nb.njit(int64(CIRCUIT, STATE), **OPTIONS)
def assemble(circuit, state):
    """Evaluates every kernel at x into the matrix and the step's right side; returns how many instances were limited."""
    kernels, right, matrix = circuit.kernels, state.step, state.matrix
    limited = 0
    for g in range(len(kernels)):
        limited += kernels[g](
            FLOW, circuit.spans[g], state.x, circuit.nodes, state.values, state.memory, state.setting,
            state.flow, state.slope, state.charge, state.capacity, state.readout,
        )  # fmt: skip
    right[:] = 0.0
    matrix[:, :] = 0.0
    flat = matrix.reshape(matrix.size)
    for j in range(circuit.nodes.shape[0]):
        right[circuit.nodes[j]] += state.flow[j]
    for j in range(circuit.slots.shape[0]):
        flat[circuit.slots[j]] += state.slope[j]
    return limited


@nb.njit(int64(CIRCUIT, STATE, float64), **OPTIONS)
def newton(circuit, state, shunt):
    """Iterates x to the solution, with a conductance `shunt` [S] from every net to ground. Returns an Outcome.

    Converged when nothing was limited and no unknown moved by more than its tolerance; the last step of a quadratic
    method leaves an error far below it.
    """
    x, step, matrix, limits, counters = state.x, state.step, state.matrix, state.limits, state.counters
    size = x.shape[0]
    for _ in range(int(limits[ITERATIONS])):
        if state.control[0] != 0:
            return STOPPED
        counters[ITERATION_COUNT] += 1
        limited = assemble(circuit, state)
        for i in range(1, circuit.nets + 1):
            matrix[i, i] += shunt
            step[i] += shunt * x[i]
        column = dense.solve(matrix, step, size)
        if column != 0:
            counters[LAST_COLUMN] = column
            return SINGULAR
        settled = limited == 0
        for i in range(1, size):
            after = x[i] - step[i]
            if not math.isfinite(after):
                counters[LAST_COLUMN] = i
                return NOT_A_NUMBER
            least = limits[VNTOL] if i <= circuit.nets else limits[ABSTOL]
            if abs(step[i]) > limits[RELTOL] * max(abs(after), abs(x[i])) + least:
                settled = False
            x[i] = after
        state.setting[START_MODE] = LIMIT
        if settled:
            return SOLVED
    return NO_CONVERGENCE
