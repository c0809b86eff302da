"""What helps Newton's method to a first solution where it has no neighbour to start from: compiled.

Each continuation starts from a problem that is easy and walks to the wanted one in steps that adapt.
"""

from __future__ import annotations

import math

import numba as nb
import numpy as np

from hearthline.core.engine.newton import HELPER, NO_CONVERGENCE, SOLVED, STOPPED, newton
from hearthline.core.engine.outcome import Helper
from hearthline.core.models.signature import OPTIONS, SCALE, START, START_MODE

GMIN_STEPPING, SOURCE_STEPPING = int(Helper.GMIN_STEPPING), int(Helper.SOURCE_STEPPING)
GMIN_LEFT = int(Helper.GMIN_LEFT)
FIRST_SHUNT, LEAST_SHUNT = 1e-2, 1e-12
"""Conductance from every net to ground [S] at which gmin stepping begins, and the last before it is taken away."""


@nb.njit(**OPTIONS)
def step_gmin(circuit, state, shunt):
    """Solves with a large conductance to ground and takes it away bit by bit, in smaller bits where that fails.

    Ends at `shunt`; where only 1e-12 S could be reached, that stays and the counters say so.
    """
    x, memory, setting = state.x, state.memory, state.setting
    good, good_memory = np.zeros_like(x), np.zeros_like(memory)
    x[:] = 0.0
    setting[START_MODE] = START
    now, factor, reached = FIRST_SHUNT, 10.0, 0.0
    while True:
        outcome = newton(circuit, state, now)
        if outcome == STOPPED:
            return outcome
        if outcome == SOLVED:
            good[:], good_memory[:] = x, memory
            reached = now
            if now <= shunt:
                return SOLVED
            if now <= LEAST_SHUNT:
                break
            factor = min(10.0, factor**1.5)
        else:
            if reached == 0.0 or factor < 1.05:
                return outcome
            x[:], memory[:] = good, good_memory
            factor = math.sqrt(factor)
        now = max(reached / factor if reached > 0.0 else now, LEAST_SHUNT, shunt)
    outcome = newton(circuit, state, shunt)
    if outcome != SOLVED and outcome != STOPPED:
        x[:], memory[:] = good, good_memory
        state.counters[HELPER] = GMIN_LEFT
        return SOLVED
    return outcome


@nb.njit(**OPTIONS)
def step_sources(circuit, state, shunt):
    """Solves with all independent sources off and brings them up bit by bit."""
    x, memory, setting = state.x, state.memory, state.setting
    good, good_memory = np.zeros_like(x), np.zeros_like(memory)
    x[:] = 0.0
    setting[START_MODE], setting[SCALE] = START, 0.0
    reached, step = -1.0, 0.1
    outcome = NO_CONVERGENCE
    while True:
        outcome = newton(circuit, state, shunt)
        if outcome == SOLVED:
            good[:], good_memory[:] = x, memory
            reached = setting[SCALE]
            if reached >= 1.0:
                break
            step = min(0.25, 1.5 * step)
        elif outcome == STOPPED or reached < 0.0 or step < 1e-4:
            break
        else:
            x[:], memory[:] = good, good_memory
            step *= 0.3
        setting[SCALE] = min(1.0, max(reached, 0.0) + step)
    setting[SCALE] = 1.0
    return outcome


@nb.njit(**OPTIONS)
def find_start(circuit, state, shunt):
    """The operating point with no neighbour to start from: plain Newton from x, gmin stepping, source stepping."""
    state.setting[SCALE], state.counters[HELPER] = 1.0, 0
    outcome = newton(circuit, state, shunt)
    if outcome == SOLVED or outcome == STOPPED:
        return outcome
    state.counters[HELPER] = GMIN_STEPPING
    outcome = step_gmin(circuit, state, shunt)
    if outcome == SOLVED or outcome == STOPPED:
        return outcome
    state.counters[HELPER] = SOURCE_STEPPING
    return step_sources(circuit, state, shunt)
