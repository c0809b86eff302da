"""The readings of a run: one row a condition, or a value of what their analysis is made within."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from hearthline.core.bench.bench import Bench, Reading
from hearthline.core.bench.readings import Numbers, Run
from hearthline.core.data.dataset import Dataset
from hearthline.core.formats.run_folder.conditions import condition_columns, nested_in


def reading_tables(bench: Bench, run: Run, numbers: Mapping[str, Numbers]) -> dict[str, Mapping[str, np.ndarray]]:
    """`readings`, or `readings-ANALYSIS` for each analysis that nests something of its own."""
    nests: dict[tuple[object, ...], list[str]] = {}
    for reading in bench.readings:
        name = bench.analysis_of(reading)
        if run.results[name].per_condition > 1:
            nests.setdefault(_nest(bench, name, run.results[name]), []).append(name)
    if len(nests) < 2:
        names = next(iter(nests.values()), None) or [next(iter(run.results))]
        return {"readings": _table(bench, run, numbers, names)}
    each = dict.fromkeys(name for names in nests.values() for name in names)
    return {f"readings-{name}": _table(bench, run, numbers, [name]) for name in each}


def _nest(bench: Bench, name: str, data: Dataset) -> tuple[object, ...]:
    inner = nested_in(bench, name, data)
    return inner, tuple(data.conditions[inner][: data.per_condition].tolist())


def _table(bench: Bench, run: Run, numbers: Mapping[str, Numbers], names: list[str]) -> Mapping[str, np.ndarray]:
    """Those of some analyses of the same nesting, with the readings of those that nest nothing repeated."""
    data = run.results[names[0]]
    found = dict(condition_columns(bench, names[0], data))
    for reading in bench.readings:
        values = numbers[reading.name].values
        if bench.analysis_of(reading) in names or _plain(bench, run, reading):
            found[reading.name] = values if len(values) == data.lanes else np.repeat(values, data.per_condition)
    return found


def _plain(bench: Bench, run: Run, reading: Reading) -> bool:
    return run.results[bench.analysis_of(reading)].per_condition == 1
