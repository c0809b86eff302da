"""Reads TOML files with errors that name file, line and column, and writes them back with comments kept."""

from __future__ import annotations

import math
import re
import tomllib
from bisect import bisect_right
from collections.abc import Mapping
from functools import lru_cache
from pathlib import Path

import tomlkit
from tomlkit.exceptions import TOMLKitError

from hearthline.core import limits
from hearthline.core.errors import FileError, QuantityError
from hearthline.core.formats.atomic import write_atomically
from hearthline.core.quantity import read
from hearthline.core.texts import read_text

_PLACE = re.compile(r"\(at line (\d+), column (\d+)\)")
_STRING = re.compile(r'"(?!"")(?:[^"\\\n]|\\.)*"|\'(?!\'\')[^\'\n]*\'')
_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f\ud800-\udfff]")
_BRACKET = re.compile(r"[\[\]{}]")
_ENDLESS = re.compile(rf"\d{{{limits.DIGITS},}}")
MISSING = object()


class Table:
    """One table of a file. Every getter checks the type and knows the line to complain about."""

    def __init__(self, data: dict, file: str, text: str, line: int = 1, end: int | None = None):
        self.data, self.file, self.text = data, file, text
        self.first, self.last = line, end or text.count("\n") + 1
        self.used: set[str] = set()

    def error(self, message: str, key: str = "") -> FileError:
        """A FileError at `key` of this table, or at the table."""
        return FileError(message, self.file, self._line(key))

    def has(self, key: str) -> bool:
        """Whether `key` is there."""
        return key in self.data

    @property
    def names(self) -> tuple[str, ...]:
        """Every key."""
        return tuple(self.data)

    def string(self, key: str, default: object = MISSING) -> str:
        """A text; a bare number is taken as its text."""
        value = self._get(key, default)
        if isinstance(value, int | float) and not isinstance(value, bool):
            return str(value)
        return self._typed(key, value, str, "a text in quotes")

    def name(self, key: str) -> str:
        """A text that something is called by: not empty, not long, nothing that only space shows."""
        text = self.string(key)
        if not text.strip() or len(text) > limits.NAME or "\n" in text:
            raise self.error(f"'{key}' should be a name of 1 to {limits.NAME} characters in one line", key)
        return text

    def integer(self, key: str, default: object = MISSING) -> int:
        """A whole number."""
        return self._typed(key, self._get(key, default), int, "a whole number")

    def flag(self, key: str, default: object = MISSING) -> bool:
        """true or false."""
        return self._typed(key, self._get(key, default), bool, "true or false")

    def point(self, key: str, default: object = MISSING) -> tuple[int, int]:
        """Two whole numbers [x, y]."""
        return self._as_point(key, self._get(key, default))

    def points(self, key: str) -> tuple[tuple[int, int], ...]:
        """A list of at least two points."""
        value = self._typed(key, self._get(key, MISSING), list, "a list of points")
        if len(value) < 2:
            raise self.error(f"'{key}' needs two points or more, as in [[0, 0], [0, 8]]", key)
        return tuple(self._as_point(key, point) for point in value)

    def strings(self, key: str, default: object = MISSING) -> tuple[str, ...]:
        """A list of texts; bare numbers are taken as their text."""
        value = self._typed(key, self._get(key, default), list | tuple, "a list")
        return tuple(str(item) for item in value)

    def texts(self, key: str) -> Mapping[str, str]:
        """A table of texts, `{}` where it is missing; bare numbers are taken as their text."""
        value = self._typed(key, self._get(key, {}), dict, "a table of values")
        return {name: str(text) for name, text in value.items()}

    def lists(self, key: str) -> Mapping[str, tuple[str, ...]]:
        """A table of lists of texts, `{}` where it is missing."""
        value = self._typed(key, self._get(key, {}), dict, "a table of lists")
        return {name: tuple(str(t) for t in self._typed(key, ts, list, "a list")) for name, ts in value.items()}

    def quantity(self, key: str, default: object = MISSING) -> float:
        """A number with an SI prefix."""
        return self._quantity(key, self.string(key, default))

    def quantities(self, key: str) -> Mapping[str, float]:
        """A table of numbers with SI prefixes, `{}` where it is missing."""
        return {name: self._quantity(name, text) for name, text in self.texts(key).items()}

    def quantity_tables(self, key: str) -> Mapping[str, Mapping[str, float]]:
        """A table of such tables."""
        tables = self._typed(key, self._get(key, {}), dict, "a table of tables")
        return {
            name: Table({name: inner}, self.file, self.text, self.first).quantities(name)
            for name, inner in tables.items()
        }

    def _quantity(self, key: str, text: str) -> float:
        try:
            return read(text, "")
        except QuantityError as error:
            raise self.error(f"{key}: {error}", key) from None

    def table(self, key: str, default: object = MISSING) -> Table:
        """A table inside this one."""
        value = self._typed(key, self._get(key, default), dict, f"a table [{key}]")
        line = self._header(f"[{key}]")[0:1] or [self._line(key)]
        return Table(value, self.file, self.text, line[0], self._next_header(line[0]))

    def tables(self, key: str) -> list[Table]:
        """The tables [[key]], none where they are missing."""
        value = self._typed(key, self._get(key, []), list, f"tables [[{key}]]")
        lines = self._header(f"[[{key}]]")
        if len(lines) < len(value):
            lines += [self._line(key)] * (len(value) - len(lines))
        return [
            Table(self._typed(key, item, dict, "a table"), self.file, self.text, line, self._next_header(line))
            for item, line in zip(value, lines, strict=False)
        ]

    def done(self) -> None:
        """Raises FileError for a key that nobody asked for."""
        for key in self.data:
            if key not in self.used:
                raise self.error(f"'{key}' is not known here; there are {', '.join(sorted(self.used))}", key)

    def _get(self, key: str, default: object):
        self.used.add(key)
        if key in self.data:
            return self.data[key]
        if default is MISSING:
            raise self.error(f"'{key}' is missing")
        return default

    def _typed(self, key: str, value, kind, wanted: str):
        if not isinstance(value, kind) or (kind is int and isinstance(value, bool)):
            raise self.error(f"'{key}' should be {wanted}, and is {value!r}", key)
        return value

    def _as_point(self, key: str, value) -> tuple[int, int]:
        if not (isinstance(value, list | tuple) and len(value) == 2 and all(type(v) is int for v in value)):
            raise self.error(f"'{key}' should be a point of two whole numbers, as in [12, 8], and is {value!r}", key)
        if max(map(abs, value)) > limits.COORDINATE:
            raise self.error(f"'{key}' lies outside of any sheet: {value}", key)
        return value[0], value[1]

    def _header(self, brackets: str) -> list[int]:
        """Lines of this table that begin with a header."""
        return [n for n, header in _headers(self.text) if self.first <= n <= self.last and header.startswith(brackets)]

    def _next_header(self, line: int) -> int:
        """The last line before the next header."""
        headers = _headers(self.text)
        k = bisect_right(headers, line, key=lambda header: header[0])
        return headers[k][0] - 1 if k < len(headers) else len(_lines(self.text))

    def _line(self, key: str) -> int:
        for number, line in enumerate(_lines(self.text), 1):
            if key and self.first <= number <= self.last and re.match(rf"\s*\[*{re.escape(key)}\s*[\]=]", line):
                return number
        return self.first


@lru_cache(maxsize=8)
def _lines(text: str) -> list[str]:
    """The lines of a file; asked for by each of its tables."""
    return text.splitlines()


@lru_cache(maxsize=8)
def _headers(text: str) -> list[tuple[int, str]]:
    """Number and text of every line that begins a table."""
    return [(n, line.strip()) for n, line in enumerate(_lines(text), 1) if line.lstrip().startswith("[")]


def read_toml(path: Path, shown: str) -> Table:
    """The file at `path`, called `shown` in messages. Raises FileError with line and column."""
    try:
        text = read_text(path, shown, "strict")
    except OSError as error:
        raise FileError(f"cannot be read: {error.strerror}", shown) from None
    except UnicodeDecodeError:
        raise FileError("is not a text file in UTF-8", shown) from None
    return parse_toml(text, shown)


def parse_toml(text: str, shown: str) -> Table:
    """The text of a file. Raises FileError with line and column."""
    _check_text(text, shown)
    try:
        table = Table(tomllib.loads(text), shown, text)
    except tomllib.TOMLDecodeError as error:
        raise _syntax_error(error, text, shown) from None
    except (ValueError, OverflowError) as error:
        raise FileError(f"holds something that cannot be used: {error}", shown) from None
    check_values(table)
    return table


def _check_text(text: str, shown: str) -> None:
    """Refuses what would be too deep for whoever reads it, and numbers of endless digits."""
    depth, quiet = 0, False
    for number, line in enumerate(text.split("\n"), 1):
        if _ENDLESS.search(line):
            raise FileError(f"has a number of more than {limits.DIGITS} digits", shown, number)
        if "[" not in line and "]" not in line and "{" not in line and "}" not in line:
            continue
        bare = _STRING.sub("", line)
        quiet ^= bare.count('"""') % 2 == 1 or bare.count("'''") % 2 == 1
        for bracket in () if quiet else _BRACKET.findall(bare.partition("#")[0]):
            depth = max(0, depth + (1 if bracket in "[{" else -1))
            if depth > limits.NESTED:
                raise FileError(f"lists and tables stand more than {limits.NESTED} deep in each other", shown, number)
        if line.count(".") > 10 * limits.NESTED:
            raise FileError("has a name of too many parts", shown, number)


def check_values(table: Table) -> None:
    """Every value that was read: numbers that can be computed with, texts without control characters, not too much of
    either. Raises FileError at the key."""
    waiting: list[tuple[str, object]] = [("", table.data)]
    count = 0
    while waiting:
        key, value = waiting.pop()
        count += 1
        if count > limits.ITEMS:
            raise FileError(f"holds more than {limits.ITEMS} values", table.file)
        if isinstance(value, dict):
            for name, inner in value.items():
                _check_string(table, name, name, limits.NAME)
                waiting.append((name, inner))
        elif isinstance(value, list):
            waiting += [(key, inner) for inner in value]
        elif isinstance(value, str):
            _check_string(table, key, value, limits.TEXT)
        elif isinstance(value, int) and abs(value) >= 2**53:
            raise table.error(f"{key} has a number that is too large", key)
        elif isinstance(value, float) and not math.isfinite(value):
            raise table.error(f"{key} has a value that is no number", key)


def _check_string(table: Table, key: str, text: str, maximum: int) -> None:
    if len(text) > maximum:
        raise table.error(f"'{key[:40]}' has {len(text)} characters, and at most {maximum} are allowed", key[:40])
    if bad := _CONTROL.search(text):
        raise table.error(f"'{key[:40]!s}' holds the control character {bad[0]!r}; take it out", key[:40])


def _syntax_error(error: tomllib.TOMLDecodeError, text: str, shown: str) -> FileError:
    """Where a person must mend: of a bracket that is never closed, the line that opens it."""
    match = _PLACE.search(str(error))
    line, column = (int(match[1]), int(match[2])) if match else (text.count("\n") + 1, 0)
    message = _PLACE.sub("", str(error)).strip().rstrip(".")
    if "nclosed" in message:
        lines = text.splitlines()
        opening = [n for n in range(min(line, len(lines)), 0, -1) if lines[n - 1].count("[") > lines[n - 1].count("]")]
        line, column = (opening or [line])[0], 0
    return FileError(f"{message[:1].lower()}{message[1:]}; put this line right by hand", shown, line, column)


def read_version(table: Table, known: int) -> int:
    """The format number that every file of ours begins with; raises FileError for a newer one."""
    version = table.integer("format")
    if version > known:
        raise table.error(
            f"this file has format {version}, and this version of Hearthline reads up to {known}", "format"
        )
    return version


def write_toml(path: Path, data: dict) -> None:
    """Writes `data`; where the file exists, what did not change keeps its place and its comments."""
    try:
        document = tomlkit.parse(path.read_text(encoding="utf-8"))
    except (OSError, TOMLKitError, UnicodeDecodeError):
        document = tomlkit.document()
    _merge(document, data)
    write_atomically(path, tomlkit.dumps(document))


def toml_text(data: dict) -> str:
    """`data` as the text of a file of its own."""
    return tomlkit.dumps(plain_document(data))


def plain_document(data: dict) -> tomlkit.TOMLDocument:
    """`data` as a document of its own."""
    document = tomlkit.document()
    _merge(document, data)
    return document


def _merge(target, data: dict) -> None:
    for key in [key for key in target if key not in data]:
        del target[key]
    for key, value in data.items():
        if key not in target:
            target[key] = _item(value)
        elif isinstance(value, dict) and isinstance(target[key], dict):
            _merge(target[key], value)
        elif _same_tables(target[key], value):
            for old, new in zip(target[key], value, strict=True):
                _merge(old, new)
        elif target[key] != value:
            target[key] = _item(value)


def _same_tables(old, new) -> bool:
    """Two lists of tables with the same names in the same order."""
    if not (isinstance(old, list) and isinstance(new, list) and len(old) == len(new) and new):
        return False
    if not all(isinstance(item, dict) for item in [*old, *new]):
        return False
    return all(a.get("name") == b.get("name") for a, b in zip(old, new, strict=True))


def _item(value):
    if isinstance(value, list) and value and all(isinstance(item, dict) for item in value):
        tables = tomlkit.aot()
        for item in value:
            table = tomlkit.table()
            for key, entry in item.items():
                table[key] = _inline(entry)
            tables.append(table)
        return tables
    return value


def _inline(entry):
    if not isinstance(entry, dict):
        return entry
    table = tomlkit.inline_table()
    table.update(entry)
    return table
