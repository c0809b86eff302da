"""Runs as netCDF-4 files, one each, never overwritten: a group for each analysis, which xarray opens with one line.

The circuit, the bench and the versions a run came from are attributes of the file, as the text of their own formats. netCDF
has no complex numbers: those have a last axis `part`, real and imaginary.
"""

from __future__ import annotations

import json
import os
from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import datetime
from pathlib import Path

import numpy as np

from hearthline.core.bench.bench import Bench, key_of
from hearthline.core.bench.readings import Numbers, Reader, Run
from hearthline.core.circuit.cell import Cell
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import FileError
from hearthline.core.formats.bench_file import FIRST_ANALYSIS, bench_data, bench_of
from hearthline.core.formats.cell_file import cell_data, cell_of
from hearthline.core.formats.run_datasets import condition_of, read_dataset, write_dataset_group
from hearthline.core.formats.run_samples import read_samples, write_samples
from hearthline.core.formats.toml_table import Table
from hearthline.core.spread.pvt import Condition
from hearthline.core.version import VERSION

FORMAT = 2
COLD = "isothermal "
"""Begins the group of an analysis without heat."""
SAMPLES = "sample-set"
"""The group of the samples; no analysis can be called so."""


@dataclass(frozen=True)
class Record:
    """What a run was made of: when, the tables of its bench and cells, the kit, the bases of its analyses, its conditions, the
    numbers that were read from it when it was made, its size on disk, and the texts of its deck by what they are called."""

    path: Path
    made: datetime
    bench: Mapping
    cells: Mapping[str, Mapping]
    kit: str = ""
    fingerprint: str = ""
    conditions: tuple[Condition, ...] = ()
    readings: Mapping[str, tuple] = field(default_factory=dict)
    note: str = ""
    size: int = 0
    files: Mapping[str, str] = field(default_factory=dict)

    @property
    def bench_key(self) -> str:
        """Key of the bench in its project."""
        return key_of(str(self.bench.get("cell", "")), str(self.bench.get("deck", "")), str(self.bench["name"]))


@dataclass(frozen=True)
class StoredRun:
    """A run read back; its `run` has no snapshot."""

    record: Record
    run: Run


def write_run(
    folder: Path, run: Run, made: datetime, note: str = "", numbers: Mapping[str, Numbers] | None = None
) -> Path:
    """Stores `run` in a new file of `folder` and returns its path; `numbers` are its readings where they were taken already.
    Raises FileError."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"the run cannot be stored: {error.strerror}", str(folder)) from None
    path = _free_name(folder, run.snapshot.bench.key, made)
    write_run_file(path, run, made, note, numbers)
    return path


def write_run_file(
    path: Path, run: Run, made: datetime, note: str = "", numbers: Mapping[str, Numbers] | None = None
) -> None:
    """Stores `run` in a file of that name. Raises FileError."""
    import h5netcdf

    try:
        beside = path.with_suffix(".new")
        with h5netcdf.File(beside, "w") as file:
            _write(file, run, made, note, numbers or Reader(run.snapshot.bench, run.results).all())
        with open(beside, "rb") as written:
            os.fsync(written.fileno())
        beside.rename(path)
    except Exception as error:
        with suppress(OSError, UnboundLocalError):
            beside.unlink()
        reason = getattr(error, "strerror", None) or str(error) or type(error).__name__
        raise FileError(f"the run cannot be stored: {reason}", str(path.parent)) from error


def _free_name(folder: Path, key: str, made: datetime) -> Path:
    stem = f"{made:%Y%m%d-%H%M%S}-{key}"
    names = [stem, *(f"{stem}-{n}" for n in range(2, 1000))]
    return next(path for name in names if not (path := folder / f"{name}.nc").exists())


def _write(file, run: Run, made: datetime, note: str, numbers: Mapping[str, Numbers]) -> None:
    for name, data in run.results.items():
        write_dataset_group(file.create_group(name), data)
    for name, data in run.cold.items():
        write_dataset_group(file.create_group(f"{COLD}{name}"), data)
    if run.samples is not None:
        write_samples(file.create_group(SAMPLES), run.samples)
    snapshot = run.snapshot
    file.attrs["hearthline_format"] = FORMAT
    file.attrs["hearthline_version"] = VERSION
    file.attrs["made"] = made.isoformat(timespec="microseconds")
    file.attrs["process"] = snapshot.kit.name
    file.attrs["fingerprint"] = snapshot.kit.fingerprint
    file.attrs["note"] = note
    file.attrs["seconds"] = run.seconds
    texts = {
        "analyses": list(run.results),
        "bases": dict(run.bases),
        "conditions": [[one.corner, one.celsius, dict(one.parameters), one.around] for one in run.conditions],
        "bench": bench_data(snapshot.bench),
        "cells": {name: cell_data(cell) for name, cell in snapshot.cells.items()},
        "files": dict(snapshot.written.files) if snapshot.written else {},
        "log": list(run.log),
        "failures": {name: {str(k): text for k, text in found.items()} for name, found in run.failures.items()},
        "readings": {n: [[_plain(v) for v in one.values], one.unit] for n, one in numbers.items()},
    }
    for name, value in texts.items():
        file.attrs[name] = json.dumps(value)


def _plain(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def read_run(path: Path) -> StoredRun:
    """The run in the file at `path`. Raises FileError for a file that is not one of ours or is damaged."""
    return _open(path, _read)


def read_record(path: Path) -> Record:
    """Only what a run was made of, without its curves. Raises FileError as `read_run` does."""
    return _open(path, _record)


def made_of(record: Record) -> tuple[Bench, dict[str, Cell]]:
    """The bench and the cells of a run, as they were. Raises FileError."""
    name = record.path.name
    cells = {key: cell_of(Table(dict(data), name, ""), key) for key, data in record.cells.items()}
    return bench_of(Table(dict(record.bench), name, "")), cells


def _open(path: Path, read: Callable):
    import h5netcdf

    try:
        with h5netcdf.File(path, "r") as file:
            return read(file, path)
    except Exception as error:  # whatever a damaged file makes of the library that reads it
        problem = f"is not a run of Hearthline or is damaged ({error}); delete it and run again"
        raise FileError(problem, path.name) from None


def _record(file, path: Path) -> Record:
    attributes = file.attrs
    version = int(attributes["hearthline_format"])
    if version > FORMAT:
        raise ValueError("it was written by a newer version")
    if version < 2:
        return _first_record(file, path)
    made = datetime.fromisoformat(str(attributes["made"]))
    conditions = tuple(Condition(*one) for one in json.loads(attributes["conditions"]))
    return Record(
        path, made, json.loads(attributes["bench"]), json.loads(attributes["cells"]), str(attributes["process"]),
        str(attributes["fingerprint"]), conditions,
        {name: tuple(one) for name, one in json.loads(attributes["readings"]).items()},
        str(attributes["note"]), path.stat().st_size, json.loads(attributes.get("files", "{}")),
    )  # fmt: skip


# runs of the first format: one sweep, at the root of the file


def _first_record(file, path: Path) -> Record:
    attributes = file.attrs
    columns = {name: condition_of(file[name]) for name in str(attributes["conditions"]).split()}
    others = [name for name in columns if name not in ("corner", "temperature")]
    conditions = tuple(
        Condition(
            str(columns["corner"][k]), float(columns["temperature"][k]), {n: float(columns[n][k]) for n in others}
        )
        for k in range(len(columns["corner"]))
    )
    made = datetime.fromisoformat(str(attributes["made"]))
    bench, cells = json.loads(attributes["bench"]), json.loads(attributes["cells"])
    return Record(path, made, bench, cells, str(attributes["process"]), "", conditions, {}, "", path.stat().st_size)


def _first_run(file, path: Path) -> StoredRun:
    attributes, record = file.attrs, _first_record(file, path)
    axis = next(name for name in file.dimensions if name != "lane")
    curves = {label: file[label][...] for label in json.loads(attributes["curves"])}
    units = {label: str(file[label].attrs["units"]) for label in curves}
    columns = {name: condition_of(file[name]) for name in str(attributes["conditions"]).split()}
    data = Dataset(
        str(attributes["analysis"]), axis, str(file[axis].attrs["units"]), file[axis][...], curves, units, columns,
        file["outcome"][...].astype(np.int64),
    )  # fmt: skip
    failures = {int(lane): text for lane, text in json.loads(attributes["failures"]).items()}
    log = tuple(json.loads(attributes["log"]))
    return StoredRun(
        record,
        Run(
            None, {FIRST_ANALYSIS: data}, record.conditions, log, float(attributes["seconds"]),
            {FIRST_ANALYSIS: failures} if failures else {}, {FIRST_ANALYSIS: "of the first format"},
        ),
    )  # fmt: skip


def _read(file, path: Path) -> StoredRun:
    attributes = file.attrs
    if int(attributes["hearthline_format"]) < 2:
        return _first_run(file, path)
    results = {name: read_dataset(file[name]) for name in json.loads(attributes["analyses"])}
    record = _record(file, path)
    failures = {
        name: {int(lane): text for lane, text in found.items()}
        for name, found in json.loads(attributes["failures"]).items()
    }
    bases = json.loads(attributes["bases"])
    log = tuple(json.loads(attributes["log"]))
    seconds = float(attributes["seconds"])
    samples = read_samples(file[SAMPLES]) if SAMPLES in file.groups else None
    cold = {name: read_dataset(file[f"{COLD}{name}"]) for name in results if f"{COLD}{name}" in file.groups}
    run = Run(None, results, record.conditions, log, seconds, failures, bases, samples=samples, cold=cold)
    return StoredRun(record, run)
