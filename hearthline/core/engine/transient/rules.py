"""Integration rules: each is its coefficients, what it needs of the past, and its error; compiled.

All are written as `rate = a·q - history`, so that one Newton serves them. The trapezoidal rule carries the rate of the
last point along, and with it whatever was wrong there, from side to side; the backward differences do not. So a
run begins with backward Euler, goes on with one second-order backward difference, and only then with the trapezoidal
rule, which takes a backward difference again wherever rates begin to alternate.

Trapezoidal and variable-step backward differences: Hairer, Norsett, Wanner, Solving Ordinary Differential Equations I, III.5.
"""

from __future__ import annotations

from hearthline.core.compiled.jit import inner

EULER, BDF2, TRAPEZOIDAL = range(3)
RULES = {"trap": TRAPEZOIDAL, "gear": BDF2}
"""Those that a person may ask for."""


@inner
def leading(rule, step, before):
    """Coefficient a [1/s] of the new charge for a step [s] after one of length `before` [s]."""
    if rule == TRAPEZOIDAL:
        return 2.0 / step
    if rule == BDF2:
        ratio = step / before
        return (1.0 + 2.0 * ratio) / (step * (1.0 + ratio))
    return 1.0 / step


@inner
def set_history(rule, step, before, q0, q1, rate, history, size):
    """history = a·q - rate, from the charges of the last two points and the rate at the last."""
    if rule == TRAPEZOIDAL:
        for i in range(size):
            history[i] = 2.0 / step * q0[i] + rate[i]
    elif rule == BDF2:
        ratio = step / before
        a, b = (1.0 + ratio) / step, ratio * ratio / ((1.0 + ratio) * step)
        for i in range(size):
            history[i] = a * q0[i] - b * q1[i]
    else:
        for i in range(size):
            history[i] = q0[i] / step


@inner
def error_factor(rule, step, before):
    """What the third derivative of a charge has to be multiplied with to give the error of one step; of the second
    for backward Euler."""
    if rule == TRAPEZOIDAL:
        return step**3 / 12.0
    if rule == BDF2:
        return step**2 * (step + before) ** 2 / (6.0 * (2.0 * step + before))
    return 0.5 * step**2
