"""The waveform of a source, and how it is typed on a drawing: `pulse(0 1.2 1n 10p 10p 2n 4n)`."""

from __future__ import annotations

import re
from dataclasses import dataclass

from hearthline.core.errors import ExpressionError
from hearthline.core.expression import Expression, parse_value


@dataclass(frozen=True)
class Wave:
    """The shape of a source over time: `pulse`, `sin`, `exp`, `pwl` or `sffm`, and its numbers in order."""

    kind: str
    numbers: tuple[Expression, ...]


FORMS = {
    "pulse": "pulse(low high delay rise fall width period)",
    "sin": "sin(offset amplitude frequency delay damping phase)",
    "exp": "exp(first second delay1 tau1 delay2 tau2)",
    "pwl": "pwl(time1 value1 time2 value2 ...)",
    "sffm": "sffm(offset amplitude carrier index signal)",
}
"""The shapes with their numbers, of which the later ones may be left out."""

_CALL = re.compile(r"\s*([A-Za-z]+)\s*\((.*)\)\s*", re.DOTALL)


def parse_wave(text: str) -> Wave:
    """The wave that `text` says; numbers stand between blanks or commas, expressions in brackets or braces.

    Raises ExpressionError saying what the form is.
    """
    match = _CALL.fullmatch(text)
    if not match or match[1].lower() not in FORMS:
        raise ExpressionError(f"'{text}' is no waveform; write one of {', '.join(FORMS.values())}")
    kind = match[1].lower()
    numbers = tuple(parse_value(word, "") for word in _words(match[2], text))
    minimum = 4 if kind == "pwl" else 2
    if len(numbers) < minimum or (kind == "pwl" and len(numbers) % 2):
        raise ExpressionError(f"'{text}' has too few numbers; write it as {FORMS[kind]}")
    if kind != "pwl" and len(numbers) > len(FORMS[kind].split()):
        raise ExpressionError(f"'{text}' has too many numbers; write it as {FORMS[kind]}")
    return Wave(kind, numbers)


def direct_value(wave: Wave) -> Expression:
    """The value that a source with this waveform has at direct current."""
    return wave.numbers[1 if wave.kind == "pwl" else 0]


def _words(inside: str, text: str) -> list[str]:
    words, depth, word = [], 0, ""
    for sign in inside:
        if sign in "({":
            depth += 1
        if sign in ")}":
            depth -= 1
        if depth == 0 and (sign.isspace() or sign == ","):
            words.append(word)
            word = ""
        else:
            word += sign
    if depth:
        raise ExpressionError(f"a closing bracket is missing in '{text}'")
    return [w.strip("{}") for w in (*words, word) if w]
