"""A bench as a TOML file."""

from __future__ import annotations

import keyword
import math
from collections.abc import Mapping
from dataclasses import fields, replace
from pathlib import Path
from typing import Any

from hearthline.core import limits
from hearthline.core.analyses.line import Analysis, parse_analysis
from hearthline.core.bench.bench import (
    ALONE,
    CROSSED,
    PICKED,
    SCALES,
    STIMULUS_KINDS,
    Bench,
    FileBlock,
    GridSetup,
    PointSetup,
    Reading,
    Specification,
    Stimulus,
    Watch,
)  # fmt: skip
from hearthline.core.bench.stimuli import check_stimulus
from hearthline.core.bench.verdict import limits as limits_of
from hearthline.core.bench.verdict import share_of, target_of
from hearthline.core.data.formula import Formula
from hearthline.core.data.functions import FUNCTIONS
from hearthline.core.data.shorthands import SHORTHANDS
from hearthline.core.errors import ExpressionError, HearthlineError, QuantityError
from hearthline.core.formats.bench_heat import heat_data, heat_of
from hearthline.core.formats.bench_samples import samples_data, samples_of, statistical_of
from hearthline.core.formats.bench_surroundings import check_named, surroundings_data, surroundings_of
from hearthline.core.formats.toml_table import Table, read_toml, read_version, toml_text, write_toml
from hearthline.core.texts import can_be_a_file, shortened

FORMAT = 3
FIRST_ANALYSIS = "transfer"
"""What the one sweep of a bench or run of the first format is called."""


def read_bench(path: Path, shown: str) -> Bench:
    """The bench in the file at `path`. Raises FileError with the line."""
    return bench_of(read_toml(path, shown))


def bench_of(table: Table) -> Bench:
    """The bench in a table that was read. Raises FileError with the line."""
    version = read_version(table, FORMAT)
    cell, deck = _subject(table)
    bench = Bench(
        name=table.name("name"),
        cell=cell,
        deck=deck,
        stimuli=_stimuli(table),
        point=_point(table.table("point")),
        grid=_grid(table.table("grid")),
        analyses=_old_sweep(table) if version < 2 and table.has("sweep") else _analyses(table),
        shown=_shown(table),
        note=table.string("note", ""),
        blocks=_blocks(table, deck),
    )
    names = bench.analysis_names
    watches = tuple(_watch(item, names) for item in table.tables("watches"))
    readings = tuple(_reading(item, names) for item in table.tables("readings"))
    _no_duplicates(table, "readings", [one.word for one in readings])
    bench = replace(bench, watches=watches, readings=readings)
    specifications = tuple(_specification(item, bench) for item in table.tables("specifications"))
    samples, tolerances = samples_of(table)
    statistical, heat, surroundings = statistical_of(table), heat_of(table), surroundings_of(table)
    check_named(table, surroundings, bench.point, bench.grid)
    table.done()
    return replace(
        bench, specifications=specifications, samples=samples, tolerances=tolerances, statistical=statistical, heat=heat,
        surroundings=surroundings,
    )  # fmt: skip


def _subject(table: Table) -> tuple[str, str]:
    """The cell, or the deck in its place."""
    if not table.has("deck"):
        return table.name("cell"), ""
    if table.has("cell"):
        raise table.error("a bench is over a cell or over a deck, and not over both; take one of them away", "deck")
    deck = table.name("deck")
    if not can_be_a_file(deck):
        raise table.error(f"'{shortened(deck)}' cannot be the name of a file", "deck")
    return "", deck


def name_problem(name: str, others: tuple[str, ...] = ()) -> str:
    """Why an analysis cannot be called so, or nothing: formulas use its name as a function."""
    if not name.isidentifier() or keyword.iskeyword(name):
        return f"'{name}' is no name for an analysis: letters, digits and _, beginning with a letter"
    if name in FUNCTIONS or name in SHORTHANDS or name in ("V", "I", "S"):
        return f"'{name}' is the name of a function; call the analysis otherwise"
    return f"there are two analyses '{name}'" if name in others else ""


def _analyses(table: Table) -> tuple[Analysis, ...]:
    found: list[Analysis] = []
    for item in table.tables("analyses"):
        name = item.string("name")
        if problem := name_problem(name, tuple(one.name for one in found)):
            raise item.error(problem, "name")
        try:
            found.append(parse_analysis(name, item.string("line")))
        except ExpressionError as error:
            raise item.error(str(error), "line") from None
        item.done()
    return tuple(found)


def _old_sweep(table: Table) -> tuple[Analysis, ...]:
    """Files of the first format hold one sweep in a table of its own."""
    sweep = table.table("sweep")
    settings = {"of": sweep.string("stimulus"), "from": sweep.string("from"), "to": sweep.string("to")}
    points = sweep.integer("points")
    if points < 2:
        raise sweep.error("a sweep needs two points or more", "points")
    sweep.done()
    return (Analysis(FIRST_ANALYSIS, "sweep", {**settings, "points": str(points)}),)


def _shown(table: Table) -> Mapping[str, tuple[str, ...]]:
    """What stands beside devices, by their kind; a plain list is that of MOS transistors."""
    if isinstance(table.data.get("shown"), list):
        return {"M": table.strings("shown")}
    return table.lists("shown")


def _stimuli(table: Table) -> tuple[Stimulus, ...]:
    found: dict[str, Stimulus] = {}
    for item in table.tables("stimuli"):
        one = _stimulus(item)
        if one.name.lower() in found:
            raise item.error(f"there are two stimuli '{one.name}'; rename one of them", "name")
        found[one.name.lower()] = one
    return tuple(found.values())


def _blocks(table: Table, deck: str) -> tuple[FileBlock, ...]:
    found: dict[str, FileBlock] = {}
    for item in table.tables("blocks"):
        if not deck:
            raise item.error("blocks go with a deck; in a cell, place a part with a file", "file")
        one = FileBlock(item.string("name"), item.string("file"), item.strings("nets"))
        if not can_be_a_file(one.file):
            raise item.error(f"'{shortened(one.file)}' cannot be the name of a file", "file")
        if one.name.lower() in found:
            raise item.error(f"there are two blocks '{one.name}'; rename one of them", "name")
        found[one.name.lower()] = one
        item.done()
    return tuple(found.values())


def _stimulus(table: Table) -> Stimulus:
    texts = {
        one.name: table.string(one.name, "") for one in fields(Stimulus) if one.name not in ("name", "pin", "kind")
    }
    stimulus = Stimulus(table.string("name"), table.string("pin"), kind=table.string("kind", "voltage"), **texts)
    if stimulus.kind not in STIMULUS_KINDS:
        raise table.error(f"there is no kind '{stimulus.kind}'; there are {', '.join(STIMULUS_KINDS)}", "kind")
    try:
        check_stimulus(stimulus)
    except HearthlineError as error:
        raise table.error(str(error), wrong_key(stimulus, str(error))) from None
    table.done()
    return stimulus


def wrong_key(stimulus: Stimulus, message: str) -> str:
    """The line of a stimulus that a message is about."""
    if stimulus.kind == "port":
        for key in ("number", "impedance", "power"):
            if key in message or (getattr(stimulus, key) and getattr(stimulus, key) in message):
                return key if getattr(stimulus, key) else "kind"
    return "wave" if stimulus.wave else "dc"


def _point(table: Table) -> PointSetup:
    parameters, around = table.texts("parameters"), table.string("surroundings", "")
    point = PointSetup(table.string("corner"), table.string("temperature"), parameters, around)
    table.done()
    return point


def _grid(table: Table) -> GridSetup:
    how = table.string("how", CROSSED)
    if how not in (CROSSED, ALONE, PICKED):
        raise table.error(f"axes are {CROSSED}, each {ALONE}, or left out and conditions {PICKED}, not '{how}'", "how")
    picked = tuple(_point(item) for item in table.tables("picked"))
    around = table.strings("surroundings", ())
    corners, temperatures, parameters = (
        table.strings("corners"), table.strings("temperatures"), table.lists("parameters")
    )  # fmt: skip
    grid = GridSetup(corners, temperatures, parameters, how, picked, around)
    for key, values in [("corners", grid.corners), ("temperatures", grid.temperatures), *grid.parameters.items()]:
        if not values:
            raise table.error(f"'{key}' needs one entry or more", key)
        if len(values) > limits.AXIS_VALUES:
            raise table.error(f"'{key}' has {len(values)} values; at most {limits.AXIS_VALUES} are allowed", key)
    if len(grid.parameters) > limits.AXES:
        raise table.error(
            f"{len(grid.parameters)} parameters are too many; at most {limits.AXES} are allowed", "parameters"
        )
    each = [len(grid.corners), len(grid.temperatures), *(len(values) for values in grid.parameters.values())]
    each.append(max(1, len(grid.surroundings)))
    if how == CROSSED and math.prod(each) > limits.CONDITIONS:
        raise table.error(f"{math.prod(each)} conditions are too many; at most {limits.CONDITIONS} are allowed")
    table.done()
    return grid


def _watch(table: Table, names: tuple[str, ...]) -> Watch:
    watch = Watch(
        table.string("formula"), table.string("title", ""), table.string("unit", ""), table.string("analysis", ""),
        table.string("strip", ""), table.string("scale", ""),
    )  # fmt: skip
    if watch.scale and watch.scale not in SCALES:
        raise table.error(f"there is no scale '{watch.scale}'; there are {', '.join(SCALES)}", "scale")
    _check(table, watch, names)
    return watch


def _reading(table: Table, names: tuple[str, ...]) -> Reading:
    reading = Reading(
        table.string("name"), table.string("formula"), table.string("unit", ""), table.string("note", ""),
        table.string("analysis", ""),
    )  # fmt: skip
    _check(table, reading, names)
    return reading


def _check(table: Table, item: Watch | Reading, names: tuple[str, ...]) -> None:
    if item.analysis and item.analysis not in names:
        known = ", ".join(names) or "none"
        raise table.error(f"there is no analysis '{item.analysis}'; there is {known}", "analysis")
    try:
        Formula.parse(item.formula, names)
    except ExpressionError as error:
        raise table.error(str(error), "formula") from None
    table.done()


def _no_duplicates(table: Table, key: str, words: list[str]) -> None:
    for word in words:
        if words.count(word) > 1:
            raise table.error(f"two {key} are called '{word}'; formulas could not tell them apart", key)


def _specification(table: Table, bench: Bench) -> Specification:
    specification = Specification(
        table.string("reading"), table.string("low", ""), table.string("high", ""), table.string("target", ""),
        table.string("yield", ""),
    )  # fmt: skip
    units = {reading.name: reading.unit for reading in bench.readings}
    if specification.reading not in units:
        known = ", ".join(units) or "none"
        raise table.error(f"there is no reading '{specification.reading}'; there is {known}", "reading")
    try:
        target_of(specification, units[specification.reading])
        limits_of(specification, units[specification.reading])
    except QuantityError as error:
        raise table.error(str(error), "low" if specification.low else "high") from None
    try:
        share_of(specification)
    except QuantityError as error:
        raise table.error(str(error), "yield") from None
    table.done()
    return specification


def write_bench(path: Path, bench: Bench) -> None:
    """Writes `bench`; comments in an existing file stay. Raises FileError."""
    write_toml(path, bench_data(bench))


def bench_data(bench: Bench) -> dict:
    """The bench as plain tables."""
    subject = {"deck": bench.deck} if bench.deck else {"cell": bench.cell}
    data: dict = {"format": FORMAT, "name": bench.name, **subject}
    if bench.note:
        data["note"] = bench.note
    if bench.shown:
        data["shown"] = {kind: list(names) for kind, names in bench.shown.items()}
    data["point"] = _pointed(bench.point)
    data["grid"] = {
        "corners": list(bench.grid.corners), "temperatures": list(bench.grid.temperatures),
        "parameters": {name: list(values) for name, values in bench.grid.parameters.items()},
    }  # fmt: skip
    if bench.grid.how != CROSSED:
        data["grid"]["how"] = bench.grid.how
    if bench.grid.surroundings:
        data["grid"]["surroundings"] = list(bench.grid.surroundings)
    if bench.grid.picked:
        data["grid"]["picked"] = [_pointed(one) for one in bench.grid.picked]
    data["stimuli"] = [_without_defaults(one, Stimulus("", "")) for one in bench.stimuli]
    data["blocks"] = [{"name": one.name, "file": one.file, "nets": list(one.nets)} for one in bench.blocks]
    data["analyses"] = [{"name": one.name, "line": one.text} for one in bench.analyses]
    data["watches"] = [_without_defaults(one, Watch("")) for one in bench.watches]
    data["readings"] = [_without_defaults(one, Reading("", "")) for one in bench.readings]
    data["specifications"] = [_specified(one) for one in bench.specifications]
    data |= samples_data(bench) | heat_data(bench.heat) | surroundings_data(bench.surroundings)
    return {key: value for key, value in data.items() if value != []}


def _pointed(point: PointSetup) -> dict:
    found = {"corner": point.corner, "temperature": point.temperature, "parameters": dict(point.parameters)}
    return {**found, "surroundings": point.surroundings} if point.surroundings else found


def _specified(specification: Specification) -> dict:
    found = _without_defaults(specification, Specification(""))
    return {("yield" if key == "share" else key): text for key, text in found.items()}


def _without_defaults(item: Any, usual: object) -> dict:
    return {one.name: v for one in fields(item) if (v := getattr(item, one.name)) != getattr(usual, one.name)}


def bench_text(bench: Bench) -> str:
    """The bench as the text of its file."""
    return toml_text(bench_data(bench))
