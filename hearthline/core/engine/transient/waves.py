"""Shapes of sources over time, as the Berkeley decks write them, and the breakpoints at which a step must end; compiled."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from hearthline.core.compiled.jit import inner

PULSE, SIN, EXP, PWL, SFFM = range(5)
NAMES = ("pulse", "sin", "exp", "pwl", "sffm")
NEVER = 1e300
STEPS_A_PERIOD = 12
"""No step is longer than this part of the period of a sine: its start looks flat to any estimate of error."""


MUST_NOT_BE_NEGATIVE = {
    PULSE: {"rise time": 3, "fall time": 4, "width": 5, "period": 6}, SIN: {"frequency": 2},
    EXP: {"first time constant": 3, "second time constant": 5}, PWL: {},
    SFFM: {"carrier's frequency": 2, "signal's frequency": 4},
}  # fmt: skip
"""Where such a number stands among those of a shape; 0 takes the default, as the Berkeley decks have it."""


@dataclass(frozen=True)
class WaveInLanes:
    """A shape with its numbers (lanes, count); NaN where the deck leaves one out."""

    kind: int
    numbers: np.ndarray

    def at_the_beginning(self, direct: np.ndarray) -> np.ndarray:
        """The value at t = 0 in each lane [V or A]; `direct` where the shape does not say."""
        first = {PULSE: 0, EXP: 0, PWL: 1}.get(self.kind)
        if first is None:
            full = self.complete(1.0, 1.0).numbers
            swing = full[:, 1] * np.sin(np.radians(full[:, 5])) if self.kind == SIN else 0.0
            return full[:, 0] + swing
        if self.kind == PWL and (self.numbers[:, 0] < 0).any():
            return np.array([np.interp(0.0, row[::2], row[1::2]) for row in self.numbers])
        return np.where(np.isnan(self.numbers[:, first]), direct, self.numbers[:, first])

    def complete(self, step: float, stop: float) -> WaveInLanes:
        """With the defaults that depend on the print step and the end of the analysis [s]."""
        return WaveInLanes(self.kind, _DEFAULTS[self.kind](self.numbers, step, stop))


def _filled(numbers: np.ndarray, defaults: list[float]) -> np.ndarray:
    full = np.full((len(numbers), len(defaults)), np.nan)
    full[:, : numbers.shape[1]] = numbers[:, : len(defaults)]
    return np.where(np.isnan(full), np.array(defaults)[None, :], full)


def _pulse(numbers: np.ndarray, step: float, stop: float) -> np.ndarray:
    full = _filled(numbers, [0.0, 0.0, 0.0, step, step, stop, NEVER])
    for k in (3, 4):  # an edge takes time
        full[:, k] = np.where(full[:, k] <= 0.0, step, full[:, k])
    for k in (5, 6):
        full[:, k] = np.where(full[:, k] <= 0.0, (stop, NEVER)[k - 5], full[:, k])
    return full


def _sin(numbers: np.ndarray, step: float, stop: float) -> np.ndarray:
    full = _filled(numbers, [0.0, 0.0, 1.0 / stop, 0.0, 0.0, 0.0])
    full[:, 2] = np.where(full[:, 2] <= 0.0, 1.0 / stop, full[:, 2])
    return full


def _exp(numbers: np.ndarray, step: float, stop: float) -> np.ndarray:
    full = _filled(numbers, [0.0, 0.0, 0.0, step, NEVER, step])
    full[:, 4] = np.where(full[:, 4] == NEVER, full[:, 2] + step, full[:, 4])
    for k in (3, 5):
        full[:, k] = np.where(full[:, k] <= 0.0, step, full[:, k])
    return full


def _sffm(numbers: np.ndarray, step: float, stop: float) -> np.ndarray:
    return _filled(numbers, [0.0, 0.0, 1.0 / stop, 0.0, 1.0 / stop])


_DEFAULTS: dict[int, Callable] = {
    PULSE: _pulse, SIN: _sin, EXP: _exp, SFFM: _sffm, PWL: lambda numbers, step, stop: numbers,
}  # fmt: skip


@inner
def wave_value(kind, p, count, t):
    """The source at time t [s]; p are its `count` numbers."""
    if kind == PULSE:
        return _pulse_value(p, t)
    if kind == SIN:
        since = max(t - p[3], 0.0)
        phase = p[5] * math.pi / 180.0
        return p[0] + p[1] * math.exp(-since * p[4]) * math.sin(2.0 * math.pi * p[2] * since + phase)
    if kind == EXP:
        value = p[0]
        if t > p[2]:
            value += (p[1] - p[0]) * -math.expm1(-(t - p[2]) / p[3])
        if t > p[4]:
            value += (p[0] - p[1]) * -math.expm1(-(t - p[4]) / p[5])
        return value
    if kind == SFFM:
        return p[0] + p[1] * math.sin(2.0 * math.pi * p[2] * t + p[3] * math.sin(2.0 * math.pi * p[4] * t))
    return _pwl_value(p, count, t)


@inner
def _pulse_value(p, t):
    low, high, delay, rise, fall, width, period = p[0], p[1], p[2], p[3], p[4], p[5], p[6]
    since = t - delay
    if since <= 0.0:
        return low
    if period < NEVER:
        since -= period * math.floor(since / period)
    if since < rise:
        return low + (high - low) * since / rise
    if since <= rise + width:
        return high
    if since < rise + width + fall:
        return high + (low - high) * (since - rise - width) / fall
    return low


@inner
def _pwl_value(p, count, t):
    last = count // 2 - 1
    if t <= p[0]:
        return p[1]
    if t >= p[2 * last]:
        return p[2 * last + 1]
    k = _pwl_segment(p, last, t)
    begin, end = p[2 * k], p[2 * k + 2]
    return p[2 * k + 1] + (p[2 * k + 3] - p[2 * k + 1]) * (t - begin) / (end - begin)


@inner
def _pwl_segment(p, last, t):
    """The last point that is not behind t, by halving."""
    low, high = 0, last
    while high - low > 1:
        middle = (low + high) // 2
        if p[2 * middle] <= t:
            low = middle
        else:
            high = middle
    return low


@inner
def next_breakpoint(kind, p, count, t):
    """The first time after t where the shape has a breakpoint; NEVER where there is none."""
    near = t + 1e-12 * abs(t) + 1e-24
    if kind == PULSE:
        return _pulse_breakpoint(p, near)
    if kind == SIN:
        return p[3] if p[3] > near else NEVER
    if kind == EXP:
        if p[2] > near:
            return p[2]
        return p[4] if p[4] > near else NEVER
    if kind == PWL:
        last = count // 2 - 1
        if near < p[0]:
            return p[0]
        if near >= p[2 * last]:
            return NEVER
        return p[2 * _pwl_segment(p, last, near) + 2]
    return NEVER


@inner
def _pulse_breakpoint(p, t):
    delay, rise, fall, width, period = p[2], p[3], p[4], p[5], p[6]
    if t < delay:
        return delay
    start = delay
    if period < NEVER:
        start += period * math.floor((t - delay) / period)
    for _ in range(2):
        for break_time in (start, start + rise, start + rise + width, start + rise + width + fall):
            if break_time > t and break_time - start <= period:
                return break_time
        if period >= NEVER:
            return NEVER
        start += period
    return start


@inner
def longest_step(kind, p):
    """The longest step that cannot miss the shape [s]."""
    if kind == SIN or kind == SFFM:
        frequency = p[2] + abs(p[3]) * p[4] if kind == SFFM else p[2]
        return 1.0 / (STEPS_A_PERIOD * max(frequency, 1e-300))
    return NEVER
