"""Heat and circuit together: temperatures of parts at which the power that they turn into heat keeps them there.

From cold up, each step takes the temperatures that the last powers make; the last few steps are combined so that least is
left (Anderson, Journal of the ACM 1965). Where temperatures run away, the heat is scaled down until they stand, so that it can
be said how far they did.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache

import numpy as np

from hearthline.core.constants import ZERO_CELSIUS, kelvin
from hearthline.core.engine.lanes import Lanes
from hearthline.core.errors import ConvergenceError
from hearthline.core.quantity import write
from hearthline.core.thermal.die import Plan
from hearthline.core.thermal.impedance import Following, following
from hearthline.core.thermal.kirchhoff import warmed
from hearthline.core.thermal.series import peaks, resistances
from hearthline.core.thermal.vias import columns_of

MOST_STEPS, DEPTH = 60, 4
CLOSE, CLOSE_SHARE = 1e-4, 1e-6
"""[K], and share of the rise, that a temperature may move by in the end."""
HOTTEST = 1500.0
"""[K] Above which nothing stands."""
HALVINGS = 7

Powers = Callable[[Lanes], np.ndarray]
"""What each part turns into heat (lanes, parts) [W] in lanes with its temperatures; NaN where a lane has no solution."""


@dataclass(frozen=True)
class Heated:
    """Temperatures of parts (lanes, parts) and of fingers, mean and peak (lanes, fingers) [°C]; powers of parts [W]; why lanes
    have none."""

    plan: Plan
    lanes: Lanes
    celsius: np.ndarray
    fingers: np.ndarray
    peaks: np.ndarray
    powers: np.ndarray
    failures: dict[int, ConvergenceError]


class Die:
    """The plan with its thermal resistances, worked out once."""

    def __init__(self, plan: Plan):
        self.plan, boxes = plan, plan.boxes
        self.owners = plan.owners
        share = (self.owners[:, None] == np.arange(len(plan.sources))) / np.bincount(self.owners)
        means, tops = resistances(plan.die, boxes), peaks(plan.die, boxes)
        if plan.vias:
            columns = columns_of(plan.die, plan.vias)
            means -= columns.away(boxes, boxes)
            tops -= columns.away(boxes * [1.0, 1.0, 0.0, 0.0], boxes)
        self.means, self.tops = means @ share, tops @ share
        self._mean = share.T
        self.between = self._mean @ self.means
        """Mean rise of each part by power in every other, times the conductivity (parts, parts) [1/m]."""

    @cached_property
    def following(self) -> Following:
        """How heat follows in time."""
        return following(self.plan, self.between)

    def moving(
        self, ambient: np.ndarray, powers: np.ndarray, states: np.ndarray, backs: np.ndarray
    ) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """The same while it follows: with what is behind of each part at each time constant (lanes, times, parts) [W/m], and
        what has come through to the back with each of its own (lanes, backs) [W]."""
        die, weights = self.plan.die, self.following.through.weights
        back = ambient + die.resistance * (backs @ weights + (1.0 - weights.sum()) * powers.sum(axis=1))
        held = self.following.matrices.sum(axis=0)[self.owners]
        slow = states.sum(axis=1)[:, self.owners]
        fingers = warmed(die, back[:, None], powers @ (self.means - held).T + slow)
        tops = warmed(die, back[:, None], powers @ (self.tops - held).T + slow)
        return fingers @ self._mean.T, fingers, tops

    def temperatures(self, ambient: np.ndarray, powers: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """[K] Of parts, of fingers and their peaks (lanes, ...), about ambient temperatures (lanes,) [K]."""
        die = self.plan.die
        back = ambient + die.resistance * powers.sum(axis=1)
        fingers = warmed(die, back[:, None], powers @ self.means.T)
        return fingers @ self._mean.T, fingers, warmed(die, back[:, None], powers @ self.tops.T)


@lru_cache(maxsize=8)
def die_of(plan: Plan) -> Die:
    """The same one for the same plan, whatever is typed beside it."""
    return Die(plan)


def heated(die: Die, lanes: Lanes, powers: Powers) -> Heated:
    """The temperatures of all lanes."""
    ambient = kelvin(lanes.celsius)
    ones = np.ones(len(lanes))
    found, given, lost = _settled(die, lanes, powers, ambient, ones)
    failures: dict[int, ConvergenceError] = {}
    unsolved = lost & (found == ambient[:, None]).all(axis=1) & ~np.isfinite(given).all(axis=1)
    given[unsolved] = 0.0  # cold already they have no solution, which is told by whoever wants one
    lost &= ~unsolved
    if lost.any():
        failures = _run_away(die, lanes, powers, ambient, lost)
        found[lost] = ambient[lost, None]  # they are told as failed, and solved cold meanwhile
    _, fingers, tops = die.temperatures(ambient, given)
    away = np.where(lost[:, None], np.nan, 0.0)
    return Heated(
        die.plan, hot_lanes(die.plan, lanes, found), found - ZERO_CELSIUS + away, fingers - ZERO_CELSIUS + away,
        tops - ZERO_CELSIUS + away, given + away, failures,
    )  # fmt: skip


def heated_by(die: Die, lanes: Lanes, celsius: np.ndarray, powers: np.ndarray) -> Heated:
    """Where temperatures of parts [°C] and their powers [W] are known (lanes, parts)."""
    _, fingers, tops = die.temperatures(kelvin(lanes.celsius), powers)
    hot = hot_lanes(die.plan, lanes, celsius + ZERO_CELSIUS)
    return Heated(die.plan, hot, celsius, fingers - ZERO_CELSIUS, tops - ZERO_CELSIUS, powers, {})


def heated_along(
    die: Die, ambient: np.ndarray, powers: np.ndarray, states: np.ndarray, backs: np.ndarray
) -> Heated:  # fmt: skip
    """While it follows, at ambient temperatures (rows,) [K]: powers (rows, parts) [W], states (rows, times, parts) [W/m], and
    those of the back (rows, backs) [W]."""
    parts, fingers, tops = die.moving(ambient, powers, states, backs)
    cold = ZERO_CELSIUS
    return Heated(die.plan, Lanes(), parts - cold, fingers - cold, tops - cold, powers, {})


def put_into(some: Heated, other: Heated, places: np.ndarray) -> Heated:
    """With those of `other` in these lanes."""

    def both(mine: np.ndarray, others: np.ndarray) -> np.ndarray:
        made = mine.copy()
        made[places] = others
        return made

    hot = {part: both(values, other.lanes.hot[part]) for part, values in some.lanes.hot.items()}
    return Heated(
        some.plan, replace(some.lanes, hot=hot), both(some.celsius, other.celsius), both(some.fingers, other.fingers),
        both(some.peaks, other.peaks), both(some.powers, other.powers),
        {int(places[lane]): why for lane, why in other.failures.items()},
    )  # fmt: skip


def hot_lanes(plan: Plan, lanes: Lanes, temperatures: np.ndarray) -> Lanes:
    """Lanes in which parts have temperatures (lanes, parts) [K] of their own."""
    return replace(lanes, hot={part: temperatures[:, k] - ZERO_CELSIUS for k, part in enumerate(plan.parts)})


def _settled(
    die: Die, lanes: Lanes, powers: Powers, ambient: np.ndarray, share: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Temperatures [K] with shares of all heat (lanes,), powers there, and which lanes found none."""
    x = np.repeat(ambient[:, None], len(die.plan.sources), axis=1)
    lost, done = np.zeros(len(lanes), bool), np.zeros(len(lanes), bool)
    given = np.zeros_like(x)
    past: list[tuple[np.ndarray, np.ndarray]] = []
    for _ in range(MOST_STEPS):
        now = powers(hot_lanes(die.plan, lanes, x))
        given = np.where((done | lost)[:, None], given, now)
        wanted = die.temperatures(ambient, share[:, None] * given)[0]
        lost |= ~done & ~(np.isfinite(wanted).all(axis=1) & (wanted < HOTTEST).all(axis=1))
        rest = np.where(lost[:, None], 0.0, wanted - x)
        done |= ~lost & (np.abs(rest) <= CLOSE + CLOSE_SHARE * np.abs(x - ambient[:, None])).all(axis=1)
        if (done | lost).all():
            break
        past = [*past[-DEPTH:], (x, rest)]
        x = np.where((done | lost)[:, None], x, _ahead(past, ambient))
    return x, given, lost | ~done


def _ahead(past: list[tuple[np.ndarray, np.ndarray]], ambient: np.ndarray) -> np.ndarray:
    """Where the next step leads, of all lanes; no colder than ambient."""
    x, rest = past[-1]
    found = x + rest
    if len(past) > 1:
        for lane in range(len(x)):
            moves = np.stack([x[lane] - one[lane] for one, _ in past[:-1]], axis=1)
            falls = np.stack([rest[lane] - one[lane] for _, one in past[:-1]], axis=1)
            weights = np.linalg.lstsq(falls, rest[lane], rcond=1e-8)[0]
            tried = x[lane] + rest[lane] - (moves + falls) @ weights
            far = np.abs(tried - x[lane]).max() > 3.0 * np.abs(rest[lane]).max() + 50.0
            found[lane] = found[lane] if far or not np.isfinite(tried).all() else tried
    return np.maximum(found, 0.5 * ambient[:, None])


def _run_away(
    die: Die, lanes: Lanes, powers: Powers, ambient: np.ndarray, lost: np.ndarray
) -> dict[int, ConvergenceError]:  # fmt: skip
    """With how much of the heat temperatures still stand, and how much of a rise comes back there."""
    low, high = np.zeros(len(lanes)), np.ones(len(lanes))
    kept = np.repeat(ambient[:, None], len(die.plan.sources), axis=1)
    given = np.zeros_like(kept)
    for _ in range(HALVINGS):
        middle = np.where(lost, 0.5 * (low + high), 0.0)
        x, now, away = _settled(die, lanes, powers, ambient, middle)
        stands = ~away
        low, high = np.where(stands, middle, low), np.where(stands, high, middle)
        kept, given = np.where(stands[:, None], x, kept), np.where(stands[:, None], now, given)
    step = np.maximum(1e-3 * (kept - ambient[:, None]), 1e-3)
    beyond = die.temperatures(ambient, low[:, None] * powers(hot_lanes(die.plan, lanes, kept + step)))[0]
    gain = ((beyond - kept) / step).max(axis=1)
    found = {}
    for lane in np.flatnonzero(lost):
        hottest = int(np.argmax(kept[lane] - ambient[lane]))
        part = die.plan.parts[hottest]
        found[int(lane)] = ConvergenceError(
            f"{part} runs away with its heat: no temperature stands. With {100 * low[lane]:.3g} % of it {part} still stands at "
            f"{kept[lane, hottest] - ZERO_CELSIUS:.4g} °C with {write(given[lane, hottest], 'W', 4)}, where "
            f"{100 * gain[lane]:.3g} % of a rise come back; spread its fingers, thin the die, or take less power",
            (), (part,),
        )  # fmt: skip
    return found
