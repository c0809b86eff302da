"""What is shown of what is selected on the drawing.

Of a device when an oscillation's noise is shown: how strongly it is there at each phase, how the phase answers, and both
together. Of a net when an oscillation is: its course, how the phase answers to a charge into it, and within what a current into
it would lock the oscillation.
"""

from __future__ import annotations

import numpy as np

from hearthline.core.bench.bench import Bench, Watch
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.products import lock_range
from hearthline.core.quantity import write

SHIFT, STRENGTH, ACTION = ".shift", ".strength", ".action"
INJECTED, HARMONICS = 1e-5, 3
"""[A] Of the current that may lock it, and about how many of its harmonics."""
MOST = 3
"""Mechanisms of a device, those that do most."""


def part_watches(bench: Bench, analysis: str, data: Dataset | None, part: str, lane: int) -> tuple[Watch, ...]:
    """Of a flat part; none where the analysis says nothing of it. The effective value of both together is that of a lane."""
    if data is None or data.kind != "phase_noise" or data.wave is None or not part:
        return ()
    wave, lane = data.wave, min(lane, data.lanes - 1)
    names = [label[: -len(ACTION)] for label in wave.curves if label.startswith(f"{part}.") and label.endswith(ACTION)]
    names = [name for name in names if "." not in name[len(part) + 1 :]]
    done = {name: _effective(wave.curves[name + ACTION][lane]) for name in names}
    names = sorted((name for name in names if done[name] > 0), key=lambda name: -done[name])[:MOST]
    if not names:
        return ()
    found = []
    if f"{part}.gm" in wave.curves:
        found.append(Watch(_over_largest(f"{part}.gm"), f"gm of {part}", "%", analysis, "part gm"))
    for name in names:
        found.append(Watch(f"in_time({name}{SHIFT})", f"answer: {name[len(part) + 1 :]}", "", analysis, "part answer"))
    for name in names:
        title = f"noise: {name[len(part) + 1 :]}"
        found.append(Watch(_over_largest(name + STRENGTH), title, "%", analysis, "part strength"))
    for name in names:
        title = f"both: {name[len(part) + 1 :]} {write(done[name], '', 3)}"
        found.append(Watch(_over_largest(name + ACTION), title, "%", analysis, "part product"))
    return tuple(found)


def net_watches(analysis: str, data: Dataset | None, net: str, lane: int) -> tuple[Watch, ...]:
    """Of a flat net; none where the analysis is no oscillation."""
    if data is None or data.kind != "oscillation" or data.wave is None or f"shift({net})" not in data.wave.curves:
        return ()
    wave, lane = data.wave, min(lane, data.lanes - 1)
    shift, times = wave.curves[f"shift({net})"][lane : lane + 1], wave.points
    if not np.isfinite(shift).all():
        return ()
    times = times[lane] if times.ndim > 1 else times
    widths = [float(lock_range(shift, times, INJECTED, k)[0, 0]) for k in range(1, HARMONICS + 1)]
    each = ", ".join(f"{write(width, 'Hz', 3)} about {k or ''}f0" for k, width in zip(("", 2, 3), widths, strict=True))
    return (
        Watch(f"in_time(V({net}))", f"V({net})", "", analysis, "net volts"),
        Watch(
            f"in_time(shift({net}))",
            f"answer of the phase; {write(INJECTED, 'A', 2)} lock {each}",
            "",
            analysis,
            "net shift",
        ),
    )


def _over_largest(label: str) -> str:
    """As a share of its largest, so that mechanisms of very different size are seen together."""
    return f"100 * in_time({label}) / peak(abs(in_time({label})))"


def _effective(values: np.ndarray) -> float:
    return float(np.sqrt(np.nanmean(np.abs(values) ** 2)))
