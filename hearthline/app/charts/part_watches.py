"""What is shown of the device that is selected on the drawing when an oscillation's noise is: how strongly it is there at each
phase, how the phase answers, and both together."""

from __future__ import annotations

import numpy as np

from hearthline.core.bench.bench import Bench, Watch
from hearthline.core.data.dataset import Dataset
from hearthline.core.quantity import write

SHIFT, STRENGTH, ACTION = ".shift", ".strength", ".action"
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


def _over_largest(label: str) -> str:
    """As a share of its largest, so that mechanisms of very different size are seen together."""
    return f"100 * in_time({label}) / peak(abs(in_time({label})))"


def _effective(values: np.ndarray) -> float:
    return float(np.sqrt(np.nanmean(np.abs(values) ** 2)))
