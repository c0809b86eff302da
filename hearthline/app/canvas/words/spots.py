"""Candidate places around bodies, pins and wires, in pixels with the origin of the grid at (0, 0)."""

from __future__ import annotations

from collections.abc import Iterable

from hearthline.core.places import Box, Spot

BESIDE, ABOVE = 6.0, 3.0
"""Pixels between a body and the words beside it, and above or below it."""


def around(box: Box, first: str) -> tuple[Spot, ...]:
    """Places around a body; `first` is the side that is tried first: right, left or above."""
    left, top, right, bottom = box
    x, y = (left + right) / 2, (top + bottom) / 2
    high = max(0.0, min(8.0, (bottom - top) / 6))
    sides = {
        "right": [(right + BESIDE, top + high, 0, 0), (right + BESIDE, y, 0, 0.5), (right + BESIDE, bottom - high, 0, 1)],
        "left": [(left - BESIDE, top + high, 1, 0), (left - BESIDE, y, 1, 0.5), (left - BESIDE, bottom - high, 1, 1)],
        "above": [(x, top - ABOVE, 0.5, 1), (x + 4, top - ABOVE, 0, 1), (x - 4, top - ABOVE, 1, 1)],
        "below": [(x, bottom + ABOVE, 0.5, 0), (x + 4, bottom + ABOVE, 0, 0), (x - 4, bottom + ABOVE, 1, 0)],
    }  # fmt: skip
    order = {"right": ("right", "left", "below", "above"), "left": ("left", "right", "below", "above"),
             "above": ("above", "below", "right", "left")}[first]  # fmt: skip
    spots = [
        Spot(*place, 12.0 * rank + 2.0 * k) for rank, side in enumerate(order) for k, place in enumerate(sides[side])
    ]
    return (*spots, *_farther(spots))


def _farther(spots: Iterable[Spot]) -> Iterable[Spot]:
    """The same places moved away from the body, for when all that is near is taken."""
    near = list(spots)
    for reach in (1, 2, 3):
        for one in near:
            dx = (1 - 2 * one.across) * 14.0 * reach
            dy = (1 - 2 * one.down) * 10.0 * reach
            yield Spot(one.x + dx, one.y + dy, one.across, one.down, one.cost + 90.0 * reach)


def along(pieces: Iterable[tuple[Box, float]]) -> tuple[Spot, ...]:
    """Places beside the straight pieces of a wire, each with what it costs to stand there: above and below level ones, at the
    sides of upright ones."""
    found = []
    for (x0, y0, x1, y1), cost in pieces:
        for share, more in ((0.5, 0.0), (0.25, 4.0), (0.75, 4.0), (0.08, 8.0), (0.92, 8.0)):
            x, y = x0 + share * (x1 - x0), y0 + share * (y1 - y0)
            if y0 == y1:
                found += [Spot(x, y - 5, 0.5, 1, cost + more), Spot(x, y + 5, 0.5, 0, cost + more + 3)]
            else:
                found += [Spot(x + 5, y, 0, 0.5, cost + more + 1), Spot(x - 5, y, 1, 0.5, cost + more + 2)]
    return tuple(found)
