"""The temperature of the die's surface as a picture."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from hearthline.core.constants import ZERO_CELSIUS
from hearthline.core.thermal.die import Plan
from hearthline.core.thermal.kirchhoff import warmed
from hearthline.core.thermal.series import surface
from hearthline.core.thermal.vias import columns_of

ACROSS = 160
"""Points along the longer side."""
PLAINLY = 8.0
"""Terms of the series for each time that the smallest finger fits in: a picture shows no more."""
USEFUL_STEPS = (1.0, 2.0, 5.0)


@dataclass(frozen=True)
class Picture:
    """Temperatures [°C] at (x, y) [m] of a grid (xs, ys), and in the middle of each finger (fingers,), by powers of the parts
    [W] in surroundings [°C]."""

    plan: Plan
    x: np.ndarray
    y: np.ndarray
    celsius: np.ndarray
    peaks: np.ndarray
    powers: np.ndarray
    surroundings: float

    def moved(self, source: int, middle: tuple[float, float]) -> Picture:
        """The same powers with the row of a part elsewhere. Raises PlanError for a place where it cannot be."""
        sources = list(self.plan.sources)
        sources[source] = replace(sources[source], middle=middle)
        plan = replace(self.plan, sources=tuple(sources))
        plan.check()
        return picture(plan, self.powers, self.surroundings)

    def at(self, x: float, y: float) -> float:
        """Between the points of the grid [°C]."""
        i, j = (np.interp(place, axis, np.arange(len(axis))) for place, axis in ((x, self.x), (y, self.y)))
        a, b = min(int(i), len(self.x) - 2), min(int(j), len(self.y) - 2)
        u, v = i - a, j - b
        corners = self.celsius[a : a + 2, b : b + 2]
        return float(np.array([1.0 - u, u]) @ corners @ np.array([1.0 - v, v]))

    @property
    def levels(self) -> np.ndarray:
        """Round temperatures for some six isotherms."""
        low, high = float(self.celsius.min()), float(self.celsius.max())
        if high - low < 1e-6:
            return np.zeros(0)
        rough = (high - low) / 6.0
        decade = 10.0 ** np.floor(np.log10(rough))
        step = next((one * decade for one in USEFUL_STEPS if one * decade >= rough), 10.0 * decade)
        return np.arange(np.ceil(low / step), np.floor(high / step) + 1) * step


def picture(plan: Plan, powers: np.ndarray, celsius: float) -> Picture:
    """Of powers [W] of the parts (parts,) about a temperature of the surroundings [°C]."""
    die, boxes = plan.die, plan.boxes
    each = (powers / np.array([one.fingers for one in plan.sources]))[plan.owners]
    longest = max(die.length, die.width)
    x, y = (np.linspace(0.0, side, max(2, round(ACROSS * side / longest))) for side in (die.length, die.width))
    back = celsius + ZERO_CELSIUS + die.resistance * float(powers.sum())
    found = surface(die, boxes, each, PLAINLY)
    if plan.vias:
        found = replace(
            found, spectrum=found.spectrum + columns_of(die, plan.vias).spectrum(boxes, each, found.spectrum.shape)
        )
    celsius_of = warmed(die, np.array(back), found.grid(x, y)) - ZERO_CELSIUS
    tops = warmed(die, np.array(back), found.at(boxes[:, 0], boxes[:, 1])) - ZERO_CELSIUS
    return Picture(plan, x, y, celsius_of, tops, powers, celsius)
