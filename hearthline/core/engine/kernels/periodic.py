"""A circuit evaluated at many points of a period, compiled: currents, charges and their slopes, device quantities, noise."""

from __future__ import annotations

import numpy as np

from hearthline.core.compiled.codes import INT, F, I, M
from hearthline.core.compiled.jit import entry
from hearthline.core.engine.newton import ONE, evaluate
from hearthline.core.engine.pointers import copy, pointer
from hearthline.core.engine.worker import CIRCUIT, MEMORY, worker_in
from hearthline.core.models.signature import CHARGE, CURRENT, NOISE, START_MODE, STATIC, TRUST


@entry(CIRCUIT, MEMORY, F, M, M, INT, F, I, M, M, M, M)
def evaluated_at(circuit, memory, values, points, remembered, mode, limits, flag, flows, charges, slopes, capacitances):
    """At each of `points` (points, unknowns + 1): sums of currents and of charges by row (points, unknowns + 1), and their
    slopes as values of the matrix's entries (points, entries). `remembered` (points, memory) is what limiting knows of each
    point, `mode` what to do about limiting. Gives back how many instances were limited."""
    worker = worker_in(circuit, memory, flag, limits)
    copy(worker.values, pointer(values, 0), worker.value_count)
    limited = 0
    for k in range(points.shape[0]):
        worker.setting[START_MODE], worker.setting[STATIC] = float(mode), 0.0
        copy(worker.x, pointer(points[k], 0), worker.size)
        copy(worker.memory, pointer(remembered[k], 0), worker.memory_count)
        limited += evaluate(worker, CURRENT | CHARGE)
        copy(pointer(remembered[k], 0), worker.memory, worker.memory_count)
        for i in range(np.uint64(worker.size)):
            total, charge = 0.0, 0.0
            for p in range(worker.row_starts[i], worker.row_starts[i + ONE]):
                total += worker.current[worker.row_from[p]]
            for p in range(worker.charge_starts[i], worker.charge_starts[i + ONE]):
                charge += worker.charge[worker.charge_from[p]]
            flows[k, i], charges[k, i] = total, charge
        for e in range(np.uint64(worker.entries - 1)):
            total, charge = 0.0, 0.0
            for p in range(worker.entry_starts[e], worker.entry_starts[e + ONE]):
                total += worker.conductance[worker.entry_from[p]]
            for p in range(worker.charged_starts[e], worker.charged_starts[e + ONE]):
                charge += worker.capacitance[worker.charged_from[p]]
            slopes[k, e], capacitances[k, e] = total, charge
    return limited


@entry(CIRCUIT, MEMORY, F, M, F, M, gives=None)
def noise_at(circuit, memory, values, points, limits, out):
    """Density at 1 Hz and exponent of each source of the kernels at each of `points`: out (points, 2 sources)."""
    flag = np.zeros(1, np.int64)
    worker = worker_in(circuit, memory, flag, limits)
    copy(worker.values, pointer(values, 0), worker.value_count)
    for k in range(points.shape[0]):
        worker.setting[START_MODE], worker.setting[STATIC] = TRUST, 0.0
        copy(worker.x, pointer(points[k], 0), worker.size)
        evaluate(worker, CURRENT | CHARGE)
        evaluate(worker, NOISE)
        for j in range(out.shape[1]):
            out[k, j] = worker.noise[j]
