"""The compiled driver: solves a list of lanes, each at every point of its sweep, and keeps what is watched."""

from __future__ import annotations

import numba as nb
import numpy as np
from numba import float64, int64

from hearthline.core.engine.continuation import LEAST_SHUNT, find_start
from hearthline.core.engine.newton import (
    CHARGE_PLACE,
    CIRCUIT,
    COUNTERS,
    CULPRIT,
    END_PLACE,
    FLOW_PLACE,
    GMIN_LIMIT,
    HELPER,
    ITERATION_COUNT,
    LAST_COLUMN,
    MEMORY_PLACE,
    NOISE_PLACE,
    NOT_A_NUMBER,
    READOUT_PLACE,
    SETTING_PLACE,
    SINGULAR,
    SLOPE_PLACE,
    SOLVED,
    STOPPED,
    VALUE_PLACE,
    X_PLACE,
    State,
    newton,
)  # fmt: skip
from hearthline.core.engine.outcome import Helper
from hearthline.core.models.signature import (
    GMIN,
    OPTIONS,
    READOUT,
    SCALE,
    SPAN_BYTES,
    START,
    START_MODE,
    STATIC,
    TRUST,
    call_kernel,
)

GMIN_LEFT = int(Helper.GMIN_LEFT)
_F, _M, _T, _I = float64[::1], float64[:, ::1], float64[:, :, ::1], int64[::1]


@nb.njit(**OPTIONS)
def new_state(circuit, flag, limits):
    """Fresh arrays for one worker."""
    at = circuit.places
    work = np.zeros(at[END_PLACE])
    work[GMIN], work[SCALE], work[START_MODE], work[STATIC] = limits[GMIN_LIMIT], 1.0, START, 1.0
    x = work[at[X_PLACE] : at[VALUE_PLACE]]
    size = x.shape[0]
    flat = np.zeros(size * size)
    return State(
        work, work.ctypes.data, work[at[SETTING_PLACE] : at[X_PLACE]], x, work[at[VALUE_PLACE] : at[MEMORY_PLACE]],
        work[at[MEMORY_PLACE] : at[FLOW_PLACE]], work[at[FLOW_PLACE] : at[SLOPE_PLACE]],
        work[at[SLOPE_PLACE] : at[CHARGE_PLACE]], work[at[READOUT_PLACE] : at[NOISE_PLACE]],
        flat, flat.reshape((size, size)), np.zeros(size), np.zeros(COUNTERS, np.int64), flag, limits,
    )  # fmt: skip


@nb.njit(inline="always", **OPTIONS)
def next_point(circuit, state, shunt):
    """Solves from the neighbour's solution in x, and from nothing where that fails."""
    outcome = newton(circuit, state, shunt)
    if outcome == SOLVED or outcome == STOPPED:
        return outcome
    state.x[:] = 0.0
    state.setting[START_MODE] = START
    return find_start(circuit, state, shunt)


@nb.njit(inline="always", **OPTIONS)
def keep(circuit, state, unknowns, readouts, kept, kept_readouts):
    """Copies the watched unknowns and operating-point variables of the solution in x."""
    for j in range(unknowns.shape[0]):
        kept[j] = state.x[unknowns[j]]
    if readouts.shape[0] == 0:
        return
    for g in range(circuit.kernels.shape[0]):
        span = circuit.span_address + g * SPAN_BYTES
        call_kernel(circuit.kernels[g], READOUT, span, circuit.node_address, state.address)
    for j in range(readouts.shape[0]):
        kept_readouts[j] = state.readout[readouts[j]]


@nb.njit(
    nb.void(CIRCUIT, _M, _M, _I, _I, _M, _I, _I, _T, _T, int64[:, ::1], _I, _M, _I, _I, _I, _I, int64, _F),
    **OPTIONS,
)
def run_lanes(
    circuit, values, guesses, lanes, swept, sweep, unknowns, readouts, kept, kept_readouts, outcomes, helpers,
    moved, culprits, iterations, progress, flag, share, limits,
):  # fmt: skip
    """Solves the given lanes one after the other and writes into the arrays of all lanes.

    values (lanes, values); guesses (lanes, unknowns + 1); swept: indices into values that take sweep[lane, point];
    kept (lanes, points, unknowns), kept_readouts, outcomes (lanes, points);
    helpers (lanes,); moved (lanes, unknowns + 1): the last step of a lane's last failure, or the unknowns where a
    device gave no number, and culprits (lanes,) 1 + the flow that it was, or 0; iterations and
    progress (shares,): Newton iterations and points done; flag (1,): not 0 to stop all workers.
    """
    size = guesses.shape[1]
    state = new_state(circuit, flag, limits)
    neighbour = np.zeros(size)
    has_neighbour = False
    for lane in lanes:
        state.values[:] = values[lane]
        state.x[:] = neighbour if has_neighbour else guesses[lane]
        state.setting[START_MODE] = TRUST if has_neighbour or np.any(guesses[lane] != 0.0) else START
        fresh, shunt = not has_neighbour, 0.0
        for point in range(sweep.shape[1]):
            for j in range(swept.shape[0]):
                state.values[swept[j]] = sweep[lane, point]
            outcome = find_start(circuit, state, shunt) if fresh else next_point(circuit, state, shunt)
            outcomes[lane, point] = outcome
            if outcome == STOPPED:
                iterations[share] += state.counters[ITERATION_COUNT]
                return
            progress[share] += 1
            fresh = outcome != SOLVED
            if fresh:
                moved[lane] = state.step
                culprits[lane] = state.counters[CULPRIT] if outcome == NOT_A_NUMBER else 0
                if culprits[lane] > 0:
                    moved[lane] = state.x
                if outcome == SINGULAR:
                    moved[lane, :] = 0.0
                    moved[lane, state.counters[LAST_COLUMN]] = 1.0
                state.x[:] = 0.0
                state.setting[START_MODE] = START
                continue
            helpers[lane] = max(helpers[lane], state.counters[HELPER])
            if state.counters[HELPER] == GMIN_LEFT:
                shunt = LEAST_SHUNT
            state.counters[HELPER] = 0
            keep(circuit, state, unknowns, readouts, kept[lane, point], kept_readouts[lane, point])
            if point == 0:
                neighbour[:] = state.x
                has_neighbour = True
    iterations[share] += state.counters[ITERATION_COUNT]
