"""Whether a point that Newton's steps have settled at is a solution: at every net the currents must add up; compiled.

A step is also small where a slope is infinite (a root at 0), and says nothing there.
"""

from __future__ import annotations

import math

from hearthline.core.compiled.jit import inner
from hearthline.core.engine.pointers import put

SHARE, GROSS_SHARE = 1e-4, 0.1
"""Of the currents at a net, that may be missing: at an operating point, and in a step of time, whose last step of Newton
need not be confirmed."""
GROSS_FLOOR = 1e-3
"""Of the largest current anywhere, under which nothing is missed in a step of time."""
ROUNDING = 1e-13
"""Of what a slope times its unknown is, that may be lost in adding up."""
STEEPEST = 1e12
"""A larger slope [S] excuses nothing."""
BRANCH_SHARE = 1e-6
"""Of the terms of the equation of a branch or a state, that may be missing."""


@inner
def unbalanced(worker, per_second, largest, minimum):
    """The unknown at whose net (or in whose equation) most is missing in units of what may be, or 0 where all holds.

    Of the last evaluation: `residual`, with all that continuations added; `largest` and `least` currents [A].
    """
    size, nets, sums, missing, lu = worker.size, worker.nets, worker.spare, worker.residual, worker.lu
    put(sums, 0.0, size)
    share = SHARE if per_second == 0.0 else GROSS_SHARE
    floor = minimum if per_second == 0.0 else GROSS_FLOOR * largest + minimum
    for j in range(worker.currents):
        i = worker.rows[j]
        amount = abs(worker.current[j])
        if per_second != 0.0:
            amount += abs(per_second * worker.charge[j])
        sums[i] += share * amount if i <= nets else 0.0
    for k in range(lu.size):
        unknown = abs(worker.x[1 + lu.order[k]]) + 1e-9
        for p in range(lu.starts[k], lu.starts[k + 1]):
            conductance, i = abs(worker.matrix[p]), 1 + lu.rows[p]
            if conductance <= STEEPEST:
                sums[i] += (ROUNDING if i <= nets else BRANCH_SHARE) * conductance * unknown
    worst, where = 1.0, 0
    for i in range(1, size):
        allowed = sums[i] + (floor if i <= nets else 1e-9)
        over = abs(missing[i]) / allowed
        if over > worst or (not math.isfinite(over) and missing[i] != 0.0):
            worst, where = over, i
    return where
