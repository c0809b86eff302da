"""Reads the lines of a deck: comments dropped, continuations joined, split into tokens that know where they stand."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path

from hearthline.core import limits
from hearthline.core.errors import DeckError, ExpressionError
from hearthline.core.expression import Expression
from hearthline.core.texts import read_text

_TOKEN = re.compile(r"""\{[^}]*\}|'[^']*'|"[^"]*"|=|[^\s=(),{}'"]+""")
_UNCLOSED = re.compile(r"""[{}'"]""")
KEEPS_CASE = (".include", ".inc", ".lib", ".veriloga")
"""Cards whose argument names a file."""


@dataclass(frozen=True)
class Line:
    """One statement: the file as the deck names it, the number of its first line, and its tokens and whole text (in
    lower case)."""

    file: str
    number: int
    tokens: tuple[str, ...]
    text: str = field(default="", compare=False)

    @property
    def head(self) -> str:
        """The part's name or the card's."""
        return self.tokens[0]

    def error(self, message: str) -> DeckError:
        """A DeckError at this line."""
        return DeckError(message, self.file, self.number)

    def expression(self, token: str) -> Expression:
        """The expression that a token holds: a number, a bare name, `{...}` or `'...'`. Raises DeckError."""
        try:
            return Expression.parse(unquoted(token), deck=True)
        except ExpressionError as error:
            raise self.error(str(error)) from None

    def split(self, start: int = 1) -> tuple[list[str], dict[str, Expression]]:
        """Tokens from `start` on: those that stand alone, and those written `name=value`. Raises DeckError."""
        alone: list[str] = []
        named: dict[str, Expression] = {}
        tokens = self.tokens[start:]
        k = 0
        while k < len(tokens):
            if k + 1 < len(tokens) and tokens[k + 1] == "=":
                if k + 2 >= len(tokens) or tokens[k + 2] == "=":
                    raise self.error(f"a value is missing after '{tokens[k]} ='")
                if tokens[k] in named:
                    raise self.error(f"'{tokens[k]}' is given twice")
                named[tokens[k]] = self.expression(tokens[k + 2])
                k += 3
            elif tokens[k] == "=":
                raise self.error("there is a '=' with no name before it; write name=value")
            else:
                alone.append(tokens[k])
                k += 1
        return alone, named


def unquoted(token: str) -> str:
    """The text inside `{}`, `''` or `""`."""
    return token[1:-1] if token[:1] in "{'\"" and len(token) > 1 else token


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
