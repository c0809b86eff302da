"""How large the window's texts are, in points: everything grows with them, so that nothing is cut off."""

from __future__ import annotations

from collections.abc import MutableMapping

USUAL, SMALLEST, LARGEST = 10, 8, 16
"""Points of an ordinary text; what the window is laid out for, and how far a person may go."""

NAME = "text size"
"""What it is remembered by."""

SCALE = "QT_SCALE_FACTOR"
"""Read by Qt when the application begins."""


def limited(points: object) -> int:
    """A size that can be had."""
    return max(SMALLEST, min(LARGEST, points)) if isinstance(points, int) else USUAL


def scale_texts(points: object, environment: MutableMapping[str, str]) -> None:
    """Makes Qt draw everything for that size, on top of a scale from outside; before the application begins."""
    try:
        outside = float(environment.get(SCALE, "1"))
    except ValueError:
        outside = 1.0
    factor = outside * limited(points) / USUAL
    if factor != 1.0:
        environment[SCALE] = f"{factor:g}"
