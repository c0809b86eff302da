"""Steps of many lanes on one time axis: between accepted steps curves are parabolas, true to the order of the rules."""

from __future__ import annotations

import numpy as np

from hearthline.core.data.dataset import Dataset
from hearthline.core.engine.analyses import conditions_of
from hearthline.core.engine.outcome import Outcome
from hearthline.core.engine.transient.run import March, Track

MOST_POINTS = 200_000
"""Of a time axis that holds every step of every lane; beyond it is evenly spaced."""
UNEVEN = 8.0
"""Two neighbouring steps that differ by more than this have a corner between them."""


def at_times(track: Track, times: np.ndarray) -> np.ndarray:
    """The columns of a lane at the given times [s]: (times, columns without the time); NaN beyond where it came to."""
    rows = track.rows
    t, y = rows[:, 0], rows[:, 1:]
    if len(t) < 3:
        return np.full((len(times), y.shape[1]), np.nan)
    after = np.clip(np.searchsorted(t, times), 1, len(t) - 1)
    before = after - 1
    third = _third(t, before, after)
    share = (times - t[before]) / (t[after] - t[before])
    found = y[before] + share[:, None] * (y[after] - y[before])
    bent = third >= 0
    b, a, c = before[bent], after[bent], third[bent]
    slope = (y[a] - y[b]) / (t[a] - t[b])[:, None]
    other = (y[c] - y[b]) / (t[c] - t[b])[:, None]
    bend = (other - slope) / (t[c] - t[a])[:, None]
    found[bent] += bend * ((times[bent] - t[b]) * (times[bent] - t[a]))[:, None]
    found[(times < t[0]) | (times > t[-1])] = np.nan
    return found


def _third(t: np.ndarray, before: np.ndarray, after: np.ndarray) -> np.ndarray:
    """A third point on the smooth side, the nearer one; -1 where there is a corner on both sides."""
    step = t[after] - t[before]
    left, right = before - 1, after + 1
    left_step = np.where(left >= 0, t[before] - t[np.maximum(left, 0)], np.inf)
    right_step = np.where(right < len(t), t[np.minimum(right, len(t) - 1)] - t[after], np.inf)
    smooth_left = (left_step < UNEVEN * step) & (step < UNEVEN * left_step)
    smooth_right = (right_step < UNEVEN * step) & (step < UNEVEN * right_step)
    third = np.where(smooth_left, left, -1)
    return np.where(smooth_right & (~smooth_left | (right_step < left_step)), right, third)


def dataset_of(march: March) -> Dataset:
    """All lanes as one labelled Dataset over time. Lanes that failed are NaN from where they ended."""
    system = march.system
    done = [track.rows[:, 0] for track in march.tracks if len(track.rows)]
    times = np.unique(np.concatenate(done)) if done else np.zeros(0)
    if len(times) > MOST_POINTS:
        times = np.linspace(times[0], times[-1], MOST_POINTS)
    labels = [system.unknowns[k].label for k in march.unknowns] + [system.variables[k].label for k in march.variables]
    units = [{"V": "V", "I": "A"}.get(system.unknowns[k].kind, "") for k in march.unknowns]
    units += [system.variables[k].unit for k in march.variables]
    values = np.full((len(march.tracks), len(times), len(labels)), np.nan)
    for track in march.tracks:
        if len(track.rows):
            values[track.lane] = at_times(track, times)
    reached = np.array([track.reached for track in march.tracks])
    outcomes = np.where(times[None, :] <= reached[:, None] * (1 + 1e-12), int(Outcome.SOLVED), int(Outcome.NOT_RUN))
    curves = {label: values[:, :, k] for k, label in enumerate(labels)}
    return Dataset(
        "tran", "time", "s", times, curves, dict(zip(labels, units, strict=True)), conditions_of(system.lanes), outcomes
    )
