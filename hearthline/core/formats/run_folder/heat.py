"""Temperatures of a run as a table: a row for each finger of each solved point."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from hearthline.core.bench.readings import Run
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.heat import hot_label, power_label
from hearthline.core.formats.bench_source import BenchSource
from hearthline.core.formats.run_folder.conditions import condition_columns

HEAT = "heat"
SWEPT = ("op", "dc")
"""Kinds whose every point is one that heat is solved at; of others it is one a condition."""


def heat_tables(source: BenchSource, run: Run) -> dict[str, Mapping[str, np.ndarray]]:
    """Under the name of the file; nothing where a run is isothermal."""
    setup = source.bench.heat
    if setup is None or setup.isothermal:
        return {}
    fingers = [(one.part, k + 1) for one in setup.plan().sources for k in range(one.fingers)]
    pieces = [_rows(source, name, data, fingers) for name, data in run.results.items()]
    names = list(dict.fromkeys(key for piece in pieces for key in piece))
    last = ("analysis", "at", "part", "finger", "power", "hot")
    order = [*(name for name in names if name not in last), *last]
    return {HEAT: {name: np.concatenate([_column(piece, name) for piece in pieces]) for name in order}}


def _column(piece: Mapping[str, np.ndarray], name: str) -> np.ndarray:
    return piece[name] if name in piece else np.full(len(piece["part"]), "")


def _rows(source: BenchSource, name: str, data: Dataset, fingers: list[tuple[str, int]]) -> dict[str, np.ndarray]:
    every = data.solved_rows
    rows = every if data.kind in SWEPT else every[np.unique(every // data.width, return_index=True)[1]]
    lane, times = rows // data.width, len(fingers)
    found = {key: np.repeat(values[lane], times) for key, values in condition_columns(source.bench, name, data).items()}
    at = np.full(len(rows), "", dtype=object)
    if data.kind == "dc":
        axis = np.broadcast_to(data.points, data.outcomes.shape).reshape(-1)[rows]
        at = np.array([repr(float(one)) for one in axis], dtype=object)
    hot = np.stack([data.curves[hot_label(*one)].reshape(-1)[rows] for one in fingers], axis=1)
    power = np.stack([data.curves[power_label(*one)].reshape(-1)[rows] for one in fingers], axis=1)
    found |= {"analysis": np.full(len(rows) * times, name), "at": np.repeat(at.astype(str), times)}
    found |= {"part": np.tile([part for part, _ in fingers], len(rows)).astype(str)}
    found |= {"finger": np.tile([str(number) for _, number in fingers], len(rows))}
    return found | {"power": power.reshape(-1), "hot": hot.reshape(-1)}
