"""The heat of a bench, in its file."""

from __future__ import annotations

from dataclasses import MISSING, fields, replace
from typing import Any

from hearthline.core.bench.heat import SECTION, SOURCES, TEXTS, HeatLine, HeatSetup
from hearthline.core.formats.toml_table import Table
from hearthline.core.thermal.die import PlanError


def heat_of(table: Table) -> HeatSetup | None:
    """What a bench's table says of it. Raises FileError with the line."""
    if not table.has(SECTION):
        return None
    own = table.table(SECTION)
    texts = _texts(own, HeatSetup, TEXTS)
    items = own.tables(SOURCES)
    lines = []
    for item in items:
        lines.append(HeatLine(**_texts(item, HeatLine, tuple(one.name for one in fields(HeatLine)))))
        item.done()
    own.done()
    setup = replace(HeatSetup(**texts), sources=tuple(lines))
    try:
        setup.plan()
    except PlanError as error:
        where = next((item for item, line in zip(items, lines, strict=True) if line.part.lower() == error.part), own)
        raise where.error(str(error), error.key) from None
    return setup


def _texts(table: Table, of: type, names: tuple[str, ...]) -> dict[str, Any]:
    usual = {one.name: one.default for one in fields(of)}
    return {name: table.string(name, *(() if usual[name] is MISSING else (usual[name],))) for name in names}


def heat_data(setup: HeatSetup | None) -> dict:
    """As plain tables."""
    if setup is None:
        return {}
    return {SECTION: {**_told(setup), SOURCES: [_told(line) for line in setup.sources]}}


def _told(item: HeatSetup | HeatLine) -> dict:
    return {
        one.name: getattr(item, one.name)
        for one in fields(item)
        if one.name not in (SOURCES, "isothermal")
        and (one.default is MISSING or getattr(item, one.name) != one.default)
    }
