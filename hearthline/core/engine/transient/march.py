"""Marches a circuit through time, step by step, compiled: predict, solve, estimate the error, accept or go back.

The error of a step is that of the charges and fluxes, by their third differences, carried to the voltages and currents
they cause through the factors of the step that was just solved. Everything that lasts from one call to the next is in
`clock`, `state` and `past`, so that a march may pause where the room for its rows is full.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from hearthline.core.compiled.codes import FLOAT, F, I, M, U, record
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.continuation import find_start
from hearthline.core.engine.linear import sparse
from hearthline.core.engine.newton import SOLVED, STOPPED, TOO_FULL, evaluate, newton, sum_charges, take_values
from hearthline.core.engine.pointers import behind, copy, pointer, put
from hearthline.core.engine.transient.lines import LINES, has_room, next_arrival, remember, set_arriving
from hearthline.core.engine.transient.rules import BDF2, EULER, TRAPEZOIDAL, error_factor, leading, set_history
from hearthline.core.engine.transient.waves import longest_step, next_breakpoint, wave_value
from hearthline.core.engine.worker import CIRCUIT, MEMORY, worker_in
from hearthline.core.models.signature import CHARGE, CURRENT, READOUT, START_MODE, STATIC, TIME, TRUST

NOW, STEP, BEFORE, EARLIER, STOP, LONGEST, FIRST_ROW, LAST_WORST, EARLIEST = range(9)
CLOCK = 9
"""Entries of `clock` [s]: the time reached, the step to try, the last step and the one before, the end, the longest
step, the time from which rows are written, and (a number) the last step's error in units of what is allowed; then the
step before the earlier one."""

POINTS, ROWS, ACCEPTED, REJECTED, WANTED_RULE, DAMP, TRIES = range(7)
"""Entries of `state`: points known since the last breakpoint (0: not begun), rows written, steps accepted and rejected, the
rule that was asked for, steps still to be damped, and attempts at the step in hand."""

X0, X1, X2, Q0, Q1, Q2, RATE, RATE_BEFORE, PEAK, GUESS, ERROR, TURNS, RATE_PEAK, X3 = range(14)
PAST = 14
"""Vectors of `past`: unknowns at the last four points (the fourth behind all others), the charges at three, rates at the
last two, the largest size each unknown has had, the prediction, the error, how often the rate has alternated, and its
largest size."""

REL, ABS_VOLTAGE, ABS_CURRENT, PEAK_SHARE = range(4)
"""Entries of `accuracy`: error allowed to a step, relative to an unknown's peak and absolute [V], [A]; and the share of
the largest peak that every unknown is granted."""

DONE, PAUSED, FORGETFUL = 100, 101, 102
JUMP = 1e-10
"""Of the whole time: a step that short is not made shorter for its error. Nets without capacitance jump."""
SAFETY, MOST_GROWTH, LEAST_SHRINK = 0.88, 2.0, 0.2
FIRST_SHARE = 0.02
"""Of the way to the next breakpoint, for the first step after one."""
OTHER_SIDE, ROUNDED = 1e-6, 4e-15
"""How far behind a breakpoint its other side is looked at: of the shorter of the steps beside it, and at least of the time."""
ALTERNATIONS, NOTICED = 3, 1e-3
"""In a row, of a rate, that call for a damping step, where they are larger than this share of the rate's peak."""


class Sources(NamedTuple):
    """The sources that change in time: kind, place in the values, and where in `numbers` its numbers begin and end."""

    kinds: np.ndarray
    slots: np.ndarray
    starts: np.ndarray
    numbers: np.ndarray


class MarchArrays(NamedTuple):
    """What lasts; `controlled` says of each unknown whether its error counts: 1 a voltage, 2 a current or state, 0 not.
    `rows` and `columns` are those of the capacitances."""

    clock: np.ndarray
    state: np.ndarray
    past: np.ndarray
    accuracy: np.ndarray
    controlled: np.ndarray
    rows: np.ndarray
    columns: np.ndarray


class MarchAt(NamedTuple):
    """The addresses of all that."""

    clock: object
    state: object
    past: object
    accuracy: object
    controlled: object
    rows: object
    columns: object


SOURCES = record(Sources, I, I, I, F)
MARCH = record(MarchArrays, F, I, M, F, I, U, U)


@inner
def set_sources(worker, sources, time):
    """Puts every changing source at its value at that time."""
    worker.setting[TIME] = time
    for k in range(sources.kinds.shape[0]):
        begin = sources.starts[k]
        worker.values[sources.slots[k]] = wave_value(
            sources.kinds[k], pointer(sources.numbers, begin), sources.starts[k + 1] - begin, time
        )


@entry(SOURCES, FLOAT, F, gives=None)
def values_at(sources, time, found):
    """Every changing source at one time, for Python: found (sources,)."""
    for k in range(found.shape[0]):
        begin = sources.starts[k]
        found[k] = wave_value(sources.kinds[k], pointer(sources.numbers, begin), sources.starts[k + 1] - begin, time)


@inner
def breakpoint_after(sources, lines, time, stop):
    """Where the next step must end at the latest."""
    nearest = min(stop, next_arrival(lines, time))
    for k in range(sources.kinds.shape[0]):
        begin = sources.starts[k]
        break_time = next_breakpoint(
            sources.kinds[k], pointer(sources.numbers, begin), sources.starts[k + 1] - begin, time
        )
        nearest = min(nearest, break_time)
    # a breakpoint that is at the end but for rounding is the end: no step is as short as that
    return stop if nearest > stop * (1.0 - 2e-12) else nearest


@inner
def _begin(worker, march, sources, lines):
    """The first point: x is the operating point, or the given initial values."""
    clock, state, past, size = march.clock, march.state, march.past, worker.size
    set_sources(worker, sources, clock[NOW])
    worker.setting[STATIC], worker.setting[START_MODE] = 0.0, TRUST
    evaluate(worker, CURRENT | CHARGE)
    sum_charges(worker, behind(past, Q0 * size))
    copy(behind(past, X0 * size), worker.x, size)
    # what flows in charges, where there are any: at the operating point nothing, from given values what they drive
    put(behind(past, RATE * size), 0.0, size)
    rate, peak = behind(past, RATE * size), behind(past, PEAK * size)
    for j in range(worker.capacitances):
        if worker.capacitance[j] != 0.0:
            rate[march.rows[j]] = 1.0
    for i in range(size):
        worker.step[i] = 0.0
    for j in range(worker.currents):
        worker.step[worker.rows[j]] -= worker.current[j]
    for i in range(size):
        rate[i] *= worker.step[i]
    for i in range(size):
        peak[i] = abs(worker.x[i])
    longest = clock[LONGEST]
    for k in range(sources.kinds.shape[0]):
        longest = min(longest, longest_step(sources.kinds[k], pointer(sources.numbers, sources.starts[k])))
    for k in range(lines.delays.shape[0]):
        longest = min(longest, lines.delays[k])
    clock[LONGEST] = longest
    remember(worker, lines, clock[NOW], 1)
    clock[STEP] = min(longest, FIRST_SHARE * (breakpoint_after(sources, lines, clock[NOW], clock[STOP]) - clock[NOW]))
    state[POINTS] = 1


@inner
def _predict(worker, march, step):
    """The polynomial through the last points, at the new time; into x and GUESS."""
    past, points, size = march.past, march.state[POINTS], worker.size
    x0, x1, x2, x = behind(past, X0 * size), behind(past, X1 * size), behind(past, X2 * size), worker.x
    before, earlier, earliest = march.clock[BEFORE], march.clock[EARLIER], march.clock[EARLIEST]
    if points >= 4:
        # Newton's form: slope over the last step, second and third difference
        x3, two, three = behind(past, X3 * size), before + earlier, before + earlier + earliest
        for i in range(size):
            slope, slope_before = (x0[i] - x1[i]) / before, (x1[i] - x2[i]) / earlier
            bend = (slope - slope_before) / two
            bend_before = (slope_before - (x2[i] - x3[i]) / earliest) / (earlier + earliest)
            third = (bend - bend_before) / three
            x[i] = x0[i] + step * (slope + (step + before) * (bend + (step + two) * third))
    elif points >= 3:
        # slope over the last step, and the second difference
        for i in range(size):
            slope = (x0[i] - x1[i]) / before
            bend = (slope - (x1[i] - x2[i]) / earlier) / (before + earlier)
            x[i] = x0[i] + step * (slope + (step + before) * bend)
    elif points == 2:
        for i in range(size):
            x[i] = x0[i] + step * (x0[i] - x1[i]) / before
    else:
        copy(x, x0, size)
    copy(behind(past, GUESS * size), x, size)


@inner
def _rule(march):
    points = march.state[POINTS]
    if points == 1:
        return EULER
    if points == 2 or march.state[DAMP] > 0:
        return BDF2
    return march.state[WANTED_RULE]


@inner
def _new_charges(worker, march):
    """Charges at x, from those of the last evaluation and the last step of Newton, which is small; into GUESS."""
    charge = behind(march.past, GUESS * worker.size)
    capacitance, step = worker.capacitance, worker.step
    sum_charges(worker, charge)
    rows, columns = march.rows, march.columns
    for j in range(worker.capacitances):
        charge[rows[j]] -= capacitance[j] * step[columns[j]]
    return charge


@inner
def _error(worker, march, rule, step, per_second, charge):
    """The error of the step in units of what is allowed, by the largest unknown."""
    past, clock, points, size = march.past, march.clock, march.state[POINTS], worker.size
    before, earlier = clock[BEFORE], clock[EARLIER]
    q0, q1, q2, rate = (
        behind(past, Q0 * size),
        behind(past, Q1 * size),
        behind(past, Q2 * size),
        behind(past, RATE * size),
    )
    error = behind(past, ERROR * size)
    if points >= 3:
        factor = 6.0 * per_second * error_factor(rule, step, before)
        for i in range(size):
            now, last = (charge[i] - q0[i]) / step, (q0[i] - q1[i]) / before
            older = (q1[i] - q2[i]) / earlier
            bend, bend_before = (now - last) / (step + before), (last - older) / (before + earlier)
            error[i] = factor * (bend - bend_before) / (step + before + earlier)
    elif points == 2:
        # the rate at the breakpoint stands for the point that is missing
        first = behind(past, RATE_BEFORE * size)
        factor = 6.0 * per_second * error_factor(rule, step, before)
        for i in range(size):
            now, last = (charge[i] - q0[i]) / step, (q0[i] - q1[i]) / before
            bend, bend_before = (now - last) / (step + before), (last - first[i]) / before
            error[i] = factor * (bend - bend_before) / (step + before)
    else:
        for i in range(size):
            error[i] = 0.5 * (charge[i] - q0[i]) * per_second - 0.5 * rate[i]
    sparse.solve(worker.lu, error)
    return _worst(worker, march, error)


@inner
def _worst(worker, march, error):
    peak, controlled, accuracy = behind(march.past, PEAK * worker.size), march.controlled, march.accuracy
    volts, others = 0.0, 0.0
    for i in range(1, worker.size):
        if controlled[i] == 1:
            volts = max(volts, peak[i])
        elif controlled[i] == 2:
            others = max(others, peak[i])
    worst = 0.0
    for i in range(1, worker.size):
        kind = controlled[i]
        if kind != 0:
            size = max(peak[i], abs(worker.x[i]), accuracy[PEAK_SHARE] * (volts if kind == 1 else others))
            worst = max(worst, abs(error[i]) / (accuracy[REL] * size + accuracy[kind]))
    return worst


@inner
def _accept(worker, march, rule, step, per_second, charge):
    """Moves the past on by one point."""
    past, clock, state, size = march.past, march.clock, march.state, worker.size
    x, history = worker.x, worker.history
    rates, rates_before, turns = behind(past, RATE * size), behind(past, RATE_BEFORE * size), behind(past, TURNS * size)
    rate_peak, peak = behind(past, RATE_PEAK * size), behind(past, PEAK * size)
    q0, q1, q2 = behind(past, Q0 * size), behind(past, Q1 * size), behind(past, Q2 * size)
    x0, x1, x2, x3 = behind(past, X0 * size), behind(past, X1 * size), behind(past, X2 * size), behind(past, X3 * size)
    alternating = 0
    for i in range(size):
        rate, last = per_second * charge[i] - history[i], rates[i]
        turned = (rate - last) * (last - rates_before[i]) < 0.0
        turns[i] = turns[i] + 1.0 if turned else 0.0
        rate_peak[i] = max(rate_peak[i], abs(rate))
        if turns[i] >= ALTERNATIONS and abs(rate - last) > NOTICED * rate_peak[i]:
            alternating += 1
        rates_before[i], rates[i] = last, rate
        q2[i], q1[i], q0[i] = q1[i], q0[i], charge[i]
        x3[i], x2[i], x1[i], x0[i] = x2[i], x1[i], x0[i], x[i]
        peak[i] = max(peak[i], abs(x[i]))
    if rule == TRAPEZOIDAL and alternating > 0:
        state[DAMP] = 1
        put(turns, 0.0, size)
    elif state[DAMP] > 0:
        state[DAMP] -= 1
    clock[EARLIEST], clock[EARLIER], clock[BEFORE] = clock[EARLIER], clock[BEFORE], step
    state[POINTS] = min(state[POINTS] + 1, 4)
    state[ACCEPTED] += 1
    state[TRIES] = 0


@inner
def _write(worker, march, unknowns, readouts, rows):
    """One row: the time, what is watched, and device variables."""
    if march.clock[NOW] < march.clock[FIRST_ROW]:
        return
    _write_row(worker, march, march.clock[NOW], unknowns, readouts, rows)


@inner
def _write_row(worker, march, time, unknowns, readouts, rows):
    """A row of the solution in x, at that time."""
    count, read = unknowns.shape[0], readouts.shape[0]
    row, which = pointer(rows, march.state[ROWS] * rows.shape[1]), pointer(unknowns, 0)
    row[0] = time
    for j in range(count):
        row[1 + j] = worker.x[which[j]]
    if read > 0:
        evaluate(worker, READOUT)
        for j in range(read):
            row[1 + count + j] = worker.readout[readouts[j]]
    march.state[ROWS] += 1


@inner
def _write_other_side(worker, march, sources, lines, break_time, unknowns, readouts, rows):
    """A row just behind a breakpoint: what jumps there has another value on its other side, which an integral must know.

    Found by one step of backward Euler so short that nothing else moves; the march goes on from the breakpoint itself.
    """
    clock, past, size = march.clock, march.past, worker.size
    step = max(OTHER_SIDE * min(break_time - clock[NOW], clock[BEFORE]), ROUNDED * clock[NOW])
    time = clock[NOW] + step
    if march.state[ROWS] == rows.shape[0] or time <= clock[NOW] or clock[NOW] < clock[FIRST_ROW]:
        return
    q0, memory = behind(past, Q0 * size), np.zeros(worker.memory_count)
    copy(pointer(memory, 0), worker.memory, worker.memory_count)
    set_history(EULER, step, step, q0, q0, q0, worker.history, size)
    set_sources(worker, sources, time)
    set_arriving(worker, lines, time)
    worker.setting[START_MODE] = TRUST
    if newton(worker, 0.0, 1.0 / step) == SOLVED:
        _write_row(worker, march, time, unknowns, readouts, rows)
        march.state[ACCEPTED] += 1
    copy(worker.memory, pointer(memory, 0), worker.memory_count)
    copy(worker.x, behind(past, X0 * size), size)


@inner
def _grown(worst, last, order):
    """How much longer the next step may be, from the errors of this one and the one before.

    K. Gustafsson, ACM Trans. Math. Software 17, 1991: hardly a step is rejected where errors rise and fall in turn.
    """
    if worst <= 1e-9:
        return MOST_GROWTH
    return min(MOST_GROWTH, SAFETY * worst ** (-0.7 / order) * max(last, 1e-4) ** (0.4 / order))


@entry(CIRCUIT, MEMORY, F, SOURCES, LINES, MARCH, I, I, M, I, F)
def advance(circuit, memory, values, sources, lines, held, unknowns, readouts, rows, flag, limits):
    """Marches until the end (DONE), until `rows` (most rows, 1 + watched) are full (PAUSED), until the memory of `lines` is
    (FORGETFUL), or until it fails.

    memory's unknowns are the first point when `state[POINTS]` is 0.
    """
    worker = worker_in(circuit, memory, flag, limits)
    march = MarchAt(
        pointer(held.clock, 0), pointer(held.state, 0), pointer(held.past, 0), pointer(held.accuracy, 0),
        pointer(held.controlled, 0), pointer(held.rows, 0), pointer(held.columns, 0),
    )  # fmt: skip
    has_lines = lines.slots.shape[0] > 0
    clock, state, past, size = march.clock, march.state, march.past, worker.size
    take_values(worker, pointer(values, 0))
    state[ROWS] = 0
    if state[POINTS] == 0:
        _begin(worker, march, sources, lines)
        _write(worker, march, unknowns, readouts, rows)
    worker.setting[STATIC] = 0.0
    # the pattern of a pause's matrix is still there
    break_time = breakpoint_after(sources, lines, clock[NOW], clock[STOP])
    if state[ACCEPTED] == 0 and state[ROWS] > 0:
        _write_other_side(worker, march, sources, lines, break_time, unknowns, readouts, rows)
    while clock[NOW] < clock[STOP]:
        if state[ROWS] >= rows.shape[0] - 1:  # a breakpoint takes two
            return PAUSED
        if has_lines and not has_room(lines, clock[NOW]):
            return FORGETFUL
        rest = break_time - clock[NOW]
        step = min(clock[STEP], clock[LONGEST])
        lands = step >= 0.999 * rest
        if lands:
            step = rest
        elif step > 0.5 * rest:
            step = 0.5 * rest
        time = break_time if lands else clock[NOW] + step
        rule = _rule(march)
        per_second = leading(rule, step, clock[BEFORE])
        q0, q1, rate = behind(past, Q0 * size), behind(past, Q1 * size), behind(past, RATE * size)
        set_history(rule, step, clock[BEFORE], q0, q1, rate, worker.history, size)
        set_sources(worker, sources, time)
        if has_lines:
            set_arriving(worker, lines, time)
        _predict(worker, march, step)
        worker.setting[START_MODE] = TRUST
        outcome = newton(worker, 0.0, per_second)
        jump = JUMP * clock[STOP]
        jumps = state[POINTS] == 1 and step <= 1.001 * jump
        if outcome != SOLVED and outcome != STOPPED and jumps:
            outcome = find_start(worker, 0.0, per_second)
        state[TRIES] += 1
        if outcome == STOPPED or outcome == TOO_FULL or (outcome != SOLVED and jumps):
            return outcome
        if outcome != SOLVED:
            state[REJECTED] += 1
            clock[STEP] = 0.2 * step
            if clock[STEP] < jump:
                clock[STEP], state[POINTS] = jump, 1
            continue
        charge = _new_charges(worker, march)
        worst = _error(worker, march, rule, step, per_second, charge)
        order = 3.0 if state[POINTS] >= 3 else 2.0
        if not worst <= 1.0 and not jumps:
            state[REJECTED] += 1
            shrunk = SAFETY * worst ** (-1.0 / order) if math.isfinite(worst) else LEAST_SHRINK
            clock[STEP] = step * max(LEAST_SHRINK, min(0.7, shrunk))
            if clock[STEP] < jump:
                # no step is short enough for what jumps: over it with one of backward Euler, and on from there
                clock[STEP], state[POINTS] = jump, 1
            continue
        growth = _grown(worst, clock[LAST_WORST], order)
        if state[TRIES] != 1:
            growth = min(1.0, growth)
        clock[LAST_WORST] = worst
        _accept(worker, march, rule, step, per_second, charge)
        clock[NOW] = time
        clock[STEP] = max(clock[STEP], step) * growth if lands else step * growth
        _write(worker, march, unknowns, readouts, rows)
        if has_lines:
            remember(worker, lines, time, int(time >= break_time))
        if time >= break_time and time < clock[STOP]:
            break_time = breakpoint_after(sources, lines, time, clock[STOP])
            state[POINTS] = 1
            put(behind(past, TURNS * size), 0.0, size)
            clock[STEP] = min(clock[STEP], FIRST_SHARE * (break_time - time))
            _write_other_side(worker, march, sources, lines, break_time, unknowns, readouts, rows)
    return DONE
