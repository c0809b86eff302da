"""Whether work goes on: asked at every step of what takes long."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from hearthline.core.fields.box import HousingError

Going = Callable[[], bool]


def always() -> bool:
    """Nobody stops it."""
    return True


def heed(going: Going) -> None:
    """Raises HousingError where the work was stopped."""
    if not going():
        raise HousingError("stopped")


def going_on(field: np.ndarray, going: Going) -> np.ndarray:
    """A field as it is. Raises HousingError where the work was stopped."""
    heed(going)
    return field
