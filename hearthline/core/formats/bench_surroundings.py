"""The surroundings of a bench, in its file."""

from __future__ import annotations

from hearthline.core.bench.bench import GridSetup, PointSetup
from hearthline.core.bench.surroundings import SECTION, Surroundings
from hearthline.core.formats.toml_table import Table

MOST = 50
"""Surroundings of a bench."""


def surroundings_of(table: Table) -> tuple[Surroundings, ...]:
    """What a bench's table says of them. Raises FileError with the line."""
    found: list[Surroundings] = []
    for item in table.tables(SECTION):
        one = Surroundings(item.name("name"), item.texts("files"))
        if one.name in {other.name for other in found}:
            raise item.error(f"there are two surroundings '{one.name}'; rename one of them", "name")
        found.append(one)
        item.done()
    if len(found) > MOST:
        raise table.error(f"{len(found)} surroundings are too many; at most {MOST} are allowed", SECTION)
    return tuple(found)


def check_named(table: Table, known: tuple[Surroundings, ...], point: PointSetup, grid: GridSetup) -> None:
    """Raises FileError where point or grid names surroundings that are not there."""
    names = [one.name for one in known]
    said = ", ".join(names) or "none; describe them as [[surroundings]]"
    if point.surroundings and point.surroundings not in names:
        message = f"there are no surroundings '{point.surroundings}'; there is {said}"
        raise table.table("point").error(message, SECTION)
    for one in (*grid.surroundings, *(picked.surroundings for picked in grid.picked if picked.surroundings)):
        if one not in names:
            raise table.table("grid").error(f"there are no surroundings '{one}'; there is {said}", SECTION)


def surroundings_data(known: tuple[Surroundings, ...]) -> dict:
    """As plain tables."""
    return {SECTION: [{"name": one.name, "files": dict(one.files)} for one in known]} if known else {}
