"""A circuit evaluated at many points of a period, compiled: currents, charges and their slopes, device quantities, noise."""

from __future__ import annotations

import numpy as np

from hearthline.core.compiled.codes import INT, ZM, F, I, M
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.kernels.spectra import TABLES, parts_of, product, put_phasors
from hearthline.core.engine.newton import ONE, evaluate, take_values
from hearthline.core.engine.pointers import behind, copy, pointer
from hearthline.core.engine.side_by_side import COPIES, SIDE_BY_SIDE
from hearthline.core.engine.worker import CIRCUIT, MEMORY, worker_in
from hearthline.core.models.signature import CHARGE, CURRENT, NOISE, PREPARE, START_MODE, STATIC, TRUST


@inner
def _spread(target, first, step, copy, source, count):
    """Puts numbers of one circuit into their places in a copy."""
    for j in range(np.uint64(count)):
        target[first[j] + copy * step[j]] = source[j]


@inner
def _sums(target, starts, first, step, copy, source, count):
    """Adds up what a copy has for each place of the circuit."""
    for i in range(np.uint64(count)):
        total = 0.0
        for p in range(starts[i], starts[i + ONE]):
            total += source[first[p] + copy * step[p]]
        target[i] = total


@inner
def _evaluated(
    copies, circuit, memory, limits, values, prepared, points, remembered, mode, flag, both, slopes, capacitances
):  # fmt: skip
    worker = worker_in(copies.circuit, memory, flag, limits)
    count, remembers, size = values.shape[0], remembered.shape[1], copies.size
    first, step = pointer(copies.value_first, 0), pointer(copies.value_step, 0)
    memory_first, memory_step = pointer(copies.memory_first, 0), pointer(copies.memory_step, 0)
    if prepared == 0:
        for c in range(COPIES):
            _spread(worker.values, first, step, np.uint64(c), pointer(values, 0), count)
        evaluate(worker, PREPARE)
    limited, entries, last = 0, slopes.shape[1], points.shape[0] - 1
    for begin in range(0, points.shape[0], COPIES):
        worker.setting[START_MODE], worker.setting[STATIC] = float(mode), 0.0
        for c in range(COPIES):
            k = min(begin + c, last)
            worker.x[c * size] = 0.0
            copy(behind(worker.x, c * size + 1), pointer(points[k], 0), size - 1)
            _spread(worker.memory, memory_first, memory_step, np.uint64(c), pointer(remembered[k], 0), remembers)
        limited += evaluate(worker, CURRENT | CHARGE)
        for c in range(min(COPIES, points.shape[0] - begin)):
            k, place = begin + c, np.uint64(c)
            known = pointer(remembered[k], 0)
            for j in range(np.uint64(remembers)):
                known[j] = worker.memory[memory_first[j] + place * memory_step[j]]
            _sums(
                pointer(both[k], 0), pointer(circuit.row_starts, 1), pointer(copies.row_first, 0),
                pointer(copies.row_step, 0), place, worker.current, size - 1,
            )  # fmt: skip
            _sums(
                pointer(both[k], size - 1), pointer(circuit.charge_starts, 1), pointer(copies.charge_first, 0),
                pointer(copies.charge_step, 0), place, worker.charge, size - 1,
            )  # fmt: skip
            _sums(
                pointer(slopes[k], 0), pointer(circuit.entry_starts, 0), pointer(copies.entry_first, 0),
                pointer(copies.entry_step, 0), place, worker.conductance, entries,
            )  # fmt: skip
            _sums(
                pointer(capacitances[k], 0), pointer(circuit.charged_starts, 0), pointer(copies.charged_first, 0),
                pointer(copies.charged_step, 0), place, worker.capacitance, entries,
            )  # fmt: skip
    return limited


@entry(SIDE_BY_SIDE, CIRCUIT, MEMORY, F, F, INT, M, M, INT, I, M, M, M)
def evaluated_at(
    copies, circuit, memory, limits, values, prepared, points, remembered, mode, flag, both, slopes, capacitances
):  # fmt: skip
    """At each of `points` (points, unknowns): sums of currents and of charges by row, `both` (points, 2 unknowns), and their
    slopes as values of the matrix's entries (points, entries). `remembered` (points, memory) is what limiting knows of each
    point, `mode` what to do about limiting. memory is that of the `copies`, which take the points several at a time; copies
    that are left over take the last one once more; whether it is `prepared` for these values. Gives back how many instances
    were limited in all of them."""
    return _evaluated(
        copies, circuit, memory, limits, values, prepared, points, remembered, mode, flag, both, slopes, capacitances
    )  # fmt: skip


@entry(SIDE_BY_SIDE, CIRCUIT, MEMORY, F, F, INT, TABLES, ZM, M, INT, I, M, M, M, ZM)
def evaluated_along(
    copies, circuit, memory, limits, values, prepared, tables, phasors, remembered, mode, flag, both, slopes, capacitances,
    found,
):  # fmt: skip
    """The same along a period, at phasors (products, unknowns); `found` are those of the currents and, behind them, charges."""
    points = product(tables.waves, parts_of(phasors))
    limited = _evaluated(
        copies, circuit, memory, limits, values, prepared, points, remembered, mode, flag, both, slopes, capacitances
    )  # fmt: skip
    put_phasors(product(tables.means, both), found)
    return limited


@entry(CIRCUIT, MEMORY, F, M, F, M, gives=None)
def noise_at(circuit, memory, values, points, limits, out):
    """Density at 1 Hz and exponent of each source of the kernels at each of `points`: out (points, 2 sources)."""
    flag = np.zeros(1, np.int64)
    worker = worker_in(circuit, memory, flag, limits)
    take_values(worker, pointer(values, 0))
    for k in range(points.shape[0]):
        worker.setting[START_MODE], worker.setting[STATIC] = TRUST, 0.0
        copy(worker.x, pointer(points[k], 0), worker.size)
        evaluate(worker, CURRENT | CHARGE)
        evaluate(worker, NOISE)
        for j in range(out.shape[1]):
            out[k, j] = worker.noise[j]
