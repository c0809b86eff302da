"""Datasets as groups of a netCDF-4 file. netCDF has no complex numbers: those have a last axis `part`, real and imaginary."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np

from hearthline.core.data.dataset import Dataset

WAVE = "wave"
"""The group of what repeats over a period of time."""
PACKED = {"device": False, "device phasors": True}
"""Variables that hold the quantities of all devices, and whether these are complex."""
QUANTITIES = {"device": "quantity", "device phasors": "phasor quantity"}
"""The axis of each, with their names."""
SQUEEZED_BYTES = 8e6
"""Of curves that are compressed: it is slow."""


def write_dataset(path: Path, data: Dataset) -> None:
    """One analysis in a file of its own, without what it was made of."""
    import h5netcdf

    with h5netcdf.File(path, "w") as file:
        write_dataset_group(file, data)


def write_dataset_group(file: Any, data: Dataset) -> None:
    """One analysis in a group."""
    along = "step" if data.ragged else data.axis
    file.dimensions = {"lane": data.lanes, along: data.width}
    if any(np.iscomplexobj(values) for values in data.curves.values()):
        file.dimensions["part"] = 2
    axis = file.create_variable(data.axis, ("lane", along) if data.ragged else (along,), data=data.points)
    axis.attrs["units"] = data.axis_unit
    for name, values in data.conditions.items():
        variable = _name_of_condition(name, data)
        if values.dtype.kind == "U":
            known = sorted(set(values.tolist()))
            index = np.array([known.index(v) for v in values], np.int32)
            attributes = file.create_variable(variable, ("lane",), data=index).attrs
            attributes["flag_meanings"] = " ".join(one.replace(" ", "_") for one in known)
            attributes["words"] = json.dumps(known)
        else:
            file.create_variable(variable, ("lane",), data=values)
    size = sum(values.nbytes for values in data.curves.values())
    squeezed = {"compression": "gzip", "compression_opts": 1, "shuffle": True} if size < SQUEEZED_BYTES else {}
    packed = {label for label, values in data.curves.items() if _is_packed(label, values)}
    for label, values in data.curves.items():
        if label not in packed:
            name = _stored(label)
            dims: tuple[str, ...] = ("lane", along)
            if np.iscomplexobj(values):
                dims, values = (*dims, "part"), _parts(values)
            variable = file.create_variable(name, dims, data=values, **squeezed)
            variable.attrs["units"] = data.units.get(label, "")
    for name, kind in PACKED.items():
        labels = [label for label in data.curves if label in packed and np.iscomplexobj(data.curves[label]) == kind]
        if labels:
            _write_packed(file, data, name, labels, ("lane", along), squeezed)
    file.create_variable("outcome", ("lane", along), data=data.outcomes.astype(np.int8), compression="gzip")
    file.attrs["analysis"] = data.kind
    file.attrs["axis"] = data.axis
    file.attrs["per_condition"] = data.per_condition
    file.attrs["conditions"] = json.dumps(list(data.conditions))
    file.attrs["units"] = json.dumps({name: unit for name, unit in data.units.items() if name not in data.curves})
    file.attrs["curves"] = json.dumps(list(data.curves))
    if data.wave is not None:
        write_dataset_group(file.create_group(WAVE), data.wave)


def _stored(label: str) -> str:
    """How a curve is called in the file: a `/` would lead into a group."""
    return label.replace("%", "%25").replace("/", "%2F")


def _is_packed(label: str, values: np.ndarray) -> bool:
    """Quantities of devices are many: they stand together in one variable along an axis of their own; so do the answers of a
    phase."""
    return "(" not in label or label.startswith("shift(")


def _parts(values: np.ndarray) -> np.ndarray:
    """Real and imaginary along a last axis."""
    return np.stack([values.real, values.imag], axis=-1)


def _write_packed(
    file: Any, data: Dataset, name: str, labels: list[str], dims: tuple[str, ...], squeezed: dict
) -> None:  # fmt: skip
    import h5py

    along = QUANTITIES[name]
    file.dimensions[along] = len(labels)
    file.create_variable(along, (along,), dtype=h5py.string_dtype(), data=np.array(labels, dtype=object))
    values = np.stack([data.curves[label] for label in labels])
    if PACKED[name]:
        dims, values = (*dims, "part"), _parts(values)
    variable = file.create_variable(name, (along, *dims), data=values, **squeezed)
    variable.attrs["units"] = json.dumps([data.units.get(label, "") for label in labels])


def _name_of_condition(name: str, data: Dataset) -> str:
    """A condition may be called as the axis is, where that is a sweep of it."""
    return f"condition {name}" if name == data.axis or name in data.curves else name


def read_dataset(file: Any) -> Dataset:
    """The analysis in a group."""
    attributes = file.attrs
    axis = str(attributes["axis"])
    order = json.loads(attributes["curves"])
    there = {label: file[_stored(label)] for label in order if _stored(label) in file.variables}
    curves = {label: _curve(variable) for label, variable in there.items()}
    units = {label: str(there[label].attrs["units"]) for label in curves} | json.loads(attributes["units"])
    for name, along in QUANTITIES.items():
        if name in file.variables:
            labels = [one.decode() if isinstance(one, bytes) else str(one) for one in file[along][...]]
            curves |= dict(zip(labels, _curve(file[name]), strict=True))
            units |= dict(zip(labels, json.loads(file[name].attrs["units"]), strict=True))
    curves = {label: curves[label] for label in order}
    points = file[axis][...]
    outcomes = file["outcome"][...].astype(np.int64)
    shell = Dataset(
        str(attributes["analysis"]), axis, str(file[axis].attrs["units"]), points, curves, units, {}, outcomes
    )
    names = json.loads(attributes["conditions"])
    wave = read_dataset(file[WAVE]) if WAVE in file.groups else None
    conditions = {name: condition_of(file[_name_of_condition(name, shell)]) for name in names}
    return replace(shell, conditions=conditions, per_condition=int(attributes["per_condition"]), wave=wave)


def _curve(variable: Any) -> np.ndarray:
    values = variable[...]
    return values[..., 0] + 1j * values[..., 1] if "part" in variable.dimensions else values


def condition_of(variable: Any) -> np.ndarray:
    """The values of a condition, words as words."""
    values = variable[...]
    if "words" in variable.attrs:
        return np.array(json.loads(variable.attrs["words"]))[values]
    if "flag_meanings" in variable.attrs:
        return np.array(str(variable.attrs["flag_meanings"]).split())[values]
    return values
