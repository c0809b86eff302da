"""Reads the lines of a deck: comments dropped, continuations joined, split into tokens that know where they stand."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path

from hearthline.core import limits
from hearthline.core.elements.deck_line import Line
from hearthline.core.errors import DeckError
from hearthline.core.texts import read_text

_TOKEN = re.compile(r"""\{[^}]*\}|'[^']*'|"[^"]*"|=|[^\s=(),{}'"]+""")
_UNCLOSED = re.compile(r"""[{}'"]""")
KEEPS_CASE = (".include", ".inc", ".lib", ".veriloga")
"""Cards whose argument names a file."""


def read_lines(path: Path, shown: str, title: bool) -> tuple[Line, ...]:
    """The statements of a file; with `title` the first line is skipped. Raises DeckError at what cannot be split."""
    return statements(read_text(path, shown), shown, title)


@lru_cache(64)
def statements(text: str, shown: str, title: bool) -> tuple[Line, ...]:
    """The same of a text. A kit's file is asked for again for each of its sections."""
    return tuple(_split(text, shown, title))


def _split(text: str, shown: str, title: bool) -> Iterator[Line]:
    pending: tuple[int, str] | None = None
    for number, raw in enumerate(text.splitlines(), 1):
        line = _without_comment(raw)
        if (title and number == 1) or not line.strip():
            continue
        if line.lstrip().startswith("+"):
            if pending is None:
                raise DeckError("a line that begins with '+' continues another, and there is none", shown, number)
            pending = (pending[0], pending[1] + " " + line.lstrip()[1:])
            continue
        if pending:
            yield _tokens(*pending, shown)
        pending = (number, line.strip())
    if pending:
        yield _tokens(*pending, shown)


def _without_comment(raw: str) -> str:
    if raw.lstrip().startswith("*"):
        return ""
    line = raw.split(";", 1)[0]
    match = re.search(r"(^|\s)\$", line)
    return line[: match.start()] if match else line


def _tokens(number: int, text: str, shown: str) -> Line:
    if len(text) > limits.TEXT:
        message = f"a line has at most {limits.TEXT} characters with what continues it, and this one {len(text)}"
        raise DeckError(message, shown, number)
    if text.count("{") != text.count("}"):  # before the pattern looks for the end of each
        raise DeckError("a bracket is opened and not closed (or the other way round)", shown, number)
    tokens = _TOKEN.findall(text)
    if not tokens or _UNCLOSED.search(_TOKEN.sub("", text)):
        raise DeckError("a bracket or quote is opened and not closed (or the other way round)", shown, number)
    keeps_case = tokens[0].lower() in KEEPS_CASE
    return Line(shown, number, tuple(t if keeps_case and k else t.lower() for k, t in enumerate(tokens)), text.lower())
