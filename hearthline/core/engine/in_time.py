"""A circuit in time while one source follows given values, in equal steps: the thinnest integration that is true.

Trapezoidal rule on charges, F(x) + (2/h)·(q(x) - q_n) - dq_n/dt = 0, begun with one backward Euler step from the operating
point. Steps are those of the given values, so their number decides the accuracy; step control is for the transient
analysis.
"""

from __future__ import annotations

import numba as nb
import numpy as np
from numba import float64, int64

from hearthline.core.data.dataset import Dataset
from hearthline.core.engine.continuation import find_start
from hearthline.core.engine.dc import conditions_of
from hearthline.core.engine.drive import keep
from hearthline.core.engine.job import Job
from hearthline.core.engine.newton import SOLVED, evaluate, newton, sum_charges
from hearthline.core.engine.pointers import copy, pointer
from hearthline.core.engine.solve import Tolerances
from hearthline.core.engine.system import System
from hearthline.core.engine.worker import CIRCUIT, MEMORY, new_memory, worker_in
from hearthline.core.errors import CircuitError
from hearthline.core.models.calling import OPTIONS
from hearthline.core.models.signature import CHARGE, CURRENT, START, START_MODE, STATIC, TIME, TRUST
from hearthline.core.outcome import Outcome

_F, _M, _T, _I = float64[::1], float64[:, ::1], float64[:, :, ::1], int64[::1]


@nb.njit(nb.void(CIRCUIT, MEMORY, _M, _M, int64, _M, _F, _I, _T, int64[:, ::1], _I, _F), **OPTIONS)
def follow(circuit, memory, values, guesses, slot, samples, steps, readouts, kept, outcomes, flag, limits):
    """Every lane at every sample. samples (lanes, points) of the source; steps (lanes,) [s]; kept (lanes, points, readouts)."""
    worker = worker_in(circuit, memory, flag, limits)
    size = worker.size
    before, rate, now = np.zeros(size), np.zeros(size), np.zeros(size)
    nothing = np.zeros(0, np.int64)
    for lane in range(samples.shape[0]):
        copy(worker.values, pointer(values[lane], 0), worker.value_count)
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


def follow_source(
    system: System, source: str, samples: np.ndarray, steps: np.ndarray, watch: tuple[str, ...], job: Job | None = None
) -> Dataset:
    """The watched device variables while `source` takes samples (lanes, points) [V or A], one every steps (lanes,) [s].

    The dataset's points count the samples. Raises CircuitError for a source or a variable that the circuit does not have.
    """
    if source not in system.source_slots:
        raise CircuitError(f"there is no source '{source}'; there is {', '.join(system.source_slots)}", part=source)
    index = {variable.label: k for k, variable in enumerate(system.variables)}
    for label in watch:
        if label not in index:
            raise CircuitError(f"there is no quantity '{label}' to watch")
    lanes, points = samples.shape
    pattern, circuit = system.dynamic
    kept = np.full((lanes, points, len(watch)), np.nan)
    outcomes = np.full((lanes, points), int(Outcome.NOT_RUN), np.int64)
    follow(
        circuit, new_memory(circuit, pattern), system.values, system.guesses, system.source_slots[source],
        np.ascontiguousarray(samples, float), np.ascontiguousarray(steps, float),
        np.array([index[label] for label in watch], np.int64), kept, outcomes, (job or Job()).flag, Tolerances().array(),
    )  # fmt: skip
    curves = {label: kept[:, :, k] for k, label in enumerate(watch)}
    units = {label: system.variables[index[label]].unit for label in watch}
    return Dataset(
        "time", "sample", "", np.arange(points, dtype=float), curves, units, conditions_of(system.lanes), outcomes
    )
