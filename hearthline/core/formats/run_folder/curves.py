"""The curves of a run: a table for each analysis, one row a point of a condition."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from hearthline.core.bench.bench import Watch
from hearthline.core.bench.readings import Reader, Run
from hearthline.core.data.dataset import Dataset
from hearthline.core.data.formula import Formula
from hearthline.core.data.rows import columns_of, split
from hearthline.core.errors import HearthlineError
from hearthline.core.formats.bench_source import BenchSource
from hearthline.core.formats.run_folder.conditions import condition_columns
from hearthline.core.formats.run_folder.samples import SAMPLE, stacked

Columns = Mapping[str, np.ndarray]


def curve_tables(source: BenchSource, run: Run, reader: Reader) -> dict[str, Columns]:
    """By the name of the analysis. Raises FileError at the formula of a watch that does not fit."""
    found = {name: _table(source, name, data, reader) for name, data in run.results.items()}
    waves = {
        f"{name}-wave": _plain_table(source, name, data.wave)
        for name, data in run.results.items()
        if data.wave is not None
    }
    if run.samples is None:
        return found | waves
    of_samples = Reader(source.bench, run.samples.curves)
    for name, columns in found.items():
        data = run.samples.curves.get(name)
        own: Columns = {SAMPLE: np.zeros(0, dtype=str)}
        if data is not None:
            number = data.conditions[SAMPLE][data.solved_rows // data.width]
            own = {**_table(source, name, data, of_samples), SAMPLE: np.array([f"{k:.0f}" for k in number], dtype=str)}
        found[name] = stacked(source.bench, columns, own)
    return found | waves


def _plain_table(source: BenchSource, name: str, data: Dataset) -> dict[str, np.ndarray]:
    """Conditions, axis, and what the dataset holds."""
    rows = data.solved_rows
    lane = rows // data.width
    found = {key: values[lane] for key, values in condition_columns(source.bench, name, data).items()}
    if data.axis != "point":
        axis = np.broadcast_to(data.points, data.outcomes.shape).reshape(-1)
        found[data.axis] = axis[rows]
    return found | {label: values[rows] for label, values in columns_of(data).items() if label not in found}


def _table(source: BenchSource, name: str, data: Dataset, reader: Reader) -> Columns:
    rows, found = data.solved_rows, _plain_table(source, name, data)
    for watch in source.bench.watches:
        label = watch.formula if watch.shown in found or watch.shown in data.curves else watch.shown
        if source.bench.analysis_of(watch) == name and label not in data.curves:
            found |= {key: values[rows] for key, values in _watched(source, watch, label, data, reader).items()}
    return found


def _watched(source: BenchSource, watch: Watch, label: str, data: Dataset, reader: Reader) -> Columns:
    """The curve of a formula under a label; nothing where it runs over the axis of another analysis."""
    try:
        formula = Formula.parse(watch.formula, source.bench.analysis_names)
        values = formula.evaluate(reader.scope(source.bench.analysis_of(watch))).values
    except HearthlineError as error:
        raise source.of_watch(watch, str(error)) from None
    if values.shape[0] not in (1, data.lanes) or values.shape[1] not in (1, data.width):
        return {}
    return split(label, np.broadcast_to(values, data.outcomes.shape).reshape(-1))
