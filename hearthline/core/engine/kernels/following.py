"""A circuit in time while one source follows given values, in equal steps: the thinnest integration that is true.

Trapezoidal rule on charges, F(x) + (2/h)·(q(x) - q_n) - dq_n/dt = 0, begun with one backward Euler step from the operating
point. Steps are those of the given values, so their number decides the accuracy; step control is for the transient
analysis. Compiled.
"""

from __future__ import annotations

import numpy as np

from hearthline.core.compiled.codes import IM, INT, F, I, M, T
from hearthline.core.compiled.jit import entry
from hearthline.core.engine.continuation import find_start
from hearthline.core.engine.drive import keep
from hearthline.core.engine.newton import SOLVED, evaluate, newton, sum_charges, take_values
from hearthline.core.engine.pointers import copy, pointer
from hearthline.core.engine.worker import CIRCUIT, MEMORY, worker_in
from hearthline.core.models.signature import CHARGE, CURRENT, START, START_MODE, STATIC, TIME, TRUST


@entry(CIRCUIT, MEMORY, M, M, INT, M, F, I, T, IM, I, F, gives=None)
def follow(circuit, memory, values, guesses, slot, samples, steps, readouts, kept, outcomes, flag, limits):
    """Every lane at every sample. samples (lanes, points) of the source; steps (lanes,) [s]; kept (lanes, points, readouts)."""
    worker = worker_in(circuit, memory, flag, limits)
    size = worker.size
    before, rate, now = np.zeros(size), np.zeros(size), np.zeros(size)
    nothing = np.zeros(0, np.int64)
    for lane in range(samples.shape[0]):
        take_values(worker, pointer(values[lane], 0))
        copy(worker.x, pointer(guesses[lane], 0), size)
        worker.values[slot] = samples[lane, 0]
        worker.setting[STATIC], worker.setting[TIME], worker.setting[START_MODE] = 1.0, 0.0, START
        outcome = find_start(worker, 0.0, 0.0)
        outcomes[lane, 0] = outcome
        if outcome != SOLVED:
            continue
        keep(worker, nothing, readouts, kept[lane, 0], kept[lane, 0])
        worker.setting[STATIC], worker.setting[START_MODE] = 0.0, TRUST
        evaluate(worker, CURRENT | CHARGE)
        sum_charges(worker, pointer(before, 0))
        rate[:] = 0.0
        for point in range(1, samples.shape[1]):
            worker.values[slot] = samples[lane, point]
            worker.setting[TIME] = point * steps[lane]
            per_second = (1.0 if point == 1 else 2.0) / steps[lane]
            for j in range(size):
                worker.history[j] = per_second * before[j] + rate[j]
            outcome = newton(worker, 0.0, per_second)
            outcomes[lane, point] = outcome
            if outcome != SOLVED:
                break
            worker.setting[START_MODE] = TRUST
            evaluate(worker, CURRENT | CHARGE)
            sum_charges(worker, pointer(now, 0))
            for j in range(size):
                rate[j] = per_second * now[j] - worker.history[j]
                before[j] = now[j]
            keep(worker, nothing, readouts, kept[lane, point], kept[lane, point])
