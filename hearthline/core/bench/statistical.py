"""Statistical corners: points of the statistics that a bench keeps by name, and that a condition may add to its corner, as in
`typ+offset_high_3s`."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.errors import BenchError, CircuitError, HearthlineError
from hearthline.core.process.models import Corner, ModelSet
from hearthline.core.quantity import read
from hearthline.core.spread.draws import Draws, Space

if TYPE_CHECKING:
    from hearthline.core.engine.lanes import Lanes
    from hearthline.core.spread.variables import Variable

GROUP = SECTION = "statistical"
FARTHEST = 20.0
"""Standard deviations that a variable may be away."""
SMALL = 5e-4
"""Standard deviations under which a variable is where it was."""


@dataclass(frozen=True)
class StatisticalCorner:
    """Where the variables are, in standard deviations by name, as typed; found as the likeliest point at `sigma` at which a
    reading is worst towards one end."""

    name: str
    at: Mapping[str, str] = field(default_factory=dict)
    reading: str = ""
    end: str = ""
    sigma: str = ""

    def numbers(self) -> dict[str, float]:
        """By variable. Raises CircuitError for a text that is no number, or is far out."""
        return {name: self._number(name, text) for name, text in self.at.items()}

    def _number(self, name: str, text: str) -> float:
        try:
            value = read(text, "")
        except HearthlineError as error:
            raise CircuitError(f"statistical corner {self.name}: {name}: {error}") from None
        if not abs(value) <= FARTHEST:
            message = f"{name} is {text} standard deviations away, and {FARTHEST:g} are the most"
            raise CircuitError(f"statistical corner {self.name}: {message}")
        return value


def corner_of(
    reading: str, end: str, sigma: float, variables: Sequence[Variable], normal: np.ndarray
) -> StatisticalCorner:
    """A point (variables,) of numbers that go together already, under a name of its own."""
    word = "".join(letter if letter.isalnum() else "_" for letter in reading.lower()).strip("_")
    at = {one.name: f"{z:.4g}" for one, z in zip(variables, normal, strict=True) if abs(z) > SMALL}
    return StatisticalCorner(f"{word}_{end}_{sigma:g}s".replace(".", "p"), at, reading, end, f"{sigma:g}")


def name_problem(name: str, others: Sequence[str] = ()) -> str:
    """Why a statistical corner cannot be called so, or nothing: it is a word behind a `+`."""
    if not name.replace("_", "").isalnum():
        return f"'{name}' is no name for a statistical corner: letters, digits and _"
    return f"there are two statistical corners '{name}'" if name in others else ""


def with_corners(models: ModelSet, corners: Sequence[StatisticalCorner]) -> ModelSet:
    """The models, which know these names as variants of every corner that exchange nothing. Raises CircuitError for a name
    that the process has."""
    if not corners:
        return models
    taken = {*models.corners, *(name for group in models.variants.values() for name in group)}
    for one in corners:
        if one.name in taken:
            raise CircuitError(f"the process has a corner '{one.name}' already; call the statistical one otherwise")
    return replace(models, variants={**models.variants, GROUP: {one.name: Corner({}) for one in corners}})


def plain(corner: str, corners: Sequence[StatisticalCorner]) -> str:
    """A corner without the statistical ones that were added to it."""
    names = {one.name for one in corners}
    return "+".join(word for k, word in enumerate(corner.split("+")) if not k or word not in names)


def deviating(lanes: Lanes, corners: Sequence[StatisticalCorner], space: Callable[[], Space]) -> Lanes:
    """Lanes with what the statistical corners in the names of their corners deviate by; `space` is asked for only where there
    is one. Raises BenchError for a variable that the circuit does not have any more."""
    known = {one.name: one for one in corners}
    used = {word for corner in set(lanes.corners) for word in corner.split("+")[1:] if word in known}
    if not used:
        return lanes
    found = space()
    normal = np.zeros((len(lanes), len(found.variables)))
    for k, corner in enumerate(lanes.corners):
        for word in corner.split("+")[1:]:
            if word in known:
                normal[k] += _numbers(known[word], found, list(known).index(word))
    return _moved(lanes, found.draws(normal))


def _numbers(corner: StatisticalCorner, space: Space, index: int) -> np.ndarray:
    places = {one.name: k for k, one in enumerate(space.variables)}
    found = np.zeros(len(places))
    for name, value in corner.numbers().items():
        if name not in places:
            raise BenchError(
                f"statistical corner {corner.name} moves '{name}', which does not vary in this circuit; find the corner "
                "anew, or take it away", SECTION, "at", index,
            )  # fmt: skip
        found[places[name]] = value
    return found


def _moved(lanes: Lanes, draws: Draws) -> Lanes:
    """A sample for each lane."""
    return replace(lanes, process=draws.process, mismatch=draws.mismatch, shares=draws.shares)
