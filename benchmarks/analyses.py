"""Transient, sparse factors, Monte Carlo and AC against floors that are not ours."""

from __future__ import annotations

import time
import tracemalloc
from functools import partial

import numba as nb
import numpy as np
from numba import float64, int64

from benchmarks.circuits import FARADS, STAGES, amplifier, ladder, mesh, ring, system_of
from benchmarks.models import mos_by_hand
from benchmarks.row import Row, paired, timed
from hearthline.core.compiled.codes import FLOAT, INT, F, I, N
from hearthline.core.compiled.jit import entry
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.linear import sparse
from hearthline.core.engine.linear.sparse import lu_room
from hearthline.core.engine.newton import evaluate
from hearthline.core.engine.pointers import pointer
from hearthline.core.engine.small_signal import ac
from hearthline.core.engine.solve import SourceSweep, Tolerances, solve
from hearthline.core.engine.transient.run import Times, transient
from hearthline.core.engine.worker import CIRCUIT, MEMORY, REAL_ROOM, new_memory, worker_in
from hearthline.core.models.calling import call_kernel
from hearthline.core.models.signature import SCALE, SETTINGS, Kernel

NUMBA = {"cache": True, "nogil": True, "error_model": "numpy"}
PERIODS, ACCURACY = 50, 1e-3
TOLERANCES = tuple(10.0 ** (-2.0 - k / 12.0) for k in range(60))
"""Tried from loose to tight, by both, until the period is good enough; close together, so that neither pays for a gap."""
VDD, THRESHOLD, SLOPE, BETA_N, BETA_P = 1.2, 0.4, 0.1, 1e-3, 8e-4


def rows() -> list[Row]:
    """All of them."""
    return [*_iteration(), _whole(), _factor(), _monte_carlo(), _ac(), _memory(), _netlist()]


@nb.njit("UniTuple(float64, 3)(float64, float64, float64)", **NUMBA)
def _square_law(vgs, vds, beta):
    """Current and its slopes by both voltages."""
    over = vgs - THRESHOLD
    if over <= 0.0:
        return 0.0, 0.0, 0.0
    factor = beta * (1.0 + SLOPE * vds)
    if over <= vds:
        return 0.5 * factor * over * over, factor * over, 0.5 * beta * SLOPE * over * over
    area = vds * (over - 0.5 * vds)
    return factor * area, factor * vds, factor * (over - vds) + beta * SLOPE * area


@nb.njit("void(float64[:, ::1], float64[::1])", **NUMBA)
def _eliminate(matrix, right):
    """Gauss without pivoting; the solution is left in `right`."""
    n = STAGES
    for j in range(n):
        inverse = 1.0 / matrix[j, j]
        for i in range(j + 1, n):
            if matrix[i, j] != 0.0:
                factor = matrix[i, j] * inverse
                for k in range(j, n):
                    matrix[i, k] -= factor * matrix[j, k]
                right[i] -= factor * right[j]
    for j in range(n - 1, -1, -1):
        value = right[j]
        for k in range(j + 1, n):
            value -= matrix[j, k] * right[k]
        right[j] = value / matrix[j, j]


@nb.njit(float64(int64, float64[::1]), **NUMBA)
def _ring_by_hand(times, v):
    """As many Newton iterations of a trapezoidal step of the ring as wanted; matrix and elimination fixed in code."""
    n = STAGES
    matrix, right, before = np.zeros((n, n)), np.zeros(n), v.copy()
    total, per_second = 0.0, 2.0 / 1e-12
    for _ in range(times):
        matrix[:, :] = 0.0
        for k in range(n):
            gate = v[k - 1] if k > 0 else v[n - 1]
            left = k - 1 if k > 0 else n - 1
            i_n, gm_n, gds_n = _square_law(gate, v[k], BETA_N)
            i_p, gm_p, gds_p = _square_law(VDD - gate, VDD - v[k], BETA_P)
            right[k] = i_n - i_p + per_second * FARADS * (v[k] - before[k])
            matrix[k, k] += gds_n + gds_p + per_second * FARADS
            matrix[k, left] += gm_n + gm_p
        _eliminate(matrix, right)
        for k in range(n):  # a small step, so that nothing can be moved out of the loop
            v[k] -= 1e-3 * right[k]
            total += right[k]
    return total


@entry(INT, INT, I, N, F, F, gives=FLOAT)
def _level_one_by_hand(address, times, span, nodes, w, v):
    """The same with all of level 1, written by hand: body effect, junctions, limits; charges as the ring has them."""
    n = STAGES
    matrix, right, before = np.zeros((n, n)), np.zeros(n), v.copy()
    total, per_second, x0, f0, s0 = 0.0, 2.0 / 1e-12, SETTINGS, span[4], span[5]
    for _ in range(times):
        for k in range(n):
            w[x0 + 2 + k], w[x0 + 3 + n + k] = v[k], v[k] - VDD
        for k in range(n):  # of the mirrored ones everything the other way round
            w[x0 + 3 + n + k] = -w[x0 + 3 + n + k]
        call_kernel(address, 1, span.ctypes.data, nodes.ctypes.data, w.ctypes.data)
        matrix[:, :] = 0.0
        for k in range(n):
            left = k - 1 if k > 0 else n - 1
            a, b = f0 + 8 * k, s0 + 32 * k
            right[k] = w[a] - w[a + 4] + per_second * FARADS * (v[k] - before[k])
            matrix[k, k] += w[b] + w[b + 16] + per_second * FARADS
            matrix[k, left] += w[b + 1] + w[b + 17]
        _eliminate(matrix, right)
        for k in range(n):
            v[k] -= 1e-3 * right[k]
            total += right[k]
    return total


def _by_hand_arrays():
    """Eleven pairs of transistors: drain, gate, source, bulk of each in a work array of the kernels' kind."""
    count, unknowns = 2 * STAGES, 2 * STAGES + 4
    nodes = []
    for k in range(STAGES):
        left = (k - 1) % STAGES
        nodes += [2 + k, 2 + left, 0, 0, 3 + STAGES + k, 3 + STAGES + left, 0, 0]
    sizes = [unknowns, 8 * count, 4 * count, 4 * count, 16 * count]
    starts = SETTINGS + np.concatenate([[0], np.cumsum(sizes)])
    w = np.zeros(starts[-1] + 10)
    w[SCALE] = 1.0
    for k in range(count):
        beta = BETA_P if k % 2 else BETA_N
        w[starts[1] + 8 * k : starts[1] + 8 * k + 8] = [beta, THRESHOLD, 0.0, 0.6, SLOPE, 1e-20, 0.0258649, 1.0]
    span = np.array([count, 0, *starts[1:5], 0, 0, 0, 0], np.int64)
    return span, (SETTINGS + np.array(nodes)).astype(np.int32), w


def _times(rel: float, stop: float) -> Times:
    return Times(1e-9, stop, longest=1e-9, rel=rel, given=True)


def _iteration() -> list[Row]:
    """Against all of level 1 by hand, and against only what this ring uses of it."""
    system = system_of(ring())
    run = partial(transient, system, _times(1e-4, 2e-8))
    counted = run().tracks[0].iterations
    start = np.array([1.2 * (k % 2) for k in range(STAGES)])
    address, arrays = Kernel(mos_by_hand).address, _by_hand_arrays()
    floors = {
        "level 1 by hand in one loop, dense": (
            lambda: _level_one_by_hand(address, counted, *arrays, start.copy()),
            3.0,
        ),
        "the square law alone": (lambda: _ring_by_hand(counted, start.copy()), 3.0),
    }
    found = []
    for name, (floor, target) in floors.items():
        ours, theirs = paired(run, floor)
        found.append(Row("Newton iteration, 11-stage ring, transient", ours / counted, theirs / counted, target, name))
    return found


@nb.njit(float64[::1](float64, float64[:]), **NUMBA)
def _slope(_, v):
    found = np.zeros(STAGES)
    for k in range(STAGES):
        gate = v[k - 1] if k > 0 else v[STAGES - 1]
        i_n, _1, _2 = _square_law(gate, v[k], BETA_N)
        i_p, _1, _2 = _square_law(VDD - gate, VDD - v[k], BETA_P)
        found[k] = (i_p - i_n) / FARADS
    return found


def _crossings(t: np.ndarray, v: np.ndarray) -> np.ndarray:
    rising = np.flatnonzero((v[:-1] < 0.6) & (v[1:] >= 0.6))
    return t[rising] + (0.6 - v[rising]) / (v[rising + 1] - v[rising]) * (t[rising + 1] - t[rising])


def _period(t: np.ndarray, v: np.ndarray) -> float:
    return float(np.diff(_crossings(t, v))[5:].mean())


def _whole() -> Row:
    from scipy.integrate import solve_ivp

    start = np.array([1.2 * (k % 2) if k < STAGES - 1 else 0.6 for k in range(STAGES)])
    exact = solve_ivp(_slope, (0, 2e-8), start, "Radau", rtol=1e-9, atol=1e-10, dense_output=True)
    fine = np.linspace(0, 2e-8, 400001)
    period = _period(fine, exact.sol(fine)[0])
    stop = PERIODS * period
    system = system_of(ring())

    def good(t, v) -> bool:
        return abs(_period(t, v) / period - 1.0) < ACCURACY

    for rel in TOLERANCES:
        rows = transient(system, _times(rel, stop)).tracks[0].rows
        if good(rows[:, 0], rows[:, 1 + [u.name for u in system.unknowns].index("n0")]):
            break
    ours = min(timed(lambda: transient(system, _times(rel, stop))) for _ in range(3))
    best = np.inf
    for method in ("LSODA", "BDF", "Radau"):
        for rtol in TOLERANCES:
            run = partial(solve_ivp, _slope, (0, stop), start, method, rtol=rtol, atol=1e-3 * rtol)
            found = run()
            if found.success and good(found.t, found.y[0]):
                best = min(best, *(timed(run) for _ in range(2)))
                break
    return Row(
        f"transient, whole: {PERIODS} periods of the ring at 0.1 %", ours, best, 0.5, "the best of SciPy's solve_ivp"
    )


@entry(REAL_ROOM, F, F, INT, gives=None)
def _factor_and_solve(held, values, right, times):
    """Refills the factors and solves, again and again."""
    lu = sparse.lu_in(held)
    matrix, b = pointer(values, 0), pointer(right, 0)
    for _ in range(times):
        sparse.fill(lu, matrix)
        sparse.solve(lu, b)


def _factor() -> Row:
    from scipy.sparse import csc_array
    from scipy.sparse.linalg import splu

    system = system_of(mesh(32, 100))
    pattern, circuit = system.dynamic
    size = pattern.size
    rng = np.random.default_rng(1)
    values = np.zeros(len(pattern.rows) + 1)
    np.add.at(values, circuit.slots, np.where(rng.random(len(circuit.slots)) < 0.5, 1.0, 1.2))
    columns = np.repeat(pattern.order, np.diff(pattern.starts))
    values[:-1][columns == pattern.rows] += 50.0
    matrix = csc_array((values[:-1], (pattern.rows, columns)), (size, size))
    right, held = np.ones(size + 1), lu_room(pattern)
    _factor_and_solve(held, values, right, 1)
    ours, floor = paired(
        lambda: _factor_and_solve(held, values, right, 1), lambda: splu(matrix).solve(np.ones(size)), 15
    )
    return Row(f"factor and solve, {size} unknowns, pattern known", ours, floor, 0.5, "SciPy's splu and solve")


def _sampled(count: int) -> Lanes:
    rng = np.random.default_rng(1)
    lanes = Lanes(("",) * count, np.full(count, 27.0))
    names = [f"m{letter}{k}" for k in range(4) for letter in "tabcd"]
    mismatch = {}
    for name in names:
        mismatch[name, "dvth"] = 1e-3 * rng.standard_normal(count)
    return Lanes(lanes.corners, lanes.celsius, mismatch=mismatch)


def _amplifier(count: int):
    """The amplifier of charge-based transistors, which have a mismatch of their own."""
    text = amplifier().replace(".model n nmos vto=0.4 kp=200u lambda=0.1 is=1e-20", ".model n mos type=1")
    text = text.replace(".model p pmos vto=-0.4 kp=80u lambda=0.1 is=1e-20", ".model p mos type=-1")
    return system_of(text, _sampled(count))


def _monte_carlo() -> Row:
    system = _amplifier(1000)
    watch = [0]
    solution = solve(system, unknowns=watch)
    size = len(system.unknowns)
    matrix = np.eye(size) * 3 + np.random.default_rng(2).random((size, size))
    evaluation = evaluation_of(system)

    def bare() -> None:
        evaluation(5000)
        for _ in range(5000):
            np.linalg.solve(matrix, np.ones(size))

    ours, floor = paired(lambda: solve(system, unknowns=watch), bare, 5)
    assert not len(solution.failed_lanes)
    return Row(
        "1000 operating points of 20 transistors", ours, floor, 2.0, "5 × 1000 evaluations and LAPACK solutions, bare"
    )


@entry(CIRCUIT, MEMORY, F, F, I, INT, gives=None)
def _evaluations(circuit, memory, values, limits, flag, times):
    """Evaluates all devices, again and again."""
    from_worker = worker_in(circuit, memory, flag, limits)
    for k in range(from_worker.value_count):
        from_worker.values[k] = values[k]
    for _ in range(times):
        evaluate(from_worker, 1)


def evaluation_of(system):
    pattern, circuit = system.static
    memory, limits = new_memory(circuit, pattern), Tolerances().array()
    flag = np.zeros(1, np.int64)
    _evaluations(circuit, memory, system.values[0], limits, flag, 1)
    return lambda times: _evaluations(circuit, memory, system.values[0], limits, flag, times)


def _ac() -> Row:
    system = system_of(ladder(50))
    frequencies = np.logspace(6, 10, 200)
    size = len(system.unknowns)
    rng = np.random.default_rng(1)
    matrices = rng.random((200, size, size)) + 1j * rng.random((200, size, size)) + 3 * np.eye(size)
    right = np.ones((size, 1), complex)

    def bare() -> None:
        for k in range(200):
            np.linalg.solve(matrices[k], right)

    ours, floor = paired(lambda: ac(system, frequencies), bare)
    return Row(f"AC, 200 frequencies, {size} unknowns", ours, floor, 1.5, "200 bare LAPACK solutions")


def _memory() -> Row:
    """Megabytes, not seconds."""
    count, points = 1000, 101
    system = _amplifier(count)
    watch = list(range(10))
    sweep = SourceSweep(("vp",), np.linspace(0.5, 0.7, points))
    solve(system, sweep, unknowns=watch[:1])
    tracemalloc.start()
    solve(system, sweep, unknowns=watch)
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return Row(
        "memory of a 1000-sample run",
        peak / 1e6,
        count * points * len(watch) * 8 / 1e6,
        2.0,
        "the stored watches alone",
        "MB",
    )


def _netlist() -> Row:
    system = system_of(mesh(45, 200))
    begin = time.perf_counter()
    done = transient(system, Times(2e-12, 2e-9, longest=2e-12))
    seconds = time.perf_counter() - begin
    assert done.tracks[0].accepted >= 1000
    return Row(
        f"1000 steps of {len(system.unknowns)} unknowns, RC mesh with 200 transistors", seconds, 60.0, 1.0, "a minute",
    )  # fmt: skip
