"""What another value, tolerance or size of a part would do to the yield, foretold from samples that are there; and the smallest
changes that reach a wanted yield.

Samples are weighed by how much likelier they are under the change (importance sampling); what those weights are worth is the
effective number of samples (L. Kish, Survey Sampling, 1965). Where that is too few the readings' quadratic surfaces say it.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import combinations, product

import numpy as np

from hearthline.core.spread.samples import SampleSet
from hearthline.core.spread.surface import Surface, deviations, surface_of
from hearthline.core.spread.variables import TOLERANCE, Variable
from hearthline.core.spread.yields import CONFIDENCE, yield_of
from hearthline.core.tolerance import Tolerance

WEIGHTS, SURFACE, COUNTED = "weights", "surface", "counted"
FEWEST = 200
"""Effective samples, under which the surfaces are asked."""
LOST = 0.002
"""Share of the changed law that may lie where there are no samples."""
Limits = tuple[float, float]


@dataclass(frozen=True)
class Change:
    """Of one variable: its nominal value by a factor `nominal`, what it spreads by a factor `spread`."""

    variable: str
    nominal: float = 1.0
    spread: float = 1.0

    @property
    def size(self) -> float:
        """How large a change it is: in logarithms, so that half and double are equal."""
        return abs(math.log(self.nominal)) * 10.0 + abs(math.log(self.spread))


@dataclass(frozen=True)
class Prediction:
    """A yield that is foretold, with its interval; by which `method`, from how many `effective` samples; of surfaces the share
    of the readings' variance that they explain, the least of all."""

    share: float
    low: float
    high: float
    method: str
    effective: float
    explained: float = 1.0


def changed(variable: Variable, change: Change) -> Variable:
    """The variable as it would be."""
    law = variable.tolerance
    if law is not None:
        within = law.within * change.spread if math.isfinite(law.within) else law.within
        law = Tolerance(min(within, 0.999) if math.isfinite(within) else within, law.sigma * change.spread)
    return replace(
        variable, nominal=variable.nominal * change.nominal, sigma=variable.sigma * change.spread, tolerance=law
    )


class Foreteller:
    """Yields under changes, from samples and limits. What takes time is done once."""

    def __init__(self, samples: SampleSet, limits: Mapping[str, Limits]):
        self.samples, self.limits = samples, dict(limits)
        self.passing = np.ones(samples.count, bool)
        for name, (low, high) in self.limits.items():
            table = samples.values[name]
            self.passing &= np.all((table >= low) & (table <= high), axis=1)
        self.passing[list(samples.failures)] = False

    @cached_property
    def surfaces(self) -> dict[str, Surface | None]:
        """Of each reading that has a limit."""
        x = deviations(self.samples)
        return {name: surface_of(x, self.samples.reading(name)) for name in self.limits}

    def predict(self, changes: Sequence[Change]) -> Prediction:
        """The yield under some changes at once. Raises KeyError for a variable that is not there."""
        if not any(one.size for one in changes):
            now = yield_of(self.passing)
            return Prediction(now.share, now.low, now.high, COUNTED, float(now.count))
        weights, lost = np.ones(self.samples.count), 0.0
        for one in changes:
            own, gone = self._weights(one)
            weights, lost = weights * own, max(lost, gone)
        total = float(weights.sum())
        effective = total**2 / float(np.square(weights).sum()) if total > 0 else 0.0
        if effective >= FEWEST and lost <= LOST:
            share = float(weights @ self.passing) / total
            variance = float(np.square(weights * (self.passing - share)).sum()) / total**2
            worth = share * (1.0 - share) / variance if variance > 0 else effective
            return Prediction(share, *_interval(share, min(worth, effective)), WEIGHTS, effective)
        return self._by_surface(changes, effective)

    def _weights(self, change: Change) -> tuple[np.ndarray, float]:
        """How much likelier each sample is, and the share of the changed law that lies where there are none."""
        k = self.samples.names.index(change.variable) if change.variable in self.samples.names else -1
        if k < 0:
            raise KeyError(change.variable)
        old = self.samples.variables[k]
        new = changed(old, change)
        shares = old.deviations(self.samples.normal[:, k])
        moved = (1.0 + shares) / change.nominal - 1.0 if old.kind == TOLERANCE else shares
        density = _density(new, moved) / (change.nominal if old.kind == TOLERANCE else 1.0)
        before = _density(old, shares)
        weights = np.where(before > 0, density / np.where(before > 0, before, 1.0), 0.0)
        return weights, _lost(old, new, change)

    def _by_surface(self, changes: Sequence[Change], effective: float) -> Prediction:
        x = deviations(self.samples)
        for one in changes:
            k = self.samples.names.index(one.variable)
            old = self.samples.variables[k]
            shares = changed(old, one).deviations(self.samples.normal[:, k])
            if old.kind == TOLERANCE:
                shares = one.nominal * (1.0 + shares) - 1.0
            x[:, k] = shares / (old.sigma or 1.0)
        passing = np.ones(self.samples.count, bool)
        passing[list(self.samples.failures)] = False
        explained = 1.0
        for name, (low, high) in self.limits.items():
            surface = self.surfaces[name]
            if surface is None:
                return Prediction(np.nan, 0.0, 1.0, SURFACE, effective, 0.0)
            values = surface.values(x) + surface.rests
            passing &= (values >= low) & (values <= high)
            explained = min(explained, surface.explained)
        share = float(passing.mean())
        trusted = self.samples.count * max(explained, 0.05) / 4.0  # half as sure at best: a surface is no simulation
        return Prediction(share, *_interval(share, trusted), SURFACE, effective, explained)


def _interval(share: float, count: float) -> tuple[float, float]:
    """Clopper and Pearson's, for a number of samples that need not be whole."""
    from scipy.special import betaincinv

    outside, passed = (1.0 - CONFIDENCE) / 2.0, share * count
    low = 0.0 if passed <= 0 else float(betaincinv(passed, count - passed + 1.0, outside))
    high = 1.0 if passed >= count else float(betaincinv(passed + 1.0, count - passed, 1.0 - outside))
    return low, high


def _density(variable: Variable, values: np.ndarray) -> np.ndarray:
    """Of deviations, up to what all laws of the variable have in common."""
    from scipy.special import ndtr

    law = variable.tolerance
    sigma = law.sigma if law is not None else variable.sigma
    inside = np.abs(values) <= (law.within if law is not None else math.inf)
    if law is not None and not law.sigma:
        return inside / (2.0 * law.within)
    kept = 1.0 - 2.0 * float(ndtr(-law.within / sigma)) if law is not None and math.isfinite(law.within) else 1.0
    return inside * np.exp(-0.5 * np.square(values / sigma)) / (sigma * math.sqrt(2.0 * math.pi) * kept)


def _lost(old: Variable, new: Variable, change: Change) -> float:
    """The share of the changed law where the old one has no samples."""
    law = old.tolerance
    if law is None or math.isinf(law.within):
        return 0.0
    grid = np.linspace(-4.0, 4.0, 801)
    shares = change.nominal * (1.0 + new.deviations(grid)) - 1.0
    mass = np.exp(-0.5 * grid**2)
    return float(mass[np.abs(shares) > law.within * (1.0 + 1e-9)].sum() / mass.sum())


Group = Sequence[str]
"""Variables that one change moves together: a value of a part, or the sizes of devices that must stay alike."""


@dataclass(frozen=True)
class Proposal:
    """Changes of groups of variables, what they are foretold to bring, and how large they are together."""

    steps: tuple[tuple[Change, ...], ...]
    prediction: Prediction

    @property
    def changes(self) -> tuple[Change, ...]:
        """Of each variable."""
        return tuple(change for step in self.steps for change in step)

    @property
    def size(self) -> float:
        """Of all changes."""
        return sum(max(one.size for one in step) for step in self.steps)


SPREADS = (1.0, 0.85, 0.7, 0.5, 0.35, 0.25, 0.15, 0.1)
SIZES = (0.85, 0.7, 0.6, 0.5, 0.42, 0.35)
"""What a device spreads by, down to eight times its area."""
SHIFTS = (0.0, 0.25, -0.25, 0.5, -0.5, 1.0, -1.0, 1.5, -1.5, 2.0, -2.0, 3.0, -3.0)
"""Of the nominal value, in standard deviations of the value."""
MOST = 6
"""Proposals, and groups that are tried together."""


def proposals(teller: Foreteller, wanted: float, groups: Sequence[Group]) -> list[Proposal]:
    """The smallest changes of one of these groups, or of two, that are foretold to reach a wanted yield, the smallest first;
    where none does, those that come nearest. `groups` begin with the guiltiest."""
    ones = [list(_of_one(teller, group)) for group in groups[:MOST]]
    tried = [_proposed(teller, step) for own in ones for step in own]
    enough = _best(one for one in tried if one.prediction.share >= wanted)
    if len(enough) < 2 and len(ones) > 1:
        for first, second in combinations(ones[:4], 2):
            few = (_leading(teller, first), _leading(teller, second))
            tried += [_proposed(teller, *both) for both in product(*few)]
        enough = _best(one for one in tried if one.prediction.share >= wanted)
    if enough:
        return sorted(enough, key=lambda one: one.size)[:MOST]
    return sorted(tried, key=lambda one: (-round(one.prediction.share, 3), one.size))[:1]


Step = tuple[Change, ...]


def _proposed(teller: Foreteller, *steps: Step) -> Proposal:
    return Proposal(steps, teller.predict([change for step in steps for change in step]))


def _of_one(teller: Foreteller, group: Group) -> Iterator[Step]:
    variable = teller.samples.variables[teller.samples.names.index(group[0])]
    if variable.kind != TOLERANCE:
        yield from (tuple(Change(name, 1.0, spread) for name in group) for spread in SIZES)
        return
    for spread, shift in product(SPREADS, SHIFTS):
        nominal = 1.0 + shift * variable.sigma
        if (spread, shift) != (1.0, 0.0) and nominal > 0.05:
            yield tuple(Change(name, nominal, spread) for name in group)


def _leading(teller: Foreteller, steps: list[Step]) -> list[Step]:
    """Those that bring the most, of each kind of change."""
    ranked = sorted(steps, key=lambda step: -teller.predict(step).share)
    return ranked[:5] + [step for step in steps if step[0].nominal == 1.0][:4]


def _best(found: Iterator[Proposal]) -> list[Proposal]:
    """The smallest of each combination of groups and kinds of change."""
    kept: dict[tuple, Proposal] = {}
    for one in found:
        key = tuple((step[0].variable, step[0].nominal != 1.0, step[0].spread != 1.0) for step in one.steps)
        if key not in kept or one.size < kept[key].size:
            kept[key] = one
    return list(kept.values())
