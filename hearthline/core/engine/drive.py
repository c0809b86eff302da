"""The compiled driver: solves a list of lanes, each at every point of its sweep, and keeps what is watched."""

from __future__ import annotations

import numpy as np

from hearthline.core.compiled.codes import IM, INT, F, I, M, T
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.continuation import LEAST_SHUNT, carried, find_start
from hearthline.core.engine.newton import (
    CARRIED,
    NOT_A_NUMBER,
    SINGULAR,
    SOLVED,
    STOPPED,
    UNBALANCED,
    evaluate,
    newton,
    take_values,
)  # fmt: skip
from hearthline.core.engine.pointers import copy, pointer, put
from hearthline.core.engine.worker import (
    CARRIED_NET,
    CIRCUIT,
    CONTINUATION,
    CULPRIT,
    ITERATION_COUNT,
    LAST_COLUMN,
    MEMORY,
    worker_in,
)
from hearthline.core.models.signature import READOUT, START, START_MODE, TRUST
from hearthline.core.outcome import Continuation

GMIN_LEFT = int(Continuation.GMIN_LEFT)


@inner
def next_point(worker, shunt):
    """Solves from the neighbour's solution in x, and from nothing where that fails."""
    outcome = newton(worker, shunt, 0.0)
    if outcome == SOLVED and shunt > 0.0:
        worker.counters[CARRIED_NET] = carried(worker, 0.0)
        outcome = CARRIED if worker.counters[CARRIED_NET] > 0 else SOLVED
    if outcome == SOLVED or outcome == STOPPED:
        return outcome
    put(worker.x, 0.0, worker.size)
    worker.setting[START_MODE] = START
    return find_start(worker, 0.0, 0.0)


@inner
def keep(worker, unknowns, readouts, kept, kept_readouts):
    """Copies the watched unknowns and operating-point variables of the solution in x."""
    for j in range(unknowns.shape[0]):
        kept[j] = worker.x[unknowns[j]]
    if readouts.shape[0] == 0:
        return
    evaluate(worker, READOUT)
    for j in range(readouts.shape[0]):
        kept_readouts[j] = worker.readout[readouts[j]]


@inner
def _any(numbers):
    """Whether one of them is not 0."""
    found = False
    for k in range(numbers.shape[0]):
        found = found or numbers[k] != 0.0
    return found


@inner
def note_failure(worker, outcome, moved):
    """Writes down what moved last, or the unknowns where a device gave no number; gives back 1 + that current, or 0."""
    culprit = worker.counters[CULPRIT] if outcome == NOT_A_NUMBER else 0
    copy(pointer(moved, 0), worker.x if culprit > 0 else worker.step, worker.size)
    if outcome == UNBALANCED:
        copy(pointer(moved, 0), worker.residual, worker.size)
    if outcome == CARRIED:
        moved[:] = 0.0
        moved[worker.counters[CARRIED_NET]] = 1.0
    if outcome == SINGULAR:
        moved[:] = 0.0
        moved[worker.counters[LAST_COLUMN]] = 1.0
    return culprit


@entry(CIRCUIT, MEMORY, M, M, M, I, I, M, I, I, T, T, IM, I, M, I, I, I, I, INT, F, gives=None)
def run_lanes(
    circuit, memory, values, guesses, held, lanes, swept, sweep, unknowns, readouts, kept, kept_readouts, outcomes,
    continuations, moved, culprits, iterations, progress, flag, share, limits,
):  # fmt: skip
    """Solves the given lanes one after the other and writes into the arrays of all lanes.

    values (lanes, values); guesses (lanes, unknowns + 1); held (lanes, held nets); swept: indices into values that take
    sweep[lane, point]; kept (lanes, points, unknowns), kept_readouts, outcomes (lanes, points);
    continuations (lanes,); moved (lanes, unknowns + 1): the last step of a lane's last failure, or the unknowns where a
    device gave no number, and culprits (lanes,) 1 + the current that it was, or 0; iterations and
    progress (shares,): Newton iterations and points done; flag (1,): not 0 to stop all workers.
    """
    worker = worker_in(circuit, memory, flag, limits)
    size = worker.size
    neighbour = np.zeros(size)
    has_neighbour = False
    for lane in lanes:
        take_values(worker, pointer(values[lane], 0))
        copy(worker.held_at, pointer(held[lane], 0), worker.held_count)
        copy(worker.x, pointer(neighbour if has_neighbour else guesses[lane], 0), size)
        worker.setting[START_MODE] = TRUST if has_neighbour or _any(guesses[lane]) else START
        fresh, shunt = not has_neighbour, 0.0
        for point in range(sweep.shape[1]):
            for j in range(swept.shape[0]):
                worker.values[swept[j]] = sweep[lane, point]
            outcome = find_start(worker, 0.0, 0.0) if fresh else next_point(worker, shunt)
            outcomes[lane, point] = outcome
            if outcome == STOPPED:
                iterations[share] += worker.counters[ITERATION_COUNT]
                return
            progress[share] += 1
            fresh = outcome != SOLVED
            if fresh:
                culprits[lane] = note_failure(worker, outcome, moved[lane])
                put(worker.x, 0.0, size)
                worker.setting[START_MODE] = START
                continue
            continuations[lane] = max(continuations[lane], worker.counters[CONTINUATION])
            if worker.counters[CONTINUATION] == GMIN_LEFT:
                shunt = LEAST_SHUNT
            worker.counters[CONTINUATION] = 0
            keep(worker, unknowns, readouts, kept[lane, point], kept_readouts[lane, point])
            if point == 0:
                copy(pointer(neighbour, 0), worker.x, size)
                has_neighbour = True
    iterations[share] += worker.counters[ITERATION_COUNT]
