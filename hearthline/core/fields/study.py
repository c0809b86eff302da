"""A housing looked at: its resonances and their fields, and what another height, an absorber or posts would do to them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from hearthline.core.errors import QuantityError
from hearthline.core.fields.box import Housing, HousingError, Thing
from hearthline.core.fields.going import Going, always
from hearthline.core.fields.grid import Grid
from hearthline.core.fields.modes import Modes
from hearthline.core.fields.refining import refined
from hearthline.core.fields.slices import electric
from hearthline.core.quantity import read
from hearthline.core.registry import registry
from hearthline.core.workers import worker_count

ABSORBER_ER, ABSORBER_LOSS = 8.0, 1.0
"""Of an absorber that is tried: as a filled foam has it, from memory."""
POST = 4e-3
"""Width of a post that is tried [m]."""


@dataclass(frozen=True)
class Resonating:
    """A housing on its mesh, with what resonates in it; `left` is by what share frequencies are off, about, where the mesh was
    refined for that."""

    grid: Grid
    modes: Modes
    left: float | None = None

    @property
    def housing(self) -> Housing:
        """As it was."""
        return self.grid.housing

    @cached_property
    def _fields(self) -> dict[int, np.ndarray]:
        return {}

    def field(self, mode: int) -> np.ndarray:
        """The electric field of a resonance in each cell (3, cells, cells, cells), over the largest."""
        if mode not in self._fields:
            self._fields[mode] = electric(self.grid, self.modes.voltages[mode])
        return self._fields[mode]


def resonating(housing: Housing, going: Going = always) -> Resonating:
    """Solves it. Raises HousingError, also where it does not go on `going`."""
    found = refined(housing, going=going)
    return Resonating(found.grid, found.modes, found.left if np.isfinite(found.moved) else None)


@dataclass(frozen=True)
class Way:
    """Something that may help: its `name`, a `meaning`, values to begin with as they are typed, the `housing` with one, and
    which number `now` is that of the housing as it is, where values are numbers [m]."""

    name: str
    meaning: str
    usual: Callable[[Housing], str]
    housing: Callable[[Housing, str], Housing]
    now: Callable[[Housing], float] | None = None


def with_thing(housing: Housing, thing: Thing) -> Housing:
    """With one more thing, over all others."""
    return replace(housing, things=(*housing.things, thing))


def without(housing: Housing, index: int) -> Housing:
    """Without one of its things."""
    return replace(housing, things=(*housing.things[:index], *housing.things[index + 1 :]))


def moved(housing: Housing, index: int, by: tuple[float, float, float]) -> Housing:
    """With a thing elsewhere, as far as the walls allow."""
    thing = housing.things[index]
    way = [
        float(np.clip(step, -low, side - high))
        for step, low, high, side in zip(by, thing.low, thing.high, housing.size, strict=True)
    ]
    low, high = ([_plain(x + step) for x, step in zip(corner, way, strict=True)] for corner in (thing.low, thing.high))
    new = replace(thing, low=(low[0], low[1], low[2]), high=(high[0], high[1], high[2]))
    return replace(housing, things=(*housing.things[:index], new, *housing.things[index + 1 :]))


def _plain(x: float) -> float:
    """Without what rounding adds."""
    return float(f"{x:.9g}")


def with_absorber(housing: Housing, text: str) -> Housing:
    """With a layer of that thickness under the lid. Raises HousingError."""
    length, width, height = housing.size
    thick = _number(text)
    if not 0 < thick < height:
        raise HousingError(f"an absorber is thicker than nothing and thinner than the box, and not {text}")
    layer = Thing((0.0, 0.0, _plain(height - thick)), (length, width, height), ABSORBER_ER, ABSORBER_LOSS)
    return with_thing(housing, layer)


def with_height(housing: Housing, text: str) -> Housing:
    """With the lid elsewhere; what touched it does so still. Raises HousingError for a lid that meets something."""
    height, old = _number(text), housing.size[2]
    rest = [one.low[2] if one.high[2] >= old else one.high[2] for one in housing.things]
    rest += [max(one.begin[2], one.end[2]) for one in housing.ports]
    if height <= max(rest, default=0.0):
        raise HousingError(f"at a height of {text} the lid would meet what is inside")
    things = tuple(
        replace(one, high=(one.high[0], one.high[1], height)) if one.high[2] >= old else one for one in housing.things
    )
    return replace(housing, size=(housing.size[0], housing.size[1], height), things=things)


def with_posts(housing: Housing, text: str) -> Housing:
    """With posts of metal from floor to lid, where `text` says: pairs of x and y. Raises HousingError."""
    numbers = [_number(word) for word in text.replace(",", " ").split()]
    if len(numbers) < 2 or len(numbers) % 2:
        raise HousingError("posts are told by x and y of each, as in 60m 80m 120m 80m")
    for x, y in zip(numbers[::2], numbers[1::2], strict=True):
        half = 0.5 * POST
        if not (half <= x <= housing.size[0] - half and half <= y <= housing.size[1] - half):
            raise HousingError(f"a post at {x:g}, {y:g} m would not stand in the box")
        low, high = (_plain(x - half), _plain(y - half), 0.0), (_plain(x + half), _plain(y + half), housing.size[2])
        housing = with_thing(housing, Thing(low, high, metal=True))
    return housing


def _number(text: str) -> float:
    try:
        return read(text, "m")
    except QuantityError as error:
        raise HousingError(str(error)) from None


def _shares(*shares: float) -> Callable[[Housing], str]:
    return lambda housing: ", ".join(f"{1e3 * share * housing.size[2]:.3g}m" for share in shares)


def _places(housing: Housing) -> str:
    def place(x: float, y: float) -> str:
        return f"{1e3 * x * housing.size[0]:.3g}m {1e3 * y * housing.size[1]:.3g}m"

    return f"{place(0.33, 0.4)}, {place(0.67, 0.6)}, {place(0.33, 0.4)} {place(0.67, 0.6)}"


WAYS: Mapping[str, Way] = registry("way", [
    Way("absorber", "a lossy layer under the lid, by its thickness", _shares(0.06, 0.12, 0.2), with_absorber, lambda _: 0.0),
    Way("posts", "posts of metal from floor to lid, by x and y of each", _places, with_posts),
    Way("height", "another height of the box", _shares(0.8, 1.25, 1.5), with_height, lambda one: one.size[2]),
])  # fmt: skip
"""What may be tried. Another one is a line here."""


@dataclass(frozen=True)
class Tried:
    """Values of a way as they were typed, with what resonates then; an empty text is the housing as it is. `numbers` say where
    they lie on an axis: in metres, or one after the other where they are no numbers."""

    way: str
    values: tuple[str, ...]
    numbers: tuple[float, ...]
    found: tuple[Resonating, ...]


def tried(housing: Housing, way: str, texts: str, going: Going = always) -> Tried:
    """The housing as it is, then with each value, several at a time. Raises HousingError, also when `going` says no."""
    values = tuple(text.strip() for text in texts.split(",") if text.strip())
    made = [housing, *(WAYS[way].housing(housing, text) for text in values)]
    now = WAYS[way].now
    numbers = range(len(made)) if now is None else (now(housing), *map(_number, values))
    bare = [replace(one, ports=(), span=None) for one in made]
    with ThreadPoolExecutor(worker_count()) as pool:
        found = tuple(pool.map(lambda one: resonating(one, going), bare))
    return Tried(way, ("", *values), tuple(map(float, numbers)), found)
