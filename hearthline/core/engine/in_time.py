"""A circuit in time while one source follows given values, in equal steps: the thinnest integration that is true.

Trapezoidal rule on charges, F(x) + (2/h)·(q(x) - q_n) - dq_n/dt = 0, begun with one backward Euler step from the operating
point. Steps are those of the given values, so their number decides the accuracy; step control is for the transient
analysis.
"""

from __future__ import annotations

import math

import numba as nb
import numpy as np
from numba import float64, int64

from hearthline.core.data.dataset import Dataset
from hearthline.core.engine import dense
from hearthline.core.engine.analyses import conditions_of
from hearthline.core.engine.continuation import find_start
from hearthline.core.engine.drive import keep, new_state
from hearthline.core.engine.job import Job
from hearthline.core.engine.newton import (
    ABSTOL,
    CHARGE_PLACE,
    CIRCUIT,
    ITERATIONS,
    NO_CONVERGENCE,
    NOT_A_NUMBER,
    READOUT_PLACE,
    RELTOL,
    SINGULAR,
    SOLVED,
    STOPPED,
    VNTOL,
)  # fmt: skip
from hearthline.core.engine.outcome import Outcome
from hearthline.core.engine.solve import Tolerances
from hearthline.core.engine.system import System
from hearthline.core.errors import CircuitError
from hearthline.core.models.signature import (
    CHARGE,
    FLOW,
    LIMIT,
    OPTIONS,
    SPAN_BYTES,
    START_MODE,
    STATIC,
    TIME,
    TRUST,
    call_kernel,
)  # fmt: skip

_F, _M, _T, _I = float64[::1], float64[:, ::1], float64[:, :, ::1], int64[::1]


@nb.njit(inline="always", **OPTIONS)
def _charges(circuit, charge, total):
    """Adds up the charges at each unknown."""
    total[:] = 0.0
    for j in range(circuit.rows.shape[0]):
        total[circuit.rows[j]] += charge[j]


@nb.njit(inline="always", **OPTIONS)
def _evaluate(circuit, state):
    limited = 0
    for g in range(circuit.kernels.shape[0]):
        span = circuit.span_address + g * SPAN_BYTES
        limited += call_kernel(circuit.kernels[g], FLOW | CHARGE, span, circuit.node_address, state.address)
    return limited


@nb.njit(**OPTIONS)
def _step(circuit, state, capacity_slots, charge, capacity, per_second, history):
    """Newton on flow + per_second·charge - history = 0. Returns an outcome."""
    x, right, matrix, flat, limits = state.x, state.step, state.matrix, state.flat, state.limits
    size = x.shape[0]
    for _ in range(int(limits[ITERATIONS])):
        if state.flag[0] != 0:
            return STOPPED
        limited = _evaluate(circuit, state)
        for j in range(size):
            right[j] = -history[j]
        flat[:] = 0.0
        for j in range(circuit.rows.shape[0]):
            right[circuit.rows[j]] += state.flow[j] + per_second * charge[j]
        for j in range(circuit.slots.shape[0]):
            flat[circuit.slots[j]] += state.slope[j]
        for j in range(capacity_slots.shape[0]):
            flat[capacity_slots[j]] += per_second * capacity[j]
        if dense.solve(matrix, right, size) != 0:
            return SINGULAR
        settled = limited == 0
        for i in range(1, size):
            if not math.isfinite(right[i]):
                return NOT_A_NUMBER
            after = x[i] - right[i]
            least = limits[VNTOL] if i <= circuit.nets else limits[ABSTOL] + 1e-12 * abs(after)
            if abs(right[i]) > limits[RELTOL] * max(abs(after), abs(x[i])) + least:
                settled = False
            x[i] = after
        state.setting[START_MODE] = LIMIT
        if settled:
            return SOLVED
    return NO_CONVERGENCE


@nb.njit(nb.void(CIRCUIT, _I, _M, _M, int64, _M, _F, _I, _T, int64[:, ::1], _I, _F), **OPTIONS)
def follow(circuit, capacity_slots, values, guesses, slot, samples, steps, readouts, kept, outcomes, flag, limits):
    """Every lane at every sample. samples (lanes, points) of the source; steps (lanes,) [s]; kept (lanes, points, readouts)."""
    state = new_state(circuit, flag, limits)
    at = circuit.places
    charge = state.work[at[CHARGE_PLACE] : at[CHARGE_PLACE + 1]]
    capacity = state.work[at[CHARGE_PLACE + 1] : at[READOUT_PLACE]]
    size = guesses.shape[1]
    before, rate, now, history = np.zeros(size), np.zeros(size), np.zeros(size), np.zeros(size)
    nothing = np.zeros(0, np.int64)
    for lane in range(samples.shape[0]):
        state.values[:] = values[lane]
        state.x[:] = guesses[lane]
        state.values[slot] = samples[lane, 0]
        state.setting[STATIC], state.setting[TIME], state.setting[START_MODE] = 1.0, 0.0, 1.0
        outcome = find_start(circuit, state, 0.0)
        outcomes[lane, 0] = outcome
        if outcome != SOLVED:
            continue
        keep(circuit, state, nothing, readouts, kept[lane, 0], kept[lane, 0])
        state.setting[STATIC], state.setting[START_MODE] = 0.0, TRUST
        _evaluate(circuit, state)
        _charges(circuit, charge, before)
        rate[:] = 0.0
        for point in range(1, samples.shape[1]):
            state.values[slot] = samples[lane, point]
            state.setting[TIME] = point * steps[lane]
            per_second = (1.0 if point == 1 else 2.0) / steps[lane]
            for j in range(size):
                history[j] = per_second * before[j] + rate[j]
            outcome = _step(circuit, state, capacity_slots, charge, capacity, per_second, history)
            outcomes[lane, point] = outcome
            if outcome != SOLVED:
                break
            state.setting[START_MODE] = TRUST
            _evaluate(circuit, state)
            _charges(circuit, charge, now)
            for j in range(size):
                rate[j] = per_second * now[j] - history[j]
                before[j] = now[j]
            keep(circuit, state, nothing, readouts, kept[lane, point], kept[lane, point])


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
    kept = np.full((lanes, points, len(watch)), np.nan)
    outcomes = np.full((lanes, points), int(Outcome.NOT_RUN), np.int64)
    follow(
        system.new_circuit(), system.capacity_slots, system.values, system.guesses, system.source_slots[source],
        np.ascontiguousarray(samples, float), np.ascontiguousarray(steps, float),
        np.array([index[label] for label in watch], np.int64), kept, outcomes, (job or Job()).flag, Tolerances().array(),
    )  # fmt: skip
    curves = {label: kept[:, :, k] for k, label in enumerate(watch)}
    units = {label: system.variables[index[label]].unit for label in watch}
    return Dataset(
        "time", "sample", "", np.arange(points, dtype=float), curves, units, conditions_of(system.lanes), outcomes
    )
