"""How curves of heat are called: of parts their temperature, of fingers what each turns into heat and how hot it is."""

from __future__ import annotations

import re
from collections.abc import Sequence


def temperature_label(part: str) -> str:
    """Mean over the part's fingers."""
    return f"{part}.temperature"


def peak_label(part: str) -> str:
    """In the middle of its hottest finger."""
    return f"{part}.peak_temperature"


def power_label(part: str, finger: int) -> str:
    """Of a finger, counted from 1."""
    return f"{part}.finger{finger}.power"


def hot_label(part: str, finger: int) -> str:
    """Of a finger, mean over its area."""
    return f"{part}.finger{finger}.hot"


def labels_of(parts: Sequence[tuple[str, int]]) -> set[str]:
    """All of parts with so many fingers."""
    found = {label for part, _ in parts for label in (temperature_label(part), peak_label(part))}
    each = [(part, k + 1) for part, count in parts for k in range(count)]
    return found | {label(part, k) for part, k in each for label in (power_label, hot_label)}


def tells_heat(formula: str) -> bool:
    """Whether a formula asks for a temperature, or the power of a finger."""
    return re.search(r"\.(temperature|peak_temperature|finger\d+\.(hot|power))\b", formula) is not None
