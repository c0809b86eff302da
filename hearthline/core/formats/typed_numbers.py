"""Numbers of a table as a person types them, each with what may be wrong with it."""

from __future__ import annotations

from typing import TYPE_CHECKING

from hearthline.core.errors import QuantityError
from hearthline.core.formats.toml_table import Table
from hearthline.core.quantity import read

if TYPE_CHECKING:
    from hearthline.core.fields.box import Span


def span(table: Table) -> Span:
    """Frequencies of a sweep: from, to, points. Raises FileError."""
    from hearthline.core.fields.box import Span  # who only reads numbers does without fields

    low, high = positive(table, "from"), positive(table, "to")
    points = whole(table, "points", "201")
    if high <= low and points > 1:
        raise table.error("a sweep goes from a lower frequency to a higher one", "to")
    table.done()
    return Span(low, high, points)


def number(table: Table, key: str, usual: str = "") -> float:
    """One; what is usual where the key is left out. Raises FileError."""
    text = table.string(key, usual) if usual else table.string(key)
    try:
        return read(text)
    except QuantityError as error:
        raise table.error(f"{key}: {error}", key) from None


def positive(table: Table, key: str, usual: str = "") -> float:
    """One above 0. Raises FileError."""
    value = number(table, key, usual)
    if value <= 0:
        raise table.error(f"{key} is above 0, and not {value:g}", key)
    return value


def share(table: Table, key: str) -> float:
    """One above 0, as it is or in percent: 0.5% is 0.005. Raises FileError."""
    text = table.string(key).strip()
    try:
        value = read(text.removesuffix("%")) * (0.01 if text.endswith("%") else 1.0)
    except QuantityError as error:
        raise table.error(f"{key}: {error}", key) from None
    if not 0.0 < value < 1.0:
        raise table.error(f"{key} is a share between 0 and 1, as in 0.5%, and not {text}", key)
    return value


def whole(table: Table, key: str, usual: str) -> int:
    """A whole one of 1 or more. Raises FileError."""
    value = number(table, key, usual)
    if value != int(value) or value < 1:
        raise table.error(f"{key} is a whole number of 1 or more, and not {value:g}", key)
    return int(value)


def numbers(table: Table, key: str, count: int) -> list[float]:
    """So many, with commas between them. Raises FileError."""
    pieces = [one.strip() for one in table.string(key).split(",")]
    if len(pieces) != count:
        raise table.error(f"{key} is {count} numbers with commas between them", key)
    try:
        return [read(one) for one in pieces]
    except QuantityError as error:
        raise table.error(f"{key}: {error}", key) from None
