"""Frequencies of small signals: their settings, their number, and how a deck's card says them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from hearthline.core.analyses.kind import WORD, Ask, DeckCard, Setting, text_of
from hearthline.core.errors import AnalysisError

FREQUENCIES = (
    Setting("from", "Hz", "lowest frequency"),
    Setting("to", "Hz", "highest frequency"),
    Setting("points", "", "how many points, in each decade unless spaced otherwise"),
    Setting("spaced", "", "how the points lie", WORD, ("decade", "octave", "even")),
)
CARD_WORDS = {"dec": "decade", "oct": "octave", "lin": "even"}
BASES = {"decade": 10.0, "octave": 2.0}
MOST_POINTS = 5_000_000


def band_of(plan: Ask) -> tuple[float, float]:
    """Lowest and highest frequency [Hz]. Raises AnalysisError."""
    low, high = plan.number("from"), plan.number("to")
    allowed = 0 <= low <= high if plan.settings["spaced"] == "even" else 0 < low <= high
    if not allowed:
        message = f"frequencies rise from more than 0 Hz, and not from {low:g} to {high:g} Hz"
        raise AnalysisError(plan.name, message)
    return low, high


def count_of(plan: Ask) -> int:
    """How many points there will be."""
    return _count(plan.settings["spaced"], *band_of(plan), plan.count("points", 1))


def frequencies_of(plan: Ask) -> np.ndarray:
    """The points (points,) [Hz]."""
    return spaced(plan.settings["spaced"], *band_of(plan), plan.count("points", 1))


def spaced(how: str, low: float, high: float, points: int) -> np.ndarray:
    """Frequencies [Hz]: `points` each `decade` or `octave`, or `even` ones in all."""
    if how == "even":
        return np.linspace(low, high, points)
    return low * BASES[how] ** (np.arange(_count(how, low, high, points)) / points)


def _count(how: str, low: float, high: float, points: int) -> int:
    return points if how == "even" else int(np.floor(points * np.log(high / low) / np.log(BASES[how]) + 1e-9)) + 1


def of_card(card: DeckCard, tokens: Sequence[str], form: str) -> dict[str, str]:
    """The settings that `dec 10 1k 1meg` says. Raises DeckError."""
    if len(tokens) != 4 or tokens[0] not in CARD_WORDS:
        raise card.error(f"frequencies are dec, oct or lin, a number of points, and two ends; {form}")
    points, low, high = (card.number(token) for token in tokens[1:])
    if points < 1 or points != int(points):
        raise card.error(f"{points:g} is no number of points; {form}")
    if high < low or (low <= 0 and tokens[0] != "lin") or low < 0:
        raise card.error(f"frequencies from {low:g} to {high:g} Hz cannot be; {form}")
    if points * (1 if tokens[0] == "lin" else 60) > MOST_POINTS:
        raise card.error(f"{points:g} points are too many")
    spaced = CARD_WORDS[tokens[0]]
    return {"from": text_of(low), "to": text_of(high), "points": str(int(points)), "spaced": spaced}
