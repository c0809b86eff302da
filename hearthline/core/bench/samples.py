"""What a bench says of its samples, as typed, and as numbers."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from hearthline.core import limits
from hearthline.core.errors import BenchError, HearthlineError
from hearthline.core.quantity import read
from hearthline.core.spread.draws import LATIN, RANDOM, WAYS
from hearthline.core.spread.variables import KINDS, MISMATCH, PROCESS, BenchStatistics
from hearthline.core.tolerance import Tolerance, tolerance_of

POINT, CONDITIONS, PICKED = "point", "conditions", "picked"
PLACES = (POINT, CONDITIONS, PICKED)
SECTION = "samples"

Tables = Mapping[str, Mapping[str, str]]


@dataclass(frozen=True)
class SampleSetup:
    """How many samples, from which `seed`, spread in which `way`, `of` which kinds of variables, `at` which conditions, and the
    width of the interval of the yield at which to end (`until`); for decks their `mismatch` and `process` by model and
    parameter."""

    count: str = "1000"
    seed: str = "1"
    way: str = RANDOM
    of: str = ", ".join(KINDS)
    at: str = POINT
    until: str = ""
    mismatch: Tables = field(default_factory=dict)
    process: Tables = field(default_factory=dict)


@dataclass(frozen=True)
class ToleranceLine:
    """The tolerance of a part's value (`of`; "" its own): uniform `within`, normal of `sigma`, or both."""

    part: str
    of: str = ""
    within: str = ""
    sigma: str = ""


@dataclass(frozen=True)
class Sampling:
    """A setup as numbers; `until` is a share, 0 where the count alone ends it."""

    count: int
    seed: int
    way: str
    kinds: tuple[str, ...]
    at: str
    until: float
    statistics: BenchStatistics


def sampling_of(setup: SampleSetup, tolerances: tuple[ToleranceLine, ...] = ()) -> Sampling:
    """The numbers of a setup. Raises BenchError at the entry that cannot be."""
    count = _whole(setup.count, "count", 1, limits.SAMPLES)
    kinds = tuple(dict.fromkeys(word.strip() for word in setup.of.split(",") if word.strip()))
    for word in kinds:
        if word not in KINDS:
            raise BenchError(f"samples are of {', '.join(KINDS)}, not of '{word}'", SECTION, "of")
    if not kinds:
        raise BenchError(f"samples of nothing are all the same; name some of {', '.join(KINDS)}", SECTION, "of")
    for key, word, words in (("way", setup.way, WAYS), ("at", setup.at, PLACES)):
        if word not in words:
            raise BenchError(f"there is no {key} '{word}'; there are {', '.join(words)}", SECTION, key)
    until = _attempt("until", lambda: _share(setup.until)) if setup.until.strip() else 0.0
    if until and setup.way == LATIN:
        raise BenchError(
            f"a Latin hypercube is of its count and cannot end before; take {RANDOM} or sobol", SECTION, "until"
        )
    own = BenchStatistics(
        {(one.part, one.of): _tolerance(one, k) for k, one in enumerate(tolerances)},
        _table(setup.mismatch, MISMATCH), _table(setup.process, PROCESS),
    )  # fmt: skip
    return Sampling(count, _whole(setup.seed, "seed", 0, 2**63), setup.way, kinds, setup.at, until, own)


def _whole(text: str, key: str, least: int, most: int) -> int:
    value = _read(key, text)
    if value != math.floor(value) or not least <= value <= most:
        raise BenchError(
            f"{key} is a whole number from {least} to {most:,}, and is {text}".replace(",", " "), SECTION, key
        )
    return int(value)


def _share(text: str) -> float:
    value = read(text.strip().removesuffix("%"), "") / (100.0 if text.strip().endswith("%") else 1.0)
    if not 0.0 < value < 1.0:
        raise BenchError(f"the width of the interval lies between 0 % and 100 %, and is {text}", SECTION, "until")
    return value


def _tolerance(line: ToleranceLine, index: int) -> Tolerance:
    try:
        return tolerance_of(line.within, line.sigma)
    except HearthlineError as error:
        key = "sigma" if line.sigma and not line.within else "within"
        raise BenchError(
            f"{line.part}: {error}", "tolerances", key if line.within or line.sigma else "part", index
        ) from None


def _table(tables: Tables, key: str) -> dict[str, dict[str, float]]:
    found: dict[str, dict[str, float]] = {}
    for model, values in tables.items():
        for name, text in values.items():
            value = _read(model, text)
            if value < 0:
                raise BenchError(f"{key} of {model}: {name} cannot be below 0, and is {text}", SECTION, model)
            found.setdefault(model, {})[name.lower()] = value
    return found


def _read(key: str, text: str) -> float:
    return _attempt(key, lambda: read(text, ""))


def _attempt(key: str, action: Callable[[], float]) -> float:
    try:
        return action()
    except BenchError:
        raise
    except HearthlineError as error:
        raise BenchError(f"{key}: {error}", SECTION, key) from None
