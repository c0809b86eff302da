"""As many points of a curve as a picture can show: of each stretch its least and its greatest, so that no peak is lost."""

from __future__ import annotations

import numpy as np


def thinned(
    x: np.ndarray, y: np.ndarray, maximum: int, begin: float = -np.inf, end: float = np.inf
) -> tuple[np.ndarray, np.ndarray]:
    """At most about `most` points of a curve over rising x (points,), those between `begin` and `end` and one beyond on either
    side. What is between gaps (NaN) stays apart."""
    first = max(0, int(np.searchsorted(x, begin)) - 1)
    last = min(len(x), int(np.searchsorted(x, end, side="right")) + 1)
    x, y = x[first:last], y[first:last]
    block = len(x) // (maximum // 2) if maximum > 1 else 0
    if block < 2:
        return x, y
    count = len(x) // block
    places = extremes(y[: count * block].reshape(count, block))
    places += np.arange(count)[:, None] * block
    kept = np.unique(np.concatenate([[0], places.ravel(), np.arange(count * block, len(x)), [len(x) - 1]]))
    return x[kept], y[kept]


def extremes(blocks: np.ndarray) -> np.ndarray:
    """Where the least and the greatest of each row are (rows, 2); of a row with a gap also the gap counts."""
    with np.errstate(invalid="ignore"):
        return np.stack([np.argmin(blocks, axis=1), np.argmax(blocks, axis=1)], axis=1)
