"""The lines of a Touchstone file: keywords, the option line, and numbers in points."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from itertools import chain
from pathlib import Path

import numpy as np

from hearthline.core import limits
from hearthline.core.errors import FileError

UNITS = {"hz": 1.0, "khz": 1e3, "mhz": 1e6, "ghz": 1e9}
FORMS, NUMBERS = ("s", "y", "z", "h", "g"), ("db", "ma", "ri")
_KEYWORD = re.compile(r"\[([^\]]*)\]\s*(.*)")


@dataclass(frozen=True)
class Options:
    """The option line: unit of frequency [Hz], form and numbers, reference [Ω]."""

    unit: float = 1e9
    form: str = "s"
    numbers: str = "ma"
    reference: float = 50.0


@dataclass
class Points:
    """Numbers of a section, in points: a line with an odd number of numbers begins one with its frequency. `starts` of the
    points among the numbers and their `lines` in the file; `ends` of all lines among the numbers, and these lines, `rows`."""

    numbers: np.ndarray
    starts: np.ndarray
    lines: np.ndarray
    ends: np.ndarray
    rows: np.ndarray

    def cut_at(self, count: int) -> tuple[Points, Points]:
        """The first points, and the rest."""
        start = self.starts[count]
        row = int(np.searchsorted(self.ends, start, side="right"))
        return (
            Points(self.numbers[:start], self.starts[:count], self.lines[:count], self.ends[:row], self.rows[:row]),
            Points(
                self.numbers[start:], self.starts[count:] - start, self.lines[count:], self.ends[row:] - start, self.rows[row:]
            ),
        )  # fmt: skip

    @property
    def sizes(self) -> np.ndarray:
        """How many numbers each point has."""
        return np.diff(self.starts, append=len(self.numbers))

    @property
    def frequencies(self) -> np.ndarray:
        """As they stand there."""
        return self.numbers[self.starts]


@dataclass
class Section:
    """Lines of numbers, by their number in the file."""

    texts: list[str] = field(default_factory=list)
    lines: list[int] = field(default_factory=list)


@dataclass
class Source:
    """A file in its parts: keywords with what stands behind them (and their line), options, and the sections of numbers."""

    name: str
    options: Options
    keywords: dict[str, tuple[str, int]]
    network: Section
    noise: Section
    reference: Section
    last: int

    def error(self, message: str, line: int = 0) -> FileError:
        """At a line of it."""
        return FileError(message, self.name, line)


def source_of(path: Path, shown: str) -> Source:
    """Raises FileError."""
    made = Source(shown, Options(), {}, Section(), Section(), Section(), 0)
    into, informing, optioned = made.network, 0, False
    for number, text in _lines(path, shown):
        made.last = number
        if text[0] == "[" and (not informing or text.lower().startswith("[end information]")):
            keyword, rest = _keyword(made, text, number)
            if keyword == "end":
                break
            if keyword in ("begin information", "end information"):
                informing = number if keyword[0] == "b" else 0
            elif not informing:
                made.keywords[keyword] = rest, number
                into = {"noise data": made.noise, "reference": made.reference}.get(keyword, made.network)
                if keyword == "reference" and rest:
                    into.texts.append(rest)
                    into.lines.append(number)
        elif informing:
            continue
        elif text[0] == "#":
            if not optioned:
                made.options, optioned = _options(made, text, number), True
        else:
            into.texts.append(text)
            into.lines.append(number)
    if informing:
        raise made.error("[Begin Information] has no [End Information]", informing)
    return made


def _lines(path: Path, shown: str) -> Iterator[tuple[int, str]]:
    try:
        if path.stat().st_size > limits.FILE:
            raise FileError(f"is larger than {limits.FILE // 1_000_000} MB", shown)
        whole = path.read_bytes().decode("utf-8-sig", errors="replace")
    except OSError as error:
        raise FileError(f"cannot be read: {error.strerror}", shown) from None
    if "\0" in whole:
        raise FileError("is not a text file", shown)
    for number, line in enumerate(whole.splitlines(), 1):
        text = line.partition("!")[0].strip()
        if text:
            yield number, text


_KNOWN = {
    "version", "number of ports", "two-port data order", "number of frequencies", "number of noise frequencies", "reference",
    "matrix format", "mixed-mode order", "begin information", "end information", "network data", "noise data", "end",
}  # fmt: skip


def _keyword(source: Source, text: str, number: int) -> tuple[str, str]:
    found = _KEYWORD.match(text)
    keyword = " ".join(found[1].lower().split()) if found else ""
    if found is None or keyword not in _KNOWN:
        raise source.error(
            f"there is no keyword '{text.split(']')[0]}]'; version 2.0 has {', '.join(sorted(_KNOWN))}", number
        )
    return keyword, found[2].strip()


def _options(source: Source, text: str, number: int) -> Options:
    words = text[1:].lower().split()
    found = Options()
    while words:
        word = words.pop(0)
        if word in UNITS:
            found = replace(found, unit=UNITS[word])
        elif word in FORMS:
            found = replace(found, form=word)
        elif word in NUMBERS:
            found = replace(found, numbers=word)
        elif word == "r" and words:
            found = replace(found, reference=_reference(source, words.pop(0), number))
        else:
            raise source.error(
                f"'{word}' is no option; write the line as `# GHz S MA R 50`: a unit of frequency, one of "
                f"{' '.join(FORMS).upper()}, one of {' '.join(NUMBERS).upper()}, and R with an impedance",
                number,
            )
    return found


def _reference(source: Source, text: str, number: int) -> float:
    try:
        value = float(text)
    except ValueError:
        raise source.error(f"'{text}' is not an impedance; write R 50", number) from None
    if not 0 < value < math.inf:
        raise source.error(f"the reference impedance must be above 0, and is {value:g} Ω", number)
    return value


def numbers_of(source: Source, section: Section) -> tuple[np.ndarray, np.ndarray]:
    """All numbers of a section, and how many each line has."""
    rows = [text.split() for text in section.texts]
    try:
        numbers = np.array(list(map(float, chain.from_iterable(rows))))
    except ValueError:
        numbers = np.array([np.nan])
    if not np.isfinite(numbers).all():
        _blame(source, section)
    return numbers, np.array([len(row) for row in rows], np.int64)


def _blame(source: Source, section: Section) -> None:
    """Raises FileError for the first that is no number."""
    for text, line in zip(section.texts, section.lines, strict=True):
        for word in text.split():
            try:
                good = math.isfinite(float(word))
            except ValueError:
                good = False
            if not good:
                raise source.error(f"'{word}' is not a number", line)


def points_of(source: Source, section: Section) -> Points:
    """The points of a section. Raises FileError for what is no number, or stands before the first frequency."""
    numbers, counts = numbers_of(source, section)
    begins = counts % 2 == 1
    if len(counts) and not begins[0]:
        raise source.error(
            f"a point begins with its frequency, so its first line has an odd count of numbers, and this has {counts[0]}; "
            "a number is missing or too many",
            section.lines[0],
        )
    starts = (np.cumsum(counts) - counts)[begins]
    rows = np.array(section.lines, np.int64)
    return Points(numbers, starts, rows[begins], np.cumsum(counts), rows)
