"""What quantities of a device sheet are called and where they are found; needs no engine, so that the window starts fast."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.data.dataset import Dataset
from hearthline.core.errors import HearthlineError

if TYPE_CHECKING:
    from hearthline.core.device.subject import Subject


def axis_of(dataset: Dataset, name: str) -> tuple[np.ndarray, str]:
    """A quantity (lanes, points) to draw along or against: any curve, or what was swept. Raises HearthlineError."""
    if name in dataset.curves:
        return dataset.curves[name], dataset.units.get(name, "")
    if name == dataset.axis:
        return np.broadcast_to(dataset.points, dataset.outcomes.shape), dataset.axis_unit
    known = ", ".join([dataset.axis, *dataset.curves])
    raise HearthlineError(f"there is no quantity '{name}' in this sheet; it has {known}")


def source_name(subject: Subject, source: str) -> str:
    """What a source is called beside curves: `vds` for the drain's voltage of a transistor whose source is on ground."""
    if source[1:] not in subject.terminals or len(subject.terminals) < 3 or source.startswith("i"):
        return "v" if len(subject.terminals) == 2 and source.startswith("v") else source
    return source + subject.reference
