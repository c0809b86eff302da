"""What one worker computes with: the circuit that all share, memory of its own, and addresses of both for compiled code."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hearthline.core.compiled.codes import INT, F, I, N, U, record
from hearthline.core.compiled.jit import inner
from hearthline.core.engine.linear.sparse import LuRoom, lu_in, lu_room
from hearthline.core.engine.pointers import pointer
from hearthline.core.models.layout import PLACE
from hearthline.core.models.signature import GMIN, SCALE, START, START_MODE, STATIC

RELTOL, VNTOL, ABSTOL, GMIN_LIMIT, ITERATIONS, BEND = range(6)
"""Entries of `limits`: relative step [1], step of voltages [V], of currents [A], gmin at junctions [S], most iterations; and
how large the second step of a time step's Newton is at most, over the square of the first, as earlier steps have shown."""

ITERATION_COUNT, LAST_COLUMN, CONTINUATION, CULPRIT, CARRIED_NET = range(5)
COUNTERS = 5
"""What is counted on the way; CULPRIT is 1 + the first current that is not a number, where there is one; CARRIED_NET is the
net where nothing but an added conductance carried a current."""

(
    SETTING_PLACE, X_PLACE, VALUE_PLACE, MEMORY_PLACE, FLOW_PLACE, SLOPE_PLACE, CHARGE_PLACE, CAPACITANCE_PLACE, READOUT_PLACE,
    NOISE_PLACE, ABREAST_PLACE, END_PLACE,
) = PLACE.values()  # fmt: skip
"""Entries of `places`."""

VECTORS = 5
"""Vectors of all unknowns that a worker has beside the solution: step, history, anchor, sums of currents, and what is
missing at each net."""


class CircuitArrays(NamedTuple):
    """What all lanes share, as arrays: addresses of the kernels and the span of each, where terminals stand in the work
    array and in a solution, where conductances and capacitances go in the matrix's values, where the diagonal of each net is
    (first that of ground, which is none), where each stretch of the work array begins, and the number of nets.

    The same the other way round, so that each sum is made in one go: which conductances make an entry of the matrix
    (`entry_from`, from `entry_starts` on), and which capacitances (`charged_from`), which currents flow into a row, and
    which charges are there."""

    kernels: np.ndarray
    spans: np.ndarray
    nodes: np.ndarray
    rows: np.ndarray
    slots: np.ndarray
    capacitance_slots: np.ndarray
    diagonal: np.ndarray
    places: np.ndarray
    nets: int
    entry_starts: np.ndarray
    entry_from: np.ndarray
    charged_starts: np.ndarray
    charged_from: np.ndarray
    row_starts: np.ndarray
    row_from: np.ndarray
    charge_starts: np.ndarray
    charge_from: np.ndarray


class Memory(NamedTuple):
    """A worker's own arrays; Python holds them. `held` are unknowns that are kept at
    `held_at` [V]."""

    work: np.ndarray
    matrix: np.ndarray
    vectors: np.ndarray
    counters: np.ndarray
    held: np.ndarray
    held_at: np.ndarray
    lu: LuRoom


class Worker(NamedTuple):
    """Addresses of everything, and how much there is of it. See `signature` for the stretches of the work array."""

    groups: object
    size: object
    nets: object
    currents: object
    conductances: object
    capacitances: object
    value_count: object
    memory_count: object
    entries: object
    kernels: object
    spans: object
    nodes: object
    rows: object
    slots: object
    capacitance_slots: object
    diagonal: object
    work: object
    setting: object
    x: object
    values: object
    memory: object
    current: object
    conductance: object
    charge: object
    capacitance: object
    readout: object
    noise: object
    matrix: object
    step: object
    history: object
    anchor: object
    spare: object
    residual: object
    counters: object
    held_count: object
    held: object
    held_at: object
    flag: object
    limits: object
    lu: object
    entry_starts: object
    entry_from: object
    charged_starts: object
    charged_from: object
    row_starts: object
    row_from: object
    charge_starts: object
    charge_from: object


CIRCUIT = record(CircuitArrays, I, I, N, U, U, U, U, I, INT, U, U, U, U, U, U, U, U)
REAL_ROOM = record(LuRoom, INT, INT, INT, U, I, F)
MEMORY = record(Memory, F, F, F, I, U, F, REAL_ROOM)


def new_memory(circuit: CircuitArrays, pattern, held: np.ndarray | None = None) -> Memory:
    """Memory for a worker on a circuit whose matrix has that pattern; `held` are indices of unknowns that are held."""
    held = np.zeros(0, np.uint32) if held is None else held.astype(np.uint32)
    return Memory(
        np.zeros(int(circuit.places[END_PLACE])), np.zeros(len(pattern.rows) + 1),
        np.zeros(VECTORS * (pattern.size + 1)), np.zeros(COUNTERS, np.int64), held, np.zeros(len(held)), lu_room(pattern),
    )  # fmt: skip


@inner
def worker_in(circuit, memory, flag, limits):
    """The worker with that memory; its settings are those of a static analysis that begins."""
    at, work, kernels = circuit.places, memory.work, circuit.kernels
    size = at[VALUE_PLACE] - at[X_PLACE]
    work[GMIN], work[SCALE], work[START_MODE], work[STATIC] = limits[GMIN_LIMIT], 1.0, START, 1.0
    return Worker(
        kernels.shape[0], size, circuit.nets, circuit.rows.shape[0], circuit.slots.shape[0],
        circuit.capacitance_slots.shape[0], at[MEMORY_PLACE] - at[VALUE_PLACE], at[FLOW_PLACE] - at[MEMORY_PLACE],
        memory.matrix.shape[0], pointer(kernels, 0), circuit.spans.ctypes.data, circuit.nodes.ctypes.data,
        pointer(circuit.rows, 0), pointer(circuit.slots, 0), pointer(circuit.capacitance_slots, 0),
        pointer(circuit.diagonal, 0), work.ctypes.data, pointer(work, at[SETTING_PLACE]), pointer(work, at[X_PLACE]),
        pointer(work, at[VALUE_PLACE]), pointer(work, at[MEMORY_PLACE]), pointer(work, at[FLOW_PLACE]),
        pointer(work, at[SLOPE_PLACE]), pointer(work, at[CHARGE_PLACE]), pointer(work, at[CAPACITANCE_PLACE]),
        pointer(work, at[READOUT_PLACE]), pointer(work, at[NOISE_PLACE]), pointer(memory.matrix, 0),
        pointer(memory.vectors, 0), pointer(memory.vectors, size), pointer(memory.vectors, 2 * size),
        pointer(memory.vectors, 3 * size), pointer(memory.vectors, 4 * size),
        pointer(memory.counters, 0), memory.held.shape[0], pointer(memory.held, 0),
        pointer(memory.held_at, 0), pointer(flag, 0), pointer(limits, 0), lu_in(memory.lu),
        pointer(circuit.entry_starts, 0), pointer(circuit.entry_from, 0), pointer(circuit.charged_starts, 0),
        pointer(circuit.charged_from, 0), pointer(circuit.row_starts, 0), pointer(circuit.row_from, 0),
        pointer(circuit.charge_starts, 0), pointer(circuit.charge_from, 0),
    )  # fmt: skip
