"""The die as a box, and the fingers on it that turn power into heat."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.errors import HearthlineError

REFERENCE = 300.0
"""[K] At which a conductivity is given."""


class PlanError(HearthlineError):
    """A plan of the die that cannot be: says which part, or the die's own `key`, and which of its values."""

    def __init__(self, message: str, part: str = "", key: str = "", via: int = -1):
        super().__init__(f"{part}: {message}" if part else message)
        self.part, self.key, self.via = part, key, via


@dataclass(frozen=True)
class Die:
    """Length, width and thickness [m]; conductivity [W/(m K)] at 300 K and the exponent of T/300 K that it goes with;
    resistance [K/W] from its back, which is of one temperature, to where the condition's temperature is; heat that it holds
    [J/(m³ K)], 0 where that is not told. `layers` lie below it, as wide as it is, from it downwards: thickness [m],
    conductivity [W/(m K)] at 300 K of each, which go with the temperature as the die's own does, and heat that it holds; the
    last one's back is of one temperature then."""

    length: float
    width: float
    thickness: float
    conductivity: float
    exponent: float = 0.0
    resistance: float = 0.0
    capacity: float = 0.0
    layers: tuple[tuple[float, float, float], ...] = ()


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
class Via:
    """A column of something else from the die's top to its back, beside what heats it: its middle and size [m], and its
    conductivity [W/(m K)] at 300 K, which goes with the temperature as the die's own does."""

    middle: tuple[float, float]
    size: tuple[float, float]
    conductivity: float

    @property
    def box(self) -> tuple[float, float, float, float]:
        """Middle and size [m]."""
        return (*self.middle, *self.size)


@dataclass(frozen=True)
class Plan:
    """A die with all that heats it, and vias that cool it."""

    die: Die
    sources: tuple[HeatSource, ...]
    vias: tuple[Via, ...] = ()

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

    @property
    def columns(self) -> np.ndarray:
        """All vias (vias, 4) [m]."""
        return np.array([one.box for one in self.vias]).reshape(-1, 4)

    def check(self) -> None:
        """Raises PlanError for fingers or vias outside of the die, and for one finger or via over another of its kind."""
        self._check_fingers()
        self._check_vias()

    def _check_vias(self) -> None:
        die, low, high = self.die, *_corners(self.columns)
        slack = 1e-9 * max(die.length, die.width)
        for k in range(len(self.vias)):
            if (low[k] < -slack).any() or (high[k] > np.array([die.length, die.width]) + slack).any():
                raise PlanError(f"via {k + 1} lies outside of the die", "", "vias", k)
            over = ((low[k] < high[:k] - slack) & (low[:k] < high[k] - slack)).all(axis=1)
            if over.any():
                raise PlanError(f"vias {int(np.argmax(over)) + 1} and {k + 1} overlap", "", "vias", k)
            begin, end = _corners(self.boxes)
            on_it = ((low[k] < end - slack) & (begin < high[k] - slack)).all(axis=1)
            if on_it.any():
                part = self.parts[self.owners[int(np.argmax(on_it))]]
                raise PlanError(f"via {k + 1} goes through a finger of {part}; it is to stand beside it", "", "vias", k)

    def _check_fingers(self) -> None:
        die, boxes, owners = self.die, self.boxes, self.owners
        low, high = _corners(boxes)
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


def _corners(boxes: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Lowest and highest, of middles and sizes."""
    return boxes[:, :2] - 0.5 * boxes[:, 2:], boxes[:, :2] + 0.5 * boxes[:, 2:]
