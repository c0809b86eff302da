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
from hearthline.core.models.signature import FLOW, LIMIT, OPTIONS, SPAN_BYTES, START_MODE, call_kernel

RELTOL, VNTOL, ABSTOL, GMIN_LIMIT, ITERATIONS = range(5)
"""Entries of `limits`: relative step [1], step of voltages [V], of currents [A], gmin at junctions [S], most iterations."""

ROUNDING = 1e-14
"""Share of the largest current under which a step of a branch current means nothing."""

FREE_TURNS, WIDE_STEP, SHORT_STEP = 6, 0.5, 0.15
"""Iterations that may go as far as they like, and the voltages [V] that later ones may go at a time: first wide, then short.
A chain of steep stages swings from side to side otherwise."""

ITERATION_COUNT, LAST_COLUMN, HELPER, CULPRIT = range(4)
COUNTERS = 4
"""What is counted on the way; CULPRIT is 1 + the first flow that is not a number, where there is one."""

SOLVED, NO_CONVERGENCE = int(Outcome.SOLVED), int(Outcome.NO_CONVERGENCE)
SINGULAR, NOT_A_NUMBER, STOPPED = int(Outcome.SINGULAR), int(Outcome.NOT_A_NUMBER), int(Outcome.STOPPED)


class Circuit(NamedTuple):
    """What all lanes share: addresses of the kernels and the span of each, where terminals stand in the work array and in
    the solution, the slopes' slots in the matrix, the number of nets, where each stretch of the work array begins, and
    the addresses of `spans` and `nodes`."""

    kernels: object
    spans: object
    nodes: object
    rows: object
    slots: object
    nets: object
    places: object
    span_address: object
    node_address: object


class State(NamedTuple):
    """What one worker changes as it goes: its work array and the address of it, and views of its stretches by name; the
    matrix, and the same memory as `flat`; the right side in `step`, which ends as the last Newton step."""

    work: object
    address: object
    setting: object
    x: object
    values: object
    memory: object
    flow: object
    slope: object
    readout: object
    flat: object
    matrix: object
    step: object
    counters: object
    flag: object
    limits: object


SETTING_PLACE, X_PLACE, VALUE_PLACE, MEMORY_PLACE, FLOW_PLACE, SLOPE_PLACE, CHARGE_PLACE, CAPACITY_PLACE = range(8)
READOUT_PLACE, NOISE_PLACE, END_PLACE = 8, 9, 10
"""Entries of `places`."""

_F, _M, _I, _N = float64[::1], float64[:, ::1], int64[::1], int32[::1]
CIRCUIT = nb.types.NamedTuple((_I, int64[:, ::1], _N, _N, _I, int64, _I, int64, int64), Circuit)


@nb.njit(inline="always", **OPTIONS)
def assemble(circuit, state):
    """Evaluates every kernel at x into the matrix and the step's right side; returns how many instances were limited.

    Inlined, because handing over two dozen arrays takes as long as the work.
    """
    limited = 0
    for g in range(circuit.kernels.shape[0]):
        span = circuit.span_address + g * SPAN_BYTES
        limited += call_kernel(circuit.kernels[g], FLOW, span, circuit.node_address, state.address)
    right, flat, rows, flow = state.step, state.flat, circuit.rows, state.flow
    slots, slope = circuit.slots, state.slope
    for j in range(right.shape[0]):
        right[j] = 0.0
    for j in range(flat.shape[0]):
        flat[j] = 0.0
    for j in range(rows.shape[0]):
        right[rows[j]] += flow[j]
    for j in range(slots.shape[0]):
        flat[slots[j]] += slope[j]
    return limited


@nb.njit(inline="always", **OPTIONS)
def largest_flow(state):
    """The largest current anywhere: branch currents cannot be known better than its rounding."""
    largest = 0.0
    for j in range(state.flow.shape[0]):
        largest = max(largest, abs(state.flow[j]))
    return largest


@nb.njit(inline="always", **OPTIONS)
def shorten(step, x, nets, turn):
    """Keeps the steps of voltages short, where long ones have led in circles; whether any was shortened."""
    most, shortened = (WIDE_STEP if turn < 3 * FREE_TURNS else SHORT_STEP), False
    for i in range(1, nets + 1):
        allowed = most + 0.1 * abs(x[i])
        if abs(step[i]) > allowed:
            step[i] = math.copysign(allowed, step[i])
            shortened = True
    return shortened


@nb.njit(**OPTIONS)
def find_culprit(state):
    """Whether a device gave a value that is not a number; which flow that is goes into the counters."""
    for j in range(state.flow.shape[0]):
        if not math.isfinite(state.flow[j]):
            state.counters[CULPRIT] = j + 1
            return True
    for j in range(state.slope.shape[0]):
        if not math.isfinite(state.slope[j]):
            state.counters[CULPRIT] = 0
            return True
    return False


@nb.njit(**OPTIONS)
def newton(circuit, state, shunt):
    """Iterates x to the solution, with a conductance `shunt` [S] from every net to ground. Returns an Outcome.

    Converged when nothing was limited and no unknown moved by more than its tolerance; the last step of a quadratic
    method leaves an error far below it.
    """
    x, step, matrix, limits, counters = state.x, state.step, state.matrix, state.limits, state.counters
    size = x.shape[0]
    for turn in range(int(limits[ITERATIONS])):
        if state.flag[0] != 0:
            return STOPPED
        counters[ITERATION_COUNT] += 1
        limited = assemble(circuit, state)
        for i in range(1, circuit.nets + 1):
            matrix[i, i] += shunt
            step[i] += shunt * x[i]
        column = dense.solve(matrix, step, size)
        finite = True
        for i in range(1, size):
            finite = finite and math.isfinite(step[i])
        if column != 0 or not finite:
            counters[LAST_COLUMN], counters[CULPRIT] = column, 0
            bad = find_culprit(state)
            return NOT_A_NUMBER if bad or column == 0 else SINGULAR
        settled = limited == 0
        rounding = ROUNDING * largest_flow(state)
        if turn >= FREE_TURNS and shorten(step, x, circuit.nets, turn):
            settled = False
        for i in range(1, size):
            after = x[i] - step[i]
            least = limits[VNTOL] if i <= circuit.nets else limits[ABSTOL] + rounding
            if abs(step[i]) > limits[RELTOL] * max(abs(after), abs(x[i])) + least:
                settled = False
            x[i] = after
        state.setting[START_MODE] = LIMIT
        if settled:
            return SOLVED
    return NO_CONVERGENCE
