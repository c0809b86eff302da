"""What helps Newton's method to a first solution where it has no neighbour to start from: compiled.

Each continuation starts from a problem that is easy and walks to the wanted one in steps that adapt.
"""

from __future__ import annotations

import math

import numpy as np

from hearthline.core.compiled.jit import inner
from hearthline.core.engine.newton import CARRIED, NO_CONVERGENCE, SOLVED, STOPPED, evaluate, newton
from hearthline.core.engine.pointers import copy, pointer, put
from hearthline.core.engine.worker import ABSTOL, CARRIED_NET, CONTINUATION
from hearthline.core.models.signature import CURRENT, SCALE, START, START_MODE, TRUST
from hearthline.core.outcome import Continuation

GMIN_STEPPING, SOURCE_STEPPING = int(Continuation.GMIN_STEPPING), int(Continuation.SOURCE_STEPPING)
PSEUDO_TRANSIENT, GMIN_LEFT = int(Continuation.PSEUDO_TRANSIENT), int(Continuation.GMIN_LEFT)
OTHER_START = int(Continuation.OTHER_START)
FIRST_SHUNT, LEAST_SHUNT = 1e-2, 1e-12
"""Conductance from every net to ground [S] at which gmin stepping begins, and the last before it is taken away."""
STARTS = (0.1, -0.1, 1.5, -1.5, 5.0)
"""Voltages of all nets [V] to begin from where nothing else has helped."""
CARRIED_SHARE = 1e-3
"""Of the currents at a net, that a conductance which could not be taken away may carry, and of its voltage [V], that this may
move with it, if what came out is to stand."""
PSEUDO_STEPS = 400
"""How often pseudo-transient may step in time."""


@inner
def step_gmin(worker, shunt, per_second):
    """Solves with a large conductance to ground and takes it away bit by bit, in smaller bits where that fails.

    Ends at `shunt`; where only 1e-12 S could be reached, that stays and the counters say so.
    """
    x, memory, setting = worker.x, worker.memory, worker.setting
    good, good_memory = np.zeros(worker.size), np.zeros(worker.memory_count)
    put(x, 0.0, worker.size)
    setting[START_MODE] = START
    now, factor, reached = FIRST_SHUNT, 10.0, 0.0
    while True:
        outcome = newton(worker, now, per_second)
        if outcome == STOPPED:
            return outcome
        if outcome == SOLVED:
            _save(worker, good, good_memory)
            reached = now
            if now <= shunt:
                return SOLVED
            if now <= LEAST_SHUNT:
                break
            factor = min(10.0, factor**1.5)
        else:
            if reached == 0.0 or factor < 1.05:
                return outcome
            _restore(worker, good, good_memory)
            factor = math.sqrt(factor)
        now = max(reached / factor if reached > 0.0 else now, LEAST_SHUNT, shunt)
    outcome = newton(worker, shunt, per_second)
    if outcome != SOLVED and outcome != STOPPED:
        copy(x, pointer(good, 0), worker.size)
        copy(memory, pointer(good_memory, 0), worker.memory_count)
        worker.counters[CONTINUATION] = GMIN_LEFT
        return SOLVED
    return outcome


@inner
def _save(worker, good, good_memory):
    copy(pointer(good, 0), worker.x, worker.size)
    copy(pointer(good_memory, 0), worker.memory, worker.memory_count)


@inner
def _restore(worker, good, good_memory):
    copy(worker.x, pointer(good, 0), worker.size)
    copy(worker.memory, pointer(good_memory, 0), worker.memory_count)


@inner
def step_sources(worker, shunt, per_second):
    """Raises all independent sources from zero, in steps that adapt."""
    x, setting = worker.x, worker.setting
    good, good_memory = np.zeros(worker.size), np.zeros(worker.memory_count)
    put(x, 0.0, worker.size)
    setting[START_MODE], setting[SCALE] = START, 0.0
    reached, step = -1.0, 0.1
    outcome = NO_CONVERGENCE
    while True:
        outcome = newton(worker, shunt, per_second)
        if outcome == SOLVED:
            _save(worker, good, good_memory)
            reached = setting[SCALE]
            if reached >= 1.0:
                break
            step = min(0.25, 1.5 * step)
        elif outcome == STOPPED or reached < 0.0 or step < 1e-4:
            break
        else:
            _restore(worker, good, good_memory)
            step *= 0.3
        setting[SCALE] = min(1.0, max(reached, 0.0) + step)
    setting[SCALE] = 1.0
    return outcome


@inner
def pseudo_transient(worker, shunt, per_second):
    """Follows the circuit from nothing to rest with a capacitor at every net, in steps that grow (Kelley and Keyes 1998).

    Each step is `(x - anchor)·conductance` at every net, anchored at the step before; the conductance falls as it settles.
    """
    x, setting = worker.x, worker.setting
    good, good_memory = np.zeros(worker.size), np.zeros(worker.memory_count)
    put(x, 0.0, worker.size)
    setting[START_MODE] = START
    conductance, outcome = 1.0, NO_CONVERGENCE
    for _ in range(PSEUDO_STEPS):
        outcome = newton(worker, conductance, per_second)
        if outcome == STOPPED:
            break
        if outcome == SOLVED:
            _save(worker, good, good_memory)
            if conductance <= LEAST_SHUNT:
                break
            conductance *= 0.3
        else:
            _restore(worker, good, good_memory)
            setting[START_MODE] = TRUST
            conductance *= 8.0
            if conductance > 1e6:
                break
        copy(worker.anchor, pointer(good, 0), worker.size)
    put(worker.anchor, 0.0, worker.size)
    if outcome != SOLVED:
        return outcome
    return newton(worker, shunt, per_second)


@inner
def find_start(worker, shunt, per_second):
    """The solution with no neighbour to start from: plain Newton from x, then each help in turn.

    `per_second` is 0 for an operating point, and the factor of the charges for a step in time.
    """
    outcome = _with_helps(worker, shunt, per_second)
    if outcome == SOLVED or outcome == STOPPED:
        return outcome
    for start in STARTS:  # away from 0, where the slope of a root is infinite and of a logarithm there is none
        put(worker.x, start, worker.size)
        worker.x[0] = 0.0
        worker.setting[START_MODE] = TRUST
        if newton(worker, shunt, per_second) == SOLVED:
            worker.counters[CONTINUATION] = OTHER_START
            return SOLVED
    if worker.counters[CONTINUATION] == GMIN_LEFT:
        return CARRIED
    # once more without help: what moves then tells a person more than where a help gave up
    put(worker.x, 0.0, worker.size)
    worker.setting[START_MODE], worker.counters[CONTINUATION] = START, 0
    return newton(worker, shunt, per_second)


@inner
def carried(worker, per_second):
    """The net that only LEAST_SHUNT from every net to ground holds where it is, or 0: of the solution in x with that shunt.

    It carries a share of what flows there, or the voltage moves with it when ten times as much is added.
    """
    x, size, sums = worker.x, worker.size, worker.spare
    evaluate(worker, CURRENT)
    put(sums, 0.0, size)
    for j in range(worker.currents):
        sums[worker.rows[j]] += abs(worker.current[j])
    worst, where = 1.0, 0
    for i in range(1, worker.nets + 1):
        over = LEAST_SHUNT * abs(x[i]) / (CARRIED_SHARE * sums[i] + worker.limits[ABSTOL])
        if over > worst:
            worst, where = over, i
    if where > 0:
        return where
    good, good_memory = np.zeros(size), np.zeros(worker.memory_count)
    _save(worker, good, good_memory)
    if newton(worker, 10.0 * LEAST_SHUNT, per_second) == SOLVED:
        for i in range(1, worker.nets + 1):
            over = abs(x[i] - good[i]) / (CARRIED_SHARE * (abs(good[i]) + 1.0))
            if over > worst:
                worst, where = over, i
    _restore(worker, good, good_memory)
    return where


@inner
def _with_helps(worker, shunt, per_second):
    worker.setting[SCALE], worker.counters[CONTINUATION] = 1.0, 0
    outcome = newton(worker, shunt, per_second)
    if outcome == SOLVED or outcome == STOPPED:
        return outcome
    worker.counters[CONTINUATION] = GMIN_STEPPING
    outcome = step_gmin(worker, shunt, per_second)
    if (outcome == SOLVED and worker.counters[CONTINUATION] != GMIN_LEFT) or outcome == STOPPED:
        return outcome
    leftover = outcome == SOLVED
    good, good_memory = np.zeros(worker.size), np.zeros(worker.memory_count)
    _save(worker, good, good_memory)
    for continuation in (SOURCE_STEPPING, PSEUDO_TRANSIENT):
        worker.counters[CONTINUATION] = continuation
        outcome = (
            step_sources(worker, shunt, per_second)
            if continuation == SOURCE_STEPPING
            else pseudo_transient(worker, shunt, per_second)
        )
        if outcome == SOLVED or outcome == STOPPED:
            return outcome
    if not leftover:
        worker.counters[CONTINUATION] = 0
        return outcome
    _restore(worker, good, good_memory)
    worker.counters[CONTINUATION] = GMIN_LEFT
    where = carried(worker, per_second)
    if where == 0:
        return SOLVED
    worker.counters[CARRIED_NET] = where
    return CARRIED
