"""A bench as a TOML file."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from hearthline.core.bench.bench import (
    Bench,
    GridSetup,
    PointSetup,
    Reading,
    Specification,
    Stimulus,
    SweepSetup,
    Watch,
)  # fmt: skip
from hearthline.core.bench.verdict import limits
from hearthline.core.data.formula import Formula
from hearthline.core.errors import ExpressionError, QuantityError
from hearthline.core.formats.toml_table import Table, read_toml, read_version, write_toml

FORMAT = 1
STIMULUS_KINDS = ("voltage", "current")


def read_bench(path: Path, shown: str) -> Bench:
    """The bench in the file at `path`. Raises FileError with the line."""
    return bench_of(read_toml(path, shown))


def bench_of(table: Table) -> Bench:
    """The bench in a table that was read. Raises FileError with the line."""
    read_version(table, FORMAT)
    bench = Bench(
        name=table.string("name"),
        cell=table.string("cell"),
        stimuli=tuple(_stimulus(item) for item in table.tables("stimuli")),
        point=_point(table.table("point")),
        grid=_grid(table.table("grid")),
        sweep=_sweep(table.table("sweep")) if table.has("sweep") else SweepSetup(),
        watches=tuple(_watch(item) for item in table.tables("watches")),
        readings=tuple(_reading(item) for item in table.tables("readings")),
        specifications=(),
        shown=_shown(table),
        note=table.string("note", ""),
    )
    specifications = tuple(_specification(item, bench) for item in table.tables("specifications"))
    table.done()
    known = {stimulus.name for stimulus in bench.stimuli}
    if known and bench.sweep.stimulus and bench.sweep.stimulus not in known:
        where = table.table("sweep")
        raise where.error(f"there is no stimulus '{bench.sweep.stimulus}'; there is {', '.join(known)}", "stimulus")
    return Bench(**{**vars(bench), "specifications": specifications})


def _shown(table: Table) -> Mapping[str, tuple[str, ...]]:
    """What stands beside devices, by their kind; a plain list is that of MOS transistors."""
    if isinstance(table.data.get("shown"), list):
        return {"M": table.strings("shown")}
    return table.lists("shown")


def _stimulus(table: Table) -> Stimulus:
    stimulus = Stimulus(table.string("name"), table.string("pin"), table.string("dc"), table.string("kind", "voltage"))
    if stimulus.kind not in STIMULUS_KINDS:
        raise table.error(f"there is no kind '{stimulus.kind}'; there are {', '.join(STIMULUS_KINDS)}", "kind")
    table.done()
    return stimulus


def _point(table: Table) -> PointSetup:
    point = PointSetup(table.string("corner"), table.string("temperature"), table.texts("parameters"))
    table.done()
    return point


def _grid(table: Table) -> GridSetup:
    grid = GridSetup(table.strings("corners"), table.strings("temperatures"), table.lists("parameters"))
    for key, values in [("corners", grid.corners), ("temperatures", grid.temperatures), *grid.parameters.items()]:
        if not values:
            raise table.error(f"'{key}' needs one entry or more", key)
    table.done()
    return grid


def _sweep(table: Table) -> SweepSetup:
    sweep = SweepSetup(table.string("stimulus"), table.string("from"), table.string("to"), table.integer("points"))
    if sweep.points < 2:
        raise table.error("a sweep needs two points or more", "points")
    table.done()
    return sweep


def _watch(table: Table) -> Watch:
    watch = Watch(table.string("formula"), table.string("title", ""), table.string("unit", "V"))
    _check_formula(table, watch.formula)
    table.done()
    return watch


def _reading(table: Table) -> Reading:
    reading = Reading(table.string("name"), table.string("formula"), table.string("unit", ""), table.string("note", ""))
    _check_formula(table, reading.formula)
    table.done()
    return reading


def _check_formula(table: Table, text: str) -> None:
    try:
        Formula.parse(text)
    except ExpressionError as error:
        raise table.error(str(error), "formula") from None


def _specification(table: Table, bench: Bench) -> Specification:
    specification = Specification(table.string("reading"), table.string("low", ""), table.string("high", ""))
    units = {reading.name: reading.unit for reading in bench.readings}
    if specification.reading not in units:
        known = ", ".join(units) or "none"
        raise table.error(f"there is no reading '{specification.reading}'; there is {known}", "reading")
    try:
        limits(specification, units[specification.reading])
    except QuantityError as error:
        raise table.error(str(error), "low") from None
    table.done()
    return specification


def write_bench(path: Path, bench: Bench) -> None:
    """Writes `bench`; comments in an existing file stay. Raises FileError."""
    write_toml(path, bench_data(bench))


def bench_data(bench: Bench) -> dict:
    """The bench as plain tables."""
    data: dict = {"format": FORMAT, "name": bench.name, "cell": bench.cell}
    if bench.note:
        data["note"] = bench.note
    if bench.shown:
        data["shown"] = {kind: list(names) for kind, names in bench.shown.items()}
    data["point"] = {
        "corner": bench.point.corner, "temperature": bench.point.temperature, "parameters": dict(bench.point.parameters)
    }  # fmt: skip
    data["grid"] = {
        "corners": list(bench.grid.corners), "temperatures": list(bench.grid.temperatures),
        "parameters": {name: list(values) for name, values in bench.grid.parameters.items()},
    }  # fmt: skip
    sweep = bench.sweep
    if sweep.stimulus:
        data["sweep"] = {"stimulus": sweep.stimulus, "from": sweep.start, "to": sweep.stop, "points": sweep.points}
    data["stimuli"] = [_without_defaults(vars(stimulus), {"kind": "voltage"}) for stimulus in bench.stimuli]
    data["watches"] = [_without_defaults(vars(watch), {"title": "", "unit": "V"}) for watch in bench.watches]
    data["readings"] = [_without_defaults(vars(reading), {"unit": "", "note": ""}) for reading in bench.readings]
    data["specifications"] = [_without_defaults(vars(spec), {"low": "", "high": ""}) for spec in bench.specifications]
    return {key: value for key, value in data.items() if value != []}


def _without_defaults(values: dict, defaults: dict) -> dict:
    return {key: value for key, value in values.items() if defaults.get(key) != value}
