"""Ideal lines in time: what enters a port is remembered and arrives at the other port a delay later; compiled.

Between accepted points a wave is the parabola through three of them that have no breakpoint between, and a straight line
where there are none such.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hearthline.core.compiled.codes import IM, F, I, M, record
from hearthline.core.compiled.jit import inner
from hearthline.core.engine.transient.waves import NEVER

COUNT, PENDING = range(2)
MOST_PENDING = 512
"""Corners under way; more are not waited for, and cost small steps where they arrive."""


class Lines(NamedTuple):
    """All lines of a circuit: `nodes` (lines, 6) of their unknowns, `slots` of the wave that arrives at port 1 in the
    values (port 2 is behind it), impedances [Ω], delays [s]; the memory `times` (room,), `waves` (room, 2 lines) [V],
    `breakpoints` (room,) not 0 where a breakpoint was; `arrivals` of breakpoints that are under way [s]; and `state`."""

    nodes: np.ndarray
    slots: np.ndarray
    impedances: np.ndarray
    delays: np.ndarray
    times: np.ndarray
    waves: np.ndarray
    breakpoints: np.ndarray
    arrivals: np.ndarray
    state: np.ndarray


LINES = record(Lines, IM, I, F, F, F, M, I, F, I)


def lines_of(nodes, slots, impedances, delays, room: int = 1 << 12) -> Lines:
    """Lines that remember nothing yet."""
    count = len(slots)
    return Lines(
        nodes, slots, impedances, delays, np.zeros(room), np.zeros((room, 2 * count)), np.zeros(room, np.int64),
        np.full(MOST_PENDING, NEVER), np.zeros(2, np.int64),
    )  # fmt: skip


def with_more_room(lines: Lines) -> Lines:
    """The same with twice the memory."""
    grown = lines_of(lines.nodes, lines.slots, lines.impedances, lines.delays, 2 * len(lines.times))
    for new, old in ((grown.times, lines.times), (grown.waves, lines.waves), (grown.breakpoints, lines.breakpoints)):
        new[: len(old)] = old
    grown.arrivals[:], grown.state[:] = lines.arrivals, lines.state
    return grown


@inner
def has_room(lines, now):
    """Whether one more point can be remembered; forgets what has arrived everywhere to make room."""
    count = lines.state[COUNT]
    if lines.slots.shape[0] == 0 or count < lines.times.shape[0]:
        return True
    longest = 0.0
    for k in range(lines.delays.shape[0]):
        longest = max(longest, lines.delays[k])
    first = max(0, _first_not_before(lines.times, count, now - longest) - 3)
    if first < count // 2:
        return False
    left = count - first
    for k in range(left):
        lines.times[k], lines.breakpoints[k] = lines.times[first + k], lines.breakpoints[first + k]
        lines.waves[k] = lines.waves[first + k]
    lines.state[COUNT] = left
    return True


@inner
def remember(worker, lines, time, is_breakpoint):
    """Writes down what enters the ports at an accepted point."""
    if lines.slots.shape[0] == 0:
        return
    k, x = lines.state[COUNT], worker.x
    lines.times[k], lines.breakpoints[k] = time, is_breakpoint
    for j in range(lines.slots.shape[0]):
        at, z = lines.nodes[j], lines.impedances[j]
        lines.waves[k, 2 * j] = x[at[0]] - x[at[1]] + z * x[at[4]]
        lines.waves[k, 2 * j + 1] = x[at[2]] - x[at[3]] + z * x[at[5]]
    lines.state[COUNT] += 1
    if is_breakpoint:
        for j in range(lines.delays.shape[0]):
            _expect(lines, time + lines.delays[j])


@inner
def _expect(lines, time):
    """A breakpoint will arrive at that time."""
    free = -1
    for k in range(MOST_PENDING):
        if abs(lines.arrivals[k] - time) <= 1e-9 * time:
            return
        if lines.arrivals[k] >= NEVER and free < 0:
            free = k
    if free >= 0:
        lines.arrivals[free] = time


@inner
def next_arrival(lines, time):
    """The next breakpoint that arrives after this time; those before are done with."""
    nearest = NEVER
    if lines.slots.shape[0] == 0:
        return nearest
    for k in range(MOST_PENDING):
        if lines.arrivals[k] <= time * (1.0 + 1e-12):
            lines.arrivals[k] = NEVER
        nearest = min(nearest, lines.arrivals[k])
    return nearest


@inner
def set_arriving(worker, lines, time):
    """Puts what arrives at every port at that time into the values."""
    for j in range(lines.slots.shape[0]):
        when = time - lines.delays[j]
        worker.values[lines.slots[j]] = _wave(lines, 2 * j + 1, when)
        worker.values[lines.slots[j] + 1] = _wave(lines, 2 * j, when)


@inner
def _first_not_before(times, count, when):
    """How many of the first `count` times, which rise, are before another, by halving."""
    low, high = 0, count
    while low < high:
        middle = (low + high) // 2
        if times[middle] < when:
            low = middle + 1
        else:
            high = middle
    return low


@inner
def _wave(lines, column, when):
    times, waves, count = lines.times, lines.waves, lines.state[COUNT]
    if when <= times[0] or count < 2:
        return waves[0, column]
    after = min(_first_not_before(times, count, when), count - 1)
    before = after - 1
    third = -1
    if before > 0 and lines.breakpoints[before] == 0:
        third = before - 1
    elif after + 1 < count and lines.breakpoints[after] == 0:
        third = after + 1
    span = times[after] - times[before]
    share = (when - times[before]) / span
    value = waves[before, column] + share * (waves[after, column] - waves[before, column])
    if third < 0:
        return value
    slope = (waves[after, column] - waves[before, column]) / span
    other = (waves[third, column] - waves[before, column]) / (times[third] - times[before])
    bend = (other - slope) / (times[third] - times[after])
    return value + bend * (when - times[before]) * (when - times[after])
