"""What each instance takes in at points of a circuit, compiled."""

from __future__ import annotations

import numpy as np

from hearthline.core.compiled.codes import F, I, M
from hearthline.core.compiled.jit import entry
from hearthline.core.engine.newton import evaluate, take_values
from hearthline.core.engine.pointers import copy, pointer
from hearthline.core.engine.worker import CIRCUIT, MEMORY, worker_in
from hearthline.core.models.signature import CURRENT, START_MODE, STATIC, TRUST


@entry(CIRCUIT, MEMORY, F, M, I, I, F, M, F, gives=None)
def power_at(circuit, memory, values, points, begins, nodes, counts, out, limits):
    """At each of `points` (points, unknowns + 1) the sum of voltage times current over the terminals of each instance, that
    begin at `begins` (instances + 1,); `nodes` are their unknowns, `counts` 1 where such is a voltage: out (points,
    instances)."""
    flag = np.zeros(1, np.int64)
    worker = worker_in(circuit, memory, flag, limits)
    take_values(worker, pointer(values, 0))
    for k in range(points.shape[0]):
        worker.setting[START_MODE], worker.setting[STATIC] = TRUST, 0.0
        copy(worker.x, pointer(points[k], 0), worker.size)
        evaluate(worker, CURRENT)
        for j in range(out.shape[1]):
            total = 0.0
            for e in range(begins[j], begins[j + 1]):
                total += counts[e] * points[k, nodes[e]] * worker.current[e]
            out[k, j] = total
