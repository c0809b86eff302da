"""The die as a box, and the fingers on it that turn power into heat."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.errors import HearthlineError

REFERENCE = 300.0
"""[K] At which a conductivity is given."""


class PlanError(HearthlineError):
    """A plan of the die that cannot be: says which part, or the die's own `key`, and which of its values."""

    def __init__(self, message: str, part: str = "", key: str = ""):
        super().__init__(f"{part}: {message}" if part else message)
        self.part, self.key = part, key


@dataclass(frozen=True)
class Die:
    """Length, width and thickness [m]; conductivity [W/(m K)] at 300 K and the exponent of T/300 K that it goes with;
    resistance [K/W] from its back, which is of one temperature, to where the condition's temperature is; heat that it holds
    [J/(m³ K)], 0 where that is not told. `layers` lie below it, as wide as it is, from it downwards: thickness [m] and
    conductivity [W/(m K)] at 300 K of each, which go with the temperature as the die's own does; the last one's back is of one
    temperature then."""

    length: float
    width: float
    thickness: float
    conductivity: float
    exponent: float = 0.0
    resistance: float = 0.0
    capacity: float = 0.0
    layers: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class HeatSource:
    """A part with its row of fingers: the middle of the row and the size of one finger along both axes [m], their number, and
    the pitch along the first axis [m]; a row that is turned has both axes exchanged."""

    part: str
    middle: tuple[float, float]
    size: tuple[float, float]
    fingers: int = 1
    pitch: float = 0.0
    turned: bool = False

    @property
    def boxes(self) -> np.ndarray:
        """Middles and sizes of its fingers (fingers, 4) [m]."""
        offsets = self.pitch * (np.arange(self.fingers) - 0.5 * (self.fingers - 1))
        x, y = self.middle
        if self.turned:
            return np.array([(x, y + one, *self.size[::-1]) for one in offsets])
        return np.array([(x + one, y, *self.size) for one in offsets])


@dataclass(frozen=True)
class Plan:
    """A die with all that heats it."""

    die: Die
    sources: tuple[HeatSource, ...]

    @property
    def parts(self) -> tuple[str, ...]:
        """Their names."""
        return tuple(one.part for one in self.sources)

    @property
    def boxes(self) -> np.ndarray:
        """All fingers, part by part (fingers, 4) [m]."""
        return np.concatenate([one.boxes for one in self.sources])

    @property
    def owners(self) -> np.ndarray:
        """The place of each finger's part among the sources (fingers,)."""
        return np.repeat(np.arange(len(self.sources)), [one.fingers for one in self.sources])

    def check(self) -> None:
        """Raises PlanError for fingers outside of the die, or one over another."""
        die, boxes, owners = self.die, self.boxes, self.owners
        low, high = boxes[:, :2] - 0.5 * boxes[:, 2:], boxes[:, :2] + 0.5 * boxes[:, 2:]
        slack = 1e-9 * max(die.length, die.width)
        outside = ((low < -slack) | (high > np.array([die.length, die.width]) + slack)).any(axis=1)
        if outside.any():
            k = int(np.flatnonzero(outside)[0])
            number = 1 + int((owners[:k] == owners[k]).sum())
            size = f"{1e6 * die.length:g} um by {1e6 * die.width:g} um"
            raise PlanError(
                f"its finger {number} lies outside of the die, which is {size}", self.parts[owners[k]], "at"
            )
        over = ((low[:, None] < high[None] - slack) & (low[None] < high[:, None] - slack)).all(axis=2)
        over &= ~np.eye(len(boxes), dtype=bool)
        if over.any():
            a, b = (int(one) for one in np.argwhere(over)[0])
            if owners[a] == owners[b]:
                message = (
                    "its fingers lie over each other; the pitch is to be more than their size along the first axis"
                )
                raise PlanError(message, self.parts[owners[a]], "pitch")
            raise PlanError(f"a finger lies over one of {self.parts[owners[b]]}", self.parts[owners[a]], "at")
