"""What lowering found before, for circuits that are solved again and again with little changed, as under a typing hand."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from hearthline.core.circuit.netlist import Element
from hearthline.core.engine.lanes import Lanes
from hearthline.core.process.models import ModelSet

MOST = 20_000
"""Elements that are kept; beyond, everything is forgotten."""


@dataclass
class Recall:
    """Device instances of elements whose values are plain numbers, and conducting terminals by model; both hold for one set
    of models and one set of lanes, and are forgotten with them."""

    models: ModelSet | None = None
    lanes: tuple | None = None
    items: dict[tuple, tuple] = field(default_factory=dict)
    paths: dict[tuple, tuple] = field(default_factory=dict)

    def begin(self, models: ModelSet, lanes: Lanes) -> None:
        """Forgets what does not hold for these."""
        key = _key_of_lanes(lanes)
        if self.models is not models or self.lanes != key or len(self.items) > MOST:
            self.models, self.lanes = models, key
            self.items.clear()
            self.paths.clear()


def key_of(element: Element) -> tuple | None:
    """All that an element's item follows from; None where that is not plain numbers alone."""
    if element.module is not None or element.control or element.wave is not None or element.initial is not None:
        return None
    values = []
    for name, expression in element.values.items():
        if expression is None:
            continue
        if not isinstance(expression.tree, float):
            return None
        values.append((name, expression.tree))
    return element.name, element.kind, element.model, element.nets, tuple(values), id(element.device)


def _key_of_lanes(lanes: Lanes) -> tuple | None:
    """The lanes as something that can be compared; None, which is like nothing, where they deviate one by one."""
    if lanes.mismatch or lanes.process or lanes.shares or lanes.hot:
        return None
    tables = (sorted(table.items()) for table in (lanes.parameters, lanes.sources))
    numbers = tuple((name, np.asarray(values).tobytes()) for table in tables for name, values in table)
    return lanes.corners, np.asarray(lanes.celsius).tobytes(), numbers
