"""Samples in a run's netCDF-4 file, by columns: every variable and every reading, and the watched curves of the first."""

from __future__ import annotations

import json
from typing import Any

import numpy as np

from hearthline.core.formats.run_datasets import condition_of, read_dataset, write_dataset_group
from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.variables import Variable
from hearthline.core.tolerance import Tolerance

PLAIN = ("basis", "seconds", "asked", "seed", "way", "conditions")


def write_samples(file: Any, samples: SampleSet) -> None:
    """Into a group of an open file."""
    rows = len(next(iter(samples.values.values()))[0]) if samples.count and samples.values else 0
    file.dimensions = {
        "sample": samples.count, "variable": len(samples.variables), "reading": len(samples.values), "row": rows
    }  # fmt: skip
    file.create_variable("normal", ("sample", "variable"), data=samples.normal)
    if rows:
        table = np.stack(list(samples.values.values()))
        file.create_variable("value", ("reading", "sample", "row"), data=table)
    for name, column in samples.rows.items():
        if column.dtype.kind == "U":
            known = sorted(set(column.tolist()))
            index = np.array([known.index(v) for v in column], np.int32)
            file.create_variable(f"row {name}", ("row",), data=index).attrs["flag_meanings"] = " ".join(known)
        else:
            file.create_variable(f"row {name}", ("row",), data=column)
    for name, data in samples.curves.items():
        write_dataset_group(file.create_group(name), data)
    texts = {
        "variables": [_said(one) for one in samples.variables],
        "readings": list(samples.values),
        "units": dict(samples.units),
        "rows": list(samples.rows),
        "failures": {str(k): text for k, text in samples.failures.items()},
        "curves": list(samples.curves),
        "plain": {name: getattr(samples, name) for name in PLAIN},
    }
    for name, value in texts.items():
        file.attrs[name] = json.dumps(value)


def _said(one: Variable) -> list:
    tolerance = [one.tolerance.within, one.tolerance.sigma] if one.tolerance else None
    return [one.name, one.kind, one.part, one.parameter, one.nominal, one.sigma, one.targets, one.share, tolerance]


def _variable(said: list) -> Variable:
    name, kind, part, parameter, nominal, sigma, targets, share, tolerance = said
    moved = tuple((owner, value) for owner, value in targets)
    law = Tolerance(*tolerance) if tolerance else None
    return Variable(name, kind, part, parameter, nominal, sigma, moved, share, law)


def read_samples(file: Any) -> SampleSet:
    """Out of the group."""
    texts = {name: json.loads(value) for name, value in file.attrs.items()}
    normal = file["normal"][...]
    table = file["value"][...] if "value" in file.variables else np.zeros((len(texts["readings"]), len(normal), 0))
    return SampleSet(
        tuple(map(_variable, texts["variables"])), normal,
        {name: condition_of(file[f"row {name}"]) for name in texts["rows"]},
        dict(zip(texts["readings"], table, strict=True)), texts["units"],
        failures={int(k): text for k, text in texts["failures"].items()},
        curves={name: read_dataset(file[name]) for name in texts["curves"]}, **texts["plain"],
    )  # fmt: skip
