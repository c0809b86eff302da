"""An analysis as a line of plain settings, `sweep of vin from 0 to 1.2 points 241`; what is left out comes from the circuit."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field

from hearthline.core.analyses import ANALYSES
from hearthline.core.analyses.kind import WITHIN, AnalysisKind, Setting
from hearthline.core.errors import ExpressionError


@dataclass(frozen=True)
class Analysis:
    """One analysis: a name for formulas, its kind, and its settings as typed; what is not in them comes from the circuit."""

    name: str
    kind: str
    settings: Mapping[str, str] = field(default_factory=dict)

    @property
    def of(self) -> AnalysisKind:
        """What it is."""
        return ANALYSES[self.kind]

    @property
    def text(self) -> str:
        """As a line."""
        words = [f"{one.spoken} {self.settings[one.word]}" for one in self.of.settings if one.word in self.settings]
        return " ".join([self.kind, *words])


@dataclass(frozen=True)
class _Word:
    """A word and the column where it begins."""

    text: str
    column: int


def parse_analysis(name: str, text: str) -> Analysis:
    """The analysis that a line says. Raises ExpressionError with the column of what was not understood."""
    pieces = list(_pieces(text))
    if not pieces or pieces[0].text.lower() not in ANALYSES:
        said = f"'{pieces[0].text}'" if pieces else "nothing"
        raise ExpressionError(f"{said} is not an analysis; there are {', '.join(ANALYSES)}", 1)
    kind = ANALYSES[pieces[0].text.lower()]
    return Analysis(name, kind.name, dict(_settings(kind, pieces[1:])))


def _settings(kind: AnalysisKind, pieces: list[_Word]) -> Iterator[tuple[str, str]]:
    known: dict[str, Setting] = {}
    for one in kind.settings:  # a word of its own goes before one that all have
        known.setdefault(one.spoken, one)
    nested = {one.word: one for one in WITHIN}
    said: set[str] = set()
    k = 0
    while k < len(pieces):
        word, column = pieces[k].text.lower(), pieces[k].column
        if word not in known:
            raise ExpressionError(
                f"'{word}' at column {column}: {kind.name} takes {', '.join(known) or 'nothing more'}", column
            )
        one = nested[word] if word in nested and (word == "within" or "within" in said) else known[word]
        if one is nested["at"] and "within" not in said:
            raise ExpressionError(
                f"'at' at column {column}: say what takes these values before it: within NAME at ...", column
            )
        if one.word in said:
            raise ExpressionError(f"'{word}' stands twice; look at column {column}", column)
        if k + 1 == len(pieces):
            raise ExpressionError(f"'{word}' at column {column} has no value: {one.meaning}", column)
        value = pieces[k + 1]
        if one.words and value.text not in one.words:
            raise ExpressionError(
                f"'{value.text}' at column {value.column}: {word} is one of {', '.join(one.words)}",
                value.column,
            )
        said.add(one.word)
        k += 2
        if (
            one is nested["at"]
            and [piece.text.lower() for piece in pieces[k : k + 4 : 2]] == ["to", "step"]
            and k + 3 < len(pieces)
        ):
            yield one.word, " ".join([value.text, *(piece.text for piece in pieces[k : k + 4])])
            k += 4
        else:
            yield one.word, value.text


def _pieces(text: str) -> Iterator[_Word]:
    """Words; what stands in brackets is one word, and so is a list with blanks after its commas."""
    word, begin, depth = "", 0, 0
    for column, sign in enumerate(text + " ", 1):
        depth += {"(": 1, "{": 1, ")": -1, "}": -1}.get(sign, 0)
        if sign.isspace() and depth <= 0 and not word.endswith(","):
            if word:
                yield _Word(word, begin)
            word = ""
        elif not (sign.isspace() and depth <= 0):
            begin = begin if word else column
            word += sign
