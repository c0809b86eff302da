"""A statement of a deck, split into tokens that know where they stand."""

from __future__ import annotations

from dataclasses import dataclass, field

from hearthline.core.errors import DeckError, ExpressionError
from hearthline.core.expression import Expression


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
