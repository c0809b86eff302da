"""The samples of a run as tables: what varied and what was read, the yields, and what makes each reading vary."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np

from hearthline.core.bench.bench import Bench
from hearthline.core.bench.passing import YieldRow, yield_rows
from hearthline.core.bench.readings import Run
from hearthline.core.formats.run_folder.conditions import nested_in, plain_columns
from hearthline.core.spread.contributions import contributions
from hearthline.core.spread.samples import SampleSet

Columns = Mapping[str, np.ndarray]
SAMPLE = "sample"


def sample_tables(bench: Bench, run: Run) -> dict[str, Columns]:
    """`samples`, `yield` and `contributions`; nothing of a run without samples."""
    samples = run.samples
    if samples is None:
        return {}
    return {
        "samples": _samples(bench, run, samples),
        "yield": yield_table(yield_rows(bench, samples)),
        "contributions": _contributions(samples),
    }


def row_columns(bench: Bench, run: Run, samples: SampleSet) -> Columns:
    """The columns of the condition, a row each: what is nested goes behind `sample`."""
    inner = {nested_in(bench, name, data) for name, data in run.results.items()} - {""}
    plain = plain_columns(bench)
    names = [name for name in plain if name in samples.rows and name not in inner]
    nested = [name for name in samples.rows if name in inner]
    return (
        {name: samples.rows[name] for name in names}
        | {SAMPLE: np.zeros(0)}
        | {name: samples.rows[name] for name in nested}
    )


def _spread(samples: SampleSet, columns: Columns) -> dict[str, np.ndarray]:
    """A row for each sample and row, samples slowest."""
    rows = len(next(iter(samples.rows.values()), np.zeros(1)))
    found = {}
    for name, column in columns.items():
        if name == SAMPLE:
            found[name] = np.repeat(np.array([str(k + 1) for k in range(samples.count)], dtype=str), rows)
        else:
            found[name] = np.tile(column, samples.count)
    return found


def _samples(bench: Bench, run: Run, samples: SampleSet) -> Columns:
    found = _spread(samples, row_columns(bench, run, samples))
    rows = len(found[SAMPLE]) // max(samples.count, 1)
    for name in samples.names:
        found[name] = np.repeat(samples.numbers(name), rows)
    return found | {name: table.ravel() for name, table in samples.values.items()}


def yield_table(rows: Iterable[YieldRow]) -> Columns:
    """A row a specification, last that of all; a limit that is not there is left empty."""
    rows = list(rows)

    def texts(values: Iterable[float]) -> np.ndarray:
        return np.array([repr(float(v)) if np.isfinite(v) else "" for v in values], dtype=str)

    return {
        "reading": np.array([one.reading for one in rows], dtype=str),
        "low": texts(one.low for one in rows),
        "high": texts(one.high for one in rows),
        "passed": np.array([one.share.passed for one in rows], int),
        "count": np.array([one.share.count for one in rows], int),
        "yield": np.array([one.share.share for one in rows], float),
        "ci_low": np.array([one.share.low for one in rows], float),
        "ci_high": np.array([one.share.high for one in rows], float),
    }


def _contributions(samples: SampleSet) -> Columns:
    """Linear ones, of each reading at the first row."""
    rows = [(name, one.name, one.share) for name in samples.values if samples.count
            for one in contributions(samples, samples.reading(name))]  # fmt: skip
    return {
        "reading": np.array([one[0] for one in rows], dtype=str),
        "variable": np.array([one[1] for one in rows], dtype=str),
        "share": np.array([one[2] for one in rows], float),
    }


def with_samples(bench: Bench, run: Run, tables: Mapping[str, Columns]) -> dict[str, Columns]:
    """The readings with a column `sample`: empty in rows of the nominal circuit, which go first."""
    samples = run.samples
    if samples is None:
        return dict(tables)
    found = {}
    for name, columns in tables.items():
        own = _spread(samples, row_columns(bench, run, samples))
        if name == "readings":
            own |= {reading: table.ravel() for reading, table in samples.values.items() if reading in columns}
            found[name] = stacked(bench, columns, own)
        else:
            found[name] = stacked(bench, columns, {SAMPLE: np.zeros(0, dtype=str)})
    return found


def stacked(bench: Bench, first: Columns, then: Columns) -> Columns:
    """Rows of the nominal circuit, then those of samples; what the latter lack is not a number."""
    count, more = len(next(iter(first.values()))), len(then[SAMPLE])
    before = plain_columns(bench)
    found: dict[str, np.ndarray] = {}

    def add(name: str) -> None:
        column = then.get(name)
        found[name] = np.concatenate([first[name], np.full(more, np.nan) if column is None else column])

    for name in first:
        if name not in before and SAMPLE not in found:
            found[SAMPLE] = np.concatenate([np.full(count, "", dtype=f"U{len(str(more)) + 1}"), then[SAMPLE]])
        add(name)
    return found
