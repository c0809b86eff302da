"""Analyses of a bench: each a line of plain settings, `sweep of vin from 0 to 1.2 points 241`; what is left out is taken from
the circuit."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from hearthline.core.errors import ExpressionError


@dataclass(frozen=True)
class Setting:
    """One setting: its word in the line, its unit, what it means; `kind` is number, name, word or list."""

    word: str
    unit: str
    meaning: str
    kind: str = "number"
    words: tuple[str, ...] = ()


_FREQUENCIES = (
    Setting("from", "Hz", "lowest frequency"),
    Setting("to", "Hz", "highest frequency"),
    Setting("points", "", "how many points, in each decade unless spaced otherwise"),
    Setting("spaced", "", "how the points lie", "word", ("decade", "octave", "even")),
)

SETTINGS: dict[str, tuple[Setting, ...]] = {
    "point": (),
    "sweep": (
        Setting("of", "", "the source, parameter or `temperature` that is swept", "name"),
        Setting("from", "V", "where it begins"),
        Setting("to", "V", "where it ends; a sweep may go down"),
        Setting("points", "", "how many points"),
        Setting("step", "V", "how far from point to point, in the place of `points`"),
        Setting("within", "", "a second source, parameter or `temperature`: the sweep is made at each of its values", "name"),
        Setting("at", "V", "the values of that second one, with commas between", "list"),
    ),
    "transient": (
        Setting("to", "s", "when it ends"),
        Setting("from", "s", "from when on it is kept"),
        Setting("step", "s", "the longest step"),
        Setting("begin", "", "at the operating point, or at the initial values as given", "word", ("point", "given")),
        Setting("rule", "", "integration: trapezoidal, or Gear's of second order", "word", ("trap", "gear")),
        Setting("error", "", "error allowed to a step, as a share of the peak"),
    ),
    "ac": (*_FREQUENCIES, Setting("by", "", "the source that is 1 V or 1 A; without it those drawn with an amplitude", "name")),
    "noise": (
        Setting("of", "", "the net, or two nets with a comma, whose noise is wanted", "name"),
        Setting("by", "", "the source that noise is referred to", "name"),
        *_FREQUENCIES,
    ),
}  # fmt: skip
"""What each kind of analysis takes, in the order in which a line says it."""

MEANINGS = {
    "point": "operating point",
    "sweep": "sweep of a source, a parameter or the temperature",
    "transient": "course in time",
    "ac": "small signals over frequency",
    "noise": "noise at an output over frequency",
}


@dataclass(frozen=True)
class Analysis:
    """One analysis: a name for formulas, its kind, and its settings as typed; what is not in them comes from the circuit."""

    name: str
    kind: str
    settings: Mapping[str, str] = field(default_factory=dict)

    @property
    def text(self) -> str:
        """As a line."""
        words = [f"{one.word} {self.settings[one.word]}" for one in SETTINGS[self.kind] if one.word in self.settings]
        return " ".join([self.kind, *words])


def parse_analysis(name: str, text: str) -> Analysis:
    """The analysis that a line says. Raises ExpressionError with the column of what was not understood."""
    pieces = list(_pieces(text))
    if not pieces or pieces[0][0].lower() not in SETTINGS:
        said = f"'{pieces[0][0]}'" if pieces else "nothing"
        raise ExpressionError(f"{said} is not an analysis; there are {', '.join(SETTINGS)}", 1)
    kind = pieces[0][0].lower()
    known = {one.word: one for one in SETTINGS[kind]}
    settings: dict[str, str] = {}
    for (word, column), value in zip(pieces[1::2], [*pieces[2::2], None], strict=False):
        word = word.lower()
        if word not in known:
            raise ExpressionError(
                f"'{word}' at column {column}: {kind} takes {', '.join(known) or 'nothing more'}", column
            )
        if word in settings:
            raise ExpressionError(f"'{word}' stands twice; look at column {column}", column)
        if value is None:
            raise ExpressionError(f"'{word}' at column {column} has no value: {known[word].meaning}", column)
        if known[word].words and value[0] not in known[word].words:
            raise ExpressionError(
                f"'{value[0]}' at column {value[1]}: {word} is one of {', '.join(known[word].words)}", value[1]
            )
        settings[word] = value[0]
    return Analysis(name, kind, settings)


def _pieces(text: str):
    """Words with their columns; what stands in brackets is one word, and so is a list with blanks after its commas."""
    word, begin, depth = "", 0, 0
    for column, sign in enumerate(text + " ", 1):
        depth += {"(": 1, "{": 1, ")": -1, "}": -1}.get(sign, 0)
        if sign.isspace() and depth <= 0 and not word.endswith(","):
            if word:
                yield word, begin
            word = ""
        elif not (sign.isspace() and depth <= 0):
            begin = begin if word else column
            word += sign
