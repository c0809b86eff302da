"""Values as decks have them: numbers in prefixes of their own, expressions in braces."""

from __future__ import annotations

import re

from hearthline.core.errors import HearthlineError, QuantityError
from hearthline.core.expression import Expression, parse_value
from hearthline.core.quantity import field_text, read, read_deck

_NUMBER = re.compile(r"(?<![\w.])(\d+\.?\d*|\.\d+)([eE][+-]?\d+)?([A-Za-zµμ]*)")


def number_text(expression: Expression) -> str:
    """An expression that was read."""
    return _plain(expression.tree) if isinstance(expression.tree, float) else _braced(expression.text)


def value_text(text: str, unit: str) -> str:
    """A value as a deck has it: a number in its own prefixes, or an expression in braces."""
    try:
        expression = parse_value(text, unit)
    except HearthlineError:
        return f"{{{text}}}"
    if not expression.names and isinstance(expression.tree, float):
        return _deck_number(text, unit, expression.tree)
    return _braced(text)


def _deck_number(text: str, unit: str, number: float) -> str:
    """The text itself where a deck reads it the same, else the number in full."""
    plain = text.strip().replace(" ", "").replace("µ", "u").removesuffix(unit)
    try:
        if plain and read_deck(plain) == number:
            return plain.lower()
    except QuantityError:
        pass
    return _plain(number)


def _plain(number: float) -> str:
    """A number with a prefix of decks, or in full where there is none that fits."""
    text = field_text(number).replace("M", "meg")
    try:
        return text if read_deck(text) == number else repr(number)
    except QuantityError:
        return repr(number)


def _braced(text: str) -> str:
    def rewrite(match: re.Match) -> str:
        if not match[3]:
            return match[0]
        try:
            return repr(read(match[0], ""))
        except QuantityError:
            return match[0]

    return "{" + _NUMBER.sub(rewrite, text).replace(" ", "") + "}"
