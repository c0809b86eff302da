"""The heat of a bench, in its file."""

from __future__ import annotations

from dataclasses import MISSING, fields, replace
from typing import Any, TypeVar

from hearthline.core.bench.heat import SECTION, SOURCES, TEXTS, VIAS, HeatLine, HeatSetup, ViaLine
from hearthline.core.formats.toml_table import Table
from hearthline.core.thermal.die import PlanError

Line = TypeVar("Line")


def heat_of(table: Table) -> HeatSetup | None:
    """What a bench's table says of it. Raises FileError with the line."""
    if not table.has(SECTION):
        return None
    own = table.table(SECTION)
    texts = _texts(own, HeatSetup, TEXTS)
    items, columns = own.tables(SOURCES), own.tables(VIAS)
    lines, vias = _lines(items, HeatLine), _lines(columns, ViaLine)
    own.done()
    setup = replace(HeatSetup(**texts), sources=lines, vias=vias)
    try:
        setup.plan()
    except PlanError as error:
        where = next((item for item, line in zip(items, lines, strict=True) if line.part.lower() == error.part), own)
        where = columns[error.via] if error.via >= 0 else where
        raise where.error(str(error), "at" if error.key == VIAS else error.key) from None
    return setup


def _lines(items: list[Table], of: type[Line]) -> tuple[Line, ...]:
    found = []
    for item in items:
        found.append(of(**_texts(item, of, tuple(one.name for one in fields(of)))))  # type: ignore[arg-type]
        item.done()
    return tuple(found)


def _texts(table: Table, of: type, names: tuple[str, ...]) -> dict[str, Any]:
    usual = {one.name: one.default for one in fields(of)}
    return {name: table.string(name, *(() if usual[name] is MISSING else (usual[name],))) for name in names}


def heat_data(setup: HeatSetup | None) -> dict:
    """As plain tables."""
    if setup is None:
        return {}
    found = {**_told(setup), SOURCES: [_told(line) for line in setup.sources]}
    if setup.vias:
        found[VIAS] = [_told(line) for line in setup.vias]
    return {SECTION: found}


def _told(item: HeatSetup | HeatLine | ViaLine) -> dict:
    return {
        one.name: getattr(item, one.name)
        for one in fields(item)
        if one.name not in (SOURCES, VIAS, "isothermal")
        and (one.default is MISSING or getattr(item, one.name) != one.default)
    }
