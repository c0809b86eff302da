"""A housing: a rectangular box of metal, what lies in it, and its ports."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.constants import LIGHT
from hearthline.core.errors import HearthlineError

SMALL_LOSS = 0.02
"""Loss tangent up to which resonances are those without loss."""

Triple = tuple[float, float, float]


class HousingError(HearthlineError):
    """A housing that cannot be: which `section` of its description, which entry of it, and which `key`."""

    def __init__(self, message: str, section: str = "", index: int = 0, key: str = ""):
        super().__init__(message)
        self.section, self.index, self.key = section, index, key


@dataclass(frozen=True)
class Thing:
    """A box in the box, from its lowest to its highest corner [m], of a material, or of metal."""

    low: Triple
    high: Triple
    er: float = 1.0
    tan_delta: float = 0.0
    mur: float = 1.0
    mu_tan_delta: float = 0.0
    metal: bool = False


@dataclass(frozen=True)
class LinePort:
    """From metal to metal along an axis [m], with its reference impedance [Ω]. Its plane lies `plane` [m] further on, along a
    line of that impedance and an effective permittivity: what that line adds is taken away."""

    number: int
    begin: Triple
    end: Triple
    impedance: float = 50.0
    plane: float = 0.0
    plane_er: float = 1.0

    @property
    def axis(self) -> int:
        """The axis that it goes along."""
        return int(np.argmax(np.abs(np.array(self.end) - np.array(self.begin))))


@dataclass(frozen=True)
class Span:
    """Frequencies of a sweep [Hz]."""

    low: float
    high: float
    points: int

    @property
    def frequencies(self) -> np.ndarray:
        """All of them."""
        return np.linspace(self.low, self.high, self.points)


@dataclass(frozen=True)
class Housing:
    """Inside measures [m], conductivity of walls and metal things [S/m] (None: no loss), how many modes are wanted, the largest
    cell [m] (None: as is usual), and what is inside; later things lie over earlier ones. With an `accuracy` the mesh is refined
    until frequencies of resonances are known to that share."""

    size: Triple
    wall_conductivity: float | None = None
    modes: int = 10
    mesh: float | None = None
    things: tuple[Thing, ...] = ()
    ports: tuple[LinePort, ...] = ()
    span: Span | None = None
    accuracy: float | None = None

    @property
    def strongly_lossy(self) -> bool:
        """Whether losses of what is inside are more than a small correction."""
        return any(max(one.tan_delta, one.mu_tan_delta) > SMALL_LOSS for one in self.things if not one.metal)

    def bare_frequencies(self, count: int) -> np.ndarray:
        """The lowest resonances of the box without anything in it [Hz], in closed form."""
        reach = range(count + 2)
        found = [
            0.5 * LIGHT * float(np.sqrt(sum((k / side) ** 2 for k, side in zip(one, self.size, strict=True))))
            for one in ((m, n, p) for m in reach for n in reach for p in reach)
            for _ in range(2 if all(one) else int(sum(k > 0 for k in one) == 2))
        ]
        return np.sort(np.array(found))[:count]
