"""The samples, tolerances and statistical corners of a bench, in its file."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields
from typing import Any

from hearthline.core.bench.bench import Bench
from hearthline.core.bench.samples import SECTION, SampleSetup, ToleranceLine, sampling_of
from hearthline.core.bench.statistical import StatisticalCorner, name_problem
from hearthline.core.errors import BenchError, CircuitError
from hearthline.core.formats.toml_table import Table

OF_DECKS = ("mismatch", "process")


def samples_of(table: Table) -> tuple[SampleSetup | None, tuple[ToleranceLine, ...]]:
    """What a bench's table says of them. Raises FileError with the line."""
    lines = table.tables("tolerances")
    tolerances = tuple(_tolerance(item) for item in lines)
    own = table.table(SECTION) if table.has(SECTION) else None
    setup = _setup(own) if own is not None else None
    try:
        sampling_of(setup or SampleSetup(), tolerances)
    except BenchError as error:
        where = lines[error.index] if error.section == "tolerances" else own or table
        raise where.error(str(error), error.key) from None
    return setup, tolerances


def _setup(table: Table) -> SampleSetup:
    texts = {one.name: one.default for one in fields(SampleSetup) if one.name not in OF_DECKS}
    given: dict[str, Any] = {name: table.string(name, usual) for name, usual in texts.items()}
    setup = SampleSetup(**given, mismatch=_texts(table, "mismatch"), process=_texts(table, "process"))
    table.done()
    return setup


def _texts(table: Table, key: str) -> Mapping[str, Mapping[str, str]]:
    if not table.has(key):
        return {}
    inner = table.table(key)
    found = {name: inner.texts(name) for name in inner.names}
    inner.done()
    return found


def _tolerance(table: Table) -> ToleranceLine:
    line = ToleranceLine(
        table.string("part"), table.string("of", ""), table.string("within", ""), table.string("sigma", "")
    )
    table.done()
    return line


def statistical_of(table: Table) -> tuple[StatisticalCorner, ...]:
    """The statistical corners of a bench's table. Raises FileError with the line."""
    found: list[StatisticalCorner] = []
    for item in table.tables("statistical"):
        name = item.string("name")
        if problem := name_problem(name, [one.name for one in found]):
            raise item.error(problem, "name")
        words = {key: item.string(key, "") for key in ("reading", "end", "sigma")}
        corner = StatisticalCorner(name, item.texts("at"), **words)
        try:
            corner.numbers()
        except CircuitError as error:
            raise item.error(str(error), "at") from None
        item.done()
        found.append(corner)
    return tuple(found)


def samples_data(bench: Bench) -> dict:
    """All of them as plain tables."""
    found: dict = {}
    if bench.samples is not None:
        usual = SampleSetup()
        found[SECTION] = {"count": bench.samples.count} | {
            one.name: value for one in fields(SampleSetup)
            if (value := getattr(bench.samples, one.name)) != getattr(usual, one.name)
        }  # fmt: skip
    if bench.tolerances:
        found["tolerances"] = [
            {key: text for key, text in vars(one).items() if text or key == "part"} for one in bench.tolerances
        ]
    if bench.statistical:
        found["statistical"] = [
            {key: value for key, value in vars(one).items() if value and key != "at"} | {"at": dict(one.at)}
            for one in bench.statistical
        ]
    return found
