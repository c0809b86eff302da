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
from hearthline.core.engine.pointers import copy
from hearthline.core.engine.residual import unbalanced
from hearthline.core.engine.worker import (
    ABSTOL,
    BEND,
    CULPRIT,
    ITERATION_COUNT,
    ITERATIONS,
    LAST_COLUMN,
    RELTOL,
    VNTOL,
)  # fmt: skip
from hearthline.core.models.calling import call_kernel
from hearthline.core.models.layout import SPAN_BYTES
from hearthline.core.models.signature import CHARGE, CURRENT, LIMIT, PREPARE, REST, START_MODE
from hearthline.core.outcome import Outcome

ROUNDING = 1e-14
"""Share of the largest current under which a step of a branch current means nothing."""

HOLD = 1e6
"""Conductance [S] that keeps a net at a voltage while the operating point is sought."""

CONTRACTED = 0.3
"""Share of its tolerance that the next step of a time step's Newton may be expected to be, from how the last two shrank: then
it need not be made. Operating points are always confirmed."""

MOST_AT_ONCE, CAUTION, FORGETS = 1e4, 2.0, 1.02
"""Distance beyond which one iteration is never enough; how much larger a bend is taken than it was seen, and how it grows with
each step that relies on it."""
ONE = np.uint64(1)

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
def take_values(worker, values):
    """The numbers of all devices in a lane; kernels make of them what they need before they are evaluated."""
    copy(worker.values, values, worker.value_count)
    evaluate(worker, PREPARE)


@inner
def sum_charges(worker, total):
    """Adds up the charges at each unknown."""
    starts, sources, charge = worker.charge_starts, worker.charge_from, worker.charge
    for i in range(np.uint64(worker.size)):
        here = 0.0
        for p in range(starts[i], starts[i + ONE]):
            here += charge[sources[p]]
        total[i] = here


@inner
def fill_matrix(worker, per_second):
    """Puts what the kernels gave into the matrix, an entry at a time."""
    matrix, conductance, capacitance = worker.matrix, worker.conductance, worker.capacitance
    starts, sources = worker.entry_starts, worker.entry_from
    charged_starts, charged = worker.charged_starts, worker.charged_from
    last = np.uint64(worker.entries - 1)
    if per_second == 0.0:
        for e in range(last):
            total = 0.0
            for p in range(starts[e], starts[e + ONE]):
                total += conductance[sources[p]]
            matrix[e] = total
    else:
        for e in range(last):
            total, second = 0.0, 0.0
            for p in range(starts[e], starts[e + ONE]):
                total += conductance[sources[p]]
            for p in range(charged_starts[e], charged_starts[e + ONE]):
                second += capacitance[charged[p]]
            matrix[e] = total + per_second * second
    matrix[last] = 0.0


@inner
def assemble(worker, per_second):
    """Puts what the kernels gave into the matrix and the step's right side; returns the largest current [A]."""
    fill_matrix(worker, per_second)
    right, current, charge, history = worker.step, worker.current, worker.charge, worker.history
    starts, sources = worker.row_starts, worker.row_from
    charge_starts, charges = worker.charge_starts, worker.charge_from
    largest = 0.0
    right[0] = 0.0
    for i in range(ONE, np.uint64(worker.size)):
        total = 0.0
        for p in range(starts[i], starts[i + ONE]):
            part = current[sources[p]]
            total += part
            largest = max(largest, abs(part))
        if per_second != 0.0:
            second = 0.0
            for p in range(charge_starts[i], charge_starts[i + ONE]):
                second += charge[charges[p]]
            total += per_second * second - history[i]
        right[i] = total
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
def at_once(limits, turn, distance, before):
    """Whether the first iteration of a time step is the last: Newton converges quadratically, so that the next step would be
    `limits[BEND]` times the square of this one. How much that is is seen wherever a second iteration is made; it is taken
    for larger than it was, and for larger still the longer ago that is."""
    if turn == 0 and distance < MOST_AT_ONCE and limits[BEND] * distance * distance <= 1.0:
        limits[BEND] *= FORGETS
        return True
    if turn == 1 and before > 0.0:
        seen = CAUTION * distance / (before * before)
        limits[BEND] = max(seen, 0.5 * limits[BEND]) if limits[BEND] < 1e300 else seen
    return False


@inner
def newton(worker, shunt, per_second):
    """Iterates x to the solution, with a conductance `shunt` [S] from every net to its anchor. Returns an Outcome.

    Converged when nothing was limited, no unknown moved by more than its tolerance (the last step of a quadratic method
    leaves an error far below it), and the currents at every net added up before that step.
    """
    x, step, limits, counters, size = worker.x, worker.step, worker.limits, worker.counters, worker.size
    wants = CURRENT if per_second == 0.0 else CURRENT | CHARGE | REST
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
        if per_second != 0.0 and at_once(limits, turn, distance, before):
            return SOLVED
        if distance <= 1.0:
            if unbalanced(worker, per_second, largest, limits[ABSTOL] + rounding) == 0:
                return SOLVED
            if distance == 0.0:
                return UNBALANCED  # it would stand here for ever
        elif per_second != 0.0 and distance * distance <= CONTRACTED * before:
            return SOLVED
    return NO_CONVERGENCE
