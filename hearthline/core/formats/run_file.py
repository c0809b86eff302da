"""Runs as netCDF-4 files, one each, never overwritten. xarray opens them with one line.

The circuit, the bench and the versions a run came from are attributes of the file, as the text of their own formats.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

import numpy as np

from hearthline import __version__
from hearthline.core.bench.readings import Run
from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import FileError
from hearthline.core.formats.bench_file import bench_data
from hearthline.core.formats.cell_file import cell_data

FORMAT = 1


@dataclass(frozen=True)
class Record:
    """What a run was made of: when, and the tables of its bench and cells."""

    path: Path
    made: datetime
    bench: Mapping
    cells: Mapping[str, Mapping]

    @property
    def bench_key(self) -> str:
        """Key of the bench in its project."""
        return f"{self.bench['cell']}-{self.bench['name']}"


@dataclass(frozen=True)
class StoredRun:
    """A run read back."""

    record: Record
    dataset: Dataset
    log: tuple[str, ...]
    failures: Mapping[int, str]
    seconds: float


def write_run(folder: Path, run: Run, made: datetime) -> Path:
    """Stores `run` in a new file of `folder` and returns its path. Raises FileError."""
    import h5netcdf

    try:
        folder.mkdir(parents=True, exist_ok=True)
        path = _free_name(folder, run.snapshot.bench.key, made)
        beside = path.with_suffix(".new")
        with h5netcdf.File(beside, "w") as file:
            _write(file, run, made)
        beside.rename(path)
    except OSError as error:
        raise FileError(f"the run cannot be stored: {error.strerror or error}", str(folder)) from None
    return path


def _free_name(folder: Path, key: str, made: datetime) -> Path:
    stem = f"{made:%Y%m%d-%H%M%S}-{key}"
    names = [stem, *(f"{stem}-{n}" for n in range(2, 1000))]
    return next(path for name in names if not (path := folder / f"{name}.nc").exists())


def _write(file, run: Run, made: datetime) -> None:
    data = run.dataset
    file.dimensions = {"lane": data.lanes, data.axis: len(data.points)}
    axis = file.create_variable(data.axis, (data.axis,), data=data.points)
    axis.attrs["units"] = data.axis_unit
    for name, values in data.conditions.items():
        if values.dtype.kind == "U":
            known = sorted(set(values.tolist()))
            variable = file.create_variable(name, ("lane",), data=np.array([known.index(v) for v in values], np.int32))
            variable.attrs["flag_meanings"] = " ".join(known)
        else:
            file.create_variable(name, ("lane",), data=values)
    for label, values in data.curves.items():
        variable = file.create_variable(label, ("lane", data.axis), data=values, compression="gzip", compression_opts=1)
        variable.attrs["units"] = data.units.get(label, "")
    file.create_variable("outcome", ("lane", data.axis), data=data.outcomes.astype(np.int8))
    snapshot = run.snapshot
    file.attrs["hearthline_format"] = FORMAT
    file.attrs["hearthline_version"] = __version__
    file.attrs["made"] = made.isoformat(timespec="microseconds")
    file.attrs["analysis"] = data.kind
    file.attrs["process"] = snapshot.kit.name
    file.attrs["conditions"] = " ".join(data.conditions)
    file.attrs["curves"] = json.dumps(list(data.curves))
    file.attrs["bench"] = json.dumps(bench_data(snapshot.bench))
    file.attrs["cells"] = json.dumps({name: cell_data(cell) for name, cell in snapshot.cells.items()})
    file.attrs["log"] = json.dumps(list(run.log))
    file.attrs["failures"] = json.dumps({str(lane): text for lane, text in run.failures.items()})
    file.attrs["seconds"] = run.seconds


def read_run(path: Path) -> StoredRun:
    """The run in the file at `path`. Raises FileError for a file that is not one of ours or is damaged."""
    return _open(path, _read)


def read_record(path: Path) -> Record:
    """Only what a run was made of, without its curves. Raises FileError as `read_run` does."""
    return _open(path, _record)


def _open(path: Path, read: Callable):
    import h5netcdf

    try:
        with h5netcdf.File(path, "r") as file:
            return read(file, path)
    except (OSError, KeyError, ValueError, RuntimeError) as error:
        problem = f"is not a run of Hearthline or is damaged ({error}); delete it and run again"
        raise FileError(problem, path.name) from None


def _record(file, path: Path) -> Record:
    attributes = file.attrs
    if int(attributes["hearthline_format"]) > FORMAT:
        raise ValueError("it was written by a newer version")
    made = datetime.fromisoformat(str(attributes["made"]))
    return Record(path, made, json.loads(attributes["bench"]), json.loads(attributes["cells"]))


def _read(file, path: Path) -> StoredRun:
    attributes = file.attrs
    axis = next(name for name in file.dimensions if name != "lane")
    curves = {label: file[label][...] for label in json.loads(attributes["curves"])}
    dataset = Dataset(
        str(attributes["analysis"]), axis, str(file[axis].attrs["units"]), file[axis][...], curves,
        {label: str(file[label].attrs["units"]) for label in curves},
        {name: _condition(file[name]) for name in str(attributes["conditions"]).split()},
        file["outcome"][...].astype(np.int64),
    )  # fmt: skip
    failures = {int(lane): text for lane, text in json.loads(attributes["failures"]).items()}
    log = tuple(json.loads(attributes["log"]))
    return StoredRun(_record(file, path), dataset, log, failures, float(attributes["seconds"]))


def _condition(variable) -> np.ndarray:
    values = variable[...]
    if "flag_meanings" in variable.attrs:
        return np.array(str(variable.attrs["flag_meanings"]).split())[values]
    return values
