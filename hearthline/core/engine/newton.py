"""Newton's method on one lane, compiled.

F(x) = f(x) + a·q(x) - history = 0 with f the sum of all currents into each net and the branch equations and q the charges;
at direct current a is 0. Each kernel's tangents fill the matrix. The state of an attempt is in the worker, so that
nothing is remembered between runs.
"""

from __future__ import annotations

import math

import numpy as np

from hearthline.core.compiled.jit import inner
from hearthline.core.engine.linear import sparse
from hearthline.core.engine.pointers import copy, put
from hearthline.core.engine.residual import unbalanced
from hearthline.core.engine.worker import (
    ABSTOL,
    CULPRIT,
    ITERATION_COUNT,
    ITERATIONS,
    LAST_COLUMN,
    RELTOL,
    VNTOL,
)  # fmt: skip
from hearthline.core.models.calling import call_kernel
from hearthline.core.models.layout import SPAN_BYTES
from hearthline.core.models.signature import CHARGE, CURRENT, LIMIT, START_MODE
from hearthline.core.outcome import Outcome

ROUNDING = 1e-14
"""Share of the largest current under which a step of a branch current means nothing."""

HOLD = 1e6
"""Conductance [S] that keeps a net at a voltage while the operating point is sought."""

CONTRACTED = 0.3
"""Share of its tolerance that the next step of a time step's Newton may be expected to be, from how the last two shrank: then
it need not be made. Operating points are always confirmed."""

FREE_TURNS, WIDE_STEP, SHORT_STEP = 6, 0.5, 0.15
"""Iterations that may go as far as they like, and the voltages [V] that later ones may go at a time: first wide, then short.
A chain of steep stages swings from side to side otherwise."""

SOLVED, NO_CONVERGENCE = int(Outcome.SOLVED), int(Outcome.NO_CONVERGENCE)
SINGULAR, NOT_A_NUMBER, STOPPED = int(Outcome.SINGULAR), int(Outcome.NOT_A_NUMBER), int(Outcome.STOPPED)
TOO_FULL, UNBALANCED, CARRIED = int(Outcome.TOO_FULL), int(Outcome.UNBALANCED), int(Outcome.CARRIED)


@inner
def evaluate(worker, wants):
    """Calls every kernel at x; returns how many instances were limited."""
    limited = 0
    for g in range(worker.groups):
        limited += call_kernel(worker.kernels[g], wants, worker.spans + g * SPAN_BYTES, worker.nodes, worker.work)
    return limited


@inner
def sum_charges(worker, total):
    """Adds up the charges at each unknown."""
    put(total, 0.0, worker.size)
    for j in range(worker.currents):
        total[worker.rows[j]] += worker.charge[j]


@inner
def assemble(worker, per_second):
    """Puts what the kernels gave into the matrix and the step's right side; returns the largest current [A]."""
    right, matrix, current, rows = worker.step, worker.matrix, worker.current, worker.rows
    for j in range(worker.size):
        right[j] = 0.0
    for j in range(worker.entries):
        matrix[j] = 0.0
    largest = 0.0
    for j in range(np.uint64(worker.currents)):
        right[rows[j]] += current[j]
        largest = max(largest, abs(current[j]))
    slots, conductance = worker.slots, worker.conductance
    for j in range(np.uint64(worker.conductances)):
        matrix[slots[j]] += conductance[j]
    if per_second != 0.0:
        charge, capacitance, capacitance_slots, history = (
            worker.charge,
            worker.capacitance,
            worker.capacitance_slots,
            worker.history,
        )
        for j in range(np.uint64(worker.currents)):
            right[rows[j]] += per_second * charge[j]
        for j in range(np.uint64(worker.capacitances)):
            matrix[capacitance_slots[j]] += per_second * capacitance[j]
        for j in range(worker.size):
            right[j] -= history[j]
    return largest


@inner
def add_conductances(worker, shunt):
    """A conductance `shunt` [S] from every net to its anchor, and whatever holds nets at given voltages."""
    right, matrix, x = worker.step, worker.matrix, worker.x
    if shunt != 0.0:
        for i in range(1, worker.nets + 1):
            matrix[worker.diagonal[i]] += shunt
            right[i] += shunt * (x[i] - worker.anchor[i])
    for k in range(worker.held_count):
        i = np.int64(worker.held[k])
        matrix[worker.diagonal[i]] += HOLD
        right[i] += HOLD * (x[i] - worker.held_at[k])


@inner
def shorten(step, x, nets, turn):
    """Keeps the steps of voltages short, where long ones have led in circles; whether any was shortened."""
    maximum, shortened = (WIDE_STEP if turn < 3 * FREE_TURNS else SHORT_STEP), False
    for i in range(1, nets + 1):
        allowed = maximum + 0.1 * abs(x[i])
        if abs(step[i]) > allowed:
            step[i] = math.copysign(allowed, step[i])
            shortened = True
    return shortened


@inner
def find_culprit(worker):
    """Whether a device gave a value that is not a number; which current that is goes into the counters."""
    worker.counters[CULPRIT] = 0
    for j in range(worker.currents):
        if not math.isfinite(worker.current[j]):
            worker.counters[CULPRIT] = j + 1
            return True
    return not all_finite(worker.conductance, worker.conductances)


@inner
def all_finite(vector, size):
    """Whether all of it are numbers."""
    finite = True
    for i in range(size):
        finite = finite and math.isfinite(vector[i])
    return finite


@inner
def newton(worker, shunt, per_second):
    """Iterates x to the solution, with a conductance `shunt` [S] from every net to its anchor. Returns an Outcome.

    Converged when nothing was limited, no unknown moved by more than its tolerance (the last step of a quadratic method
    leaves an error far below it), and the currents at every net added up before that step.
    """
    x, step, limits, counters, size = worker.x, worker.step, worker.limits, worker.counters, worker.size
    wants = CURRENT if per_second == 0.0 else CURRENT | CHARGE
    distance = 0.0
    for turn in range(int(limits[ITERATIONS])):
        if worker.flag[0] != 0:
            return STOPPED
        counters[ITERATION_COUNT] += 1
        limited = evaluate(worker, wants)
        largest = assemble(worker, per_second)
        add_conductances(worker, shunt)
        copy(worker.residual, step, size)
        done = sparse.fill(worker.lu, worker.matrix)
        if done == sparse.FULL:
            return TOO_FULL
        if done == sparse.GOOD:
            sparse.solve(worker.lu, step)
        if done != sparse.GOOD or not all_finite(step, size):
            counters[LAST_COLUMN] = done
            if find_culprit(worker):
                return NOT_A_NUMBER
            return NO_CONVERGENCE if done == sparse.GOOD else SINGULAR
        settled, before, distance = limited == 0, distance, 0.0
        rounding = ROUNDING * largest
        if turn >= FREE_TURNS and shorten(step, x, worker.nets, turn):
            settled = False
        for i in range(1, size):
            after = x[i] - step[i]
            minimum = limits[VNTOL] if i <= worker.nets else limits[ABSTOL] + rounding
            distance = max(distance, abs(step[i]) / (limits[RELTOL] * max(abs(after), abs(x[i])) + minimum))
            x[i] = after
        worker.setting[START_MODE] = LIMIT
        if not settled:
            continue
        if distance <= 1.0:
            if unbalanced(worker, per_second, largest, limits[ABSTOL] + rounding) == 0:
                return SOLVED
            if distance == 0.0:
                return UNBALANCED  # it would stand here for ever
        elif per_second != 0.0 and distance * distance <= CONTRACTED * before:
            return SOLVED
    return NO_CONVERGENCE
