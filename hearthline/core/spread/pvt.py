"""Process, voltage, temperature: the conditions that a cell must hold over, and the lanes that they are computed in."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field

import numpy as np

from hearthline.core.engine.lanes import Lanes


@dataclass(frozen=True)
class Condition:
    """One point: corner, temperature [degC], parameters (supplies among them), and what the circuit stands in, where a bench
    tells several surroundings apart."""

    corner: str
    celsius: float
    parameters: Mapping[str, float] = field(default_factory=dict)
    around: str = ""


def key_of(condition: Condition) -> tuple:
    """What makes two conditions the same."""
    return condition.corner, condition.celsius, tuple(sorted(condition.parameters.items())), condition.around


def lane_of(condition: Condition) -> Lanes:
    """A single lane."""
    return lanes_of([condition])


def lanes_of(conditions: Iterable[Condition]) -> Lanes:
    """A lane for each; all have the same parameters."""
    conditions = tuple(conditions)
    names = list(dict.fromkeys(name for one in conditions for name in one.parameters))
    parameters = {name: np.array([one.parameters[name] for one in conditions], float) for name in names}
    celsius = np.array([one.celsius for one in conditions], float)
    around = tuple(one.around for one in conditions)
    return Lanes(tuple(one.corner for one in conditions), celsius, parameters, around=around if any(around) else ())
