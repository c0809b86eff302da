"""Names at curves: each stands beside its own, on no curve, name, mark or edge; what finds no place is in the row above."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtGui import QFontMetricsF

from hearthline.app.theme.fonts import text_font
from hearthline.core.places import Box, Item, Spot, arranged

SIZE, CANDIDATES = 11, 28
MARGIN, PAD = 4.0, 3.0
AWAY = 30.0
"""What it costs to stand at the edge instead of in the middle [as in `core/places`]."""


def label_size(name: str) -> tuple[float, float]:
    """Width and height of a name [px]."""
    metrics = QFontMetricsF(text_font(SIZE, bold=True))
    return metrics.horizontalAdvance(name) + 2 * PAD, metrics.height() + 1


def label_places(
    curves: Sequence[tuple[str, np.ndarray, np.ndarray]], frame: Box, taken: Sequence[Box]
) -> list[tuple[float, float] | None]:
    """The left middle of each name beside its curve, or None. `curves` are (name, x, y) in pixels of the frame; `taken` boxes
    are marks."""
    items = [Item(k, (label_size(name),), _spots(x, y, frame)) for k, (name, x, y) in enumerate(curves)]
    able = [item for item in items if item.spots]
    wires = np.array([box for _, x, y in curves for box in _along(x, y)])
    found = arranged(able, np.array(taken), wires, None, frame)
    boxes = np.array([place.box for place in found.values()]).reshape(-1, 4)
    places: list[tuple[float, float] | None] = [None] * len(items)
    for row, (key, place) in enumerate(found.items()):
        left, top, _, bottom = place.box
        others = np.delete(boxes, row, axis=0)
        free = _free(place.box, others) and _free(place.box, np.array(taken)) and _free(place.box, wires)
        if free and _inside(place.box, frame):
            places[key] = (left + PAD, (top + bottom) / 2)
    return places


def _spots(x: np.ndarray, y: np.ndarray, frame: Box) -> tuple[Spot, ...]:
    """Points of a curve inside the frame, the middle ones first."""
    left, top, right, bottom = frame
    seen = np.isfinite(x) & np.isfinite(y) & (x >= left) & (x <= right) & (y >= top) & (y <= bottom)
    places = np.flatnonzero(seen)
    if not len(places):
        return ()
    chosen = places[np.unique(np.linspace(0, len(places) - 1, CANDIDATES).astype(int))]
    middle = (left + right) / 2
    return tuple(
        Spot(float(x[k]), float(y[k]), across, down, AWAY * abs(float(x[k]) - middle) / max(1.0, right - left) + more)
        for k in chosen
        for across, down, more in ((-0.08, 0.5, 0.0), (1.08, 0.5, 3.0), (0.5, 1.2, 2.0), (0.5, -0.2, 4.0))
    )


def _along(x: np.ndarray, y: np.ndarray) -> list[Box]:
    """Where a curve runs, as small boxes: a name rather stands where few do."""
    known = np.flatnonzero(np.isfinite(x) & np.isfinite(y))
    chosen = known[np.unique(np.linspace(0, len(known) - 1, 160).astype(int))] if len(known) else ()
    return [(float(x[k]) - 1, float(y[k]) - 1, float(x[k]) + 1, float(y[k]) + 1) for k in chosen]


def _free(box: Box, others: np.ndarray) -> bool:
    if not len(others):
        return True
    left, top, right, bottom = box
    return not (
        (others[:, 0] < right) & (left < others[:, 2]) & (others[:, 1] < bottom) & (top < others[:, 3])
    ).any()  # fmt: skip


def _inside(box: Box, frame: Box) -> bool:
    return box[0] >= frame[0] and box[1] >= frame[1] and box[2] <= frame[2] and box[3] <= frame[3]
