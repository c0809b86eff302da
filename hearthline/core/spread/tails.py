"""Failures that are too rare to be met by chance: the likeliest points where a limit is passed, and importance sampling about
them.

In independent standard normal numbers u the likeliest failing point is the nearest one to the origin; it is found by
linearising the limit again and again (A. M. Hasofer and N. C. Lind, J. Eng. Mech. Div. ASCE 100, 1974; R. Rackwitz and
B. Fiessler, Computers and Structures 9, 1978). Samples are then drawn about all such points and weighed by the ratio of
densities (A. B. Owen and Y. Zhou, J. Am. Statist. Assoc. 95, 2000: the mixture keeps the weights bounded).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

Margins = Callable[[np.ndarray], np.ndarray]
"""Of points (points, variables) how far each of the limits (points, limits) is from being passed, below 0 where it is."""

STEP, LONGEST, LONGER = 0.1, 2.0, 3.0
"""Of a difference that stands for a slope, in standard deviations; it becomes longer where slopes do not foretell the next
margin, as of a reading that is taken from few points."""
TURNS, STARTS, HALVINGS = 12, 3, 6
CLOSE = 0.02
"""Of the distance of a point, as a share, at which the search ends."""
APART = 0.5
"""Standard deviations by which two points differ that count as two."""
FARTHEST = 9.0
DEFENCE = 0.1
"""Of the samples that are drawn about the origin with a wide law, so that no region is left out unseen."""
WIDE = 2.0
PORTION = 250
LEAST, SURE = 4, 0.75
"""Portions before the end, and the share of the wanted error that must be reached: errors are themselves uncertain."""
TRIED, ROUNDS = 450, 2
"""Samples that shape the laws, and how often."""
KEPT, NARROWEST, WIDEST = 0.3, 0.4, 5.0
"""Share of the first laws that stays, and the widths that a shaped one may have."""


@dataclass(frozen=True)
class FailingPoint:
    """A likeliest failing point: which limit, where (variables,), and its distance from the origin in standard deviations."""

    limit: int
    at: np.ndarray
    distance: float


@dataclass(frozen=True)
class Tail:
    """A rare failure: its probability with the interval, the simulations that it took, the effective number of failing samples,
    the largest weight's share, the estimates of the two halves, and the points."""

    probability: float
    low: float
    high: float
    simulations: int
    effective: float
    largest: float
    halves: tuple[float, float]
    points: tuple[FailingPoint, ...]

    @property
    def sigma(self) -> float:
        """Of a normal law whose one tail is as likely."""
        from scipy.special import ndtri

        return float(-ndtri(self.probability)) if self.probability > 0 else math.inf

    @property
    def error(self) -> float:
        """Half of the interval, as a share of the probability."""
        return (self.high - self.low) / (2.0 * self.probability) if self.probability > 0 else math.inf

    @property
    def doubtful(self) -> str:
        """Why it is not to be trusted, or nothing."""
        if not self.points:
            return f"no failing point was found within {FARTHEST:g} sigma"
        if self.effective < 30:
            return f"only {self.effective:.0f} failing samples count; take more simulations"
        if self.largest > 0.1:
            return f"one sample has {100 * self.largest:.0f} % of the weight; take more simulations"
        first, second = self.halves
        if abs(first - second) > 0.5 * (first + second):
            return "the two halves of the samples disagree; take more simulations"
        return ""


class _Counted:
    """Counts what is asked of a circuit."""

    def __init__(self, margins: Margins):
        self.margins, self.count = margins, 0

    def __call__(self, points: np.ndarray) -> np.ndarray:
        self.count += len(points)
        return self.margins(points)


def slopes(margins: Margins, at: np.ndarray, limit: int, step: float = STEP) -> tuple[float, np.ndarray]:
    """A margin at a point and its slope (variables,), by differences; all points are asked at once."""
    points = np.vstack([at, at + step * np.eye(len(at))])
    values = margins(points)[:, limit]
    return float(values[0]), (values[1:] - values[0]) / step


def failing_point(margins: Margins, limit: int, begin: np.ndarray) -> FailingPoint | None:
    """The nearest point to the origin at which a limit is just passed, searched from a point; None where there is none."""
    here, before, step, foretold = begin, math.inf, STEP, (math.nan, math.inf)
    for _ in range(TURNS):
        value, slope = slopes(margins, here, limit, step)
        steep = float(slope @ slope)
        if not np.isfinite(value) or not math.isfinite(steep):
            return None
        expected, change = foretold
        if steep <= 0 and step >= LONGEST:
            return None
        if steep <= 0 or abs(value - expected) > 0.5 * change + 0.1 * math.sqrt(steep):
            step, foretold = min(step * LONGER, LONGEST), (math.nan, math.inf)
            if steep <= 0:
                continue
        there = (float(slope @ here) - value) / steep * slope
        size = float(np.linalg.norm(there))
        if size > FARTHEST:  # not farther than anything is known
            there *= FARTHEST / size
        moved = float(np.linalg.norm(there - here))
        if moved > 2.0:  # a limit that bends is followed in steps
            there = here + (there - here) * (2.0 / moved)
        change = float(slope @ (there - here))
        here, foretold = there, (value + change, abs(change))
        distance = float(np.linalg.norm(here))
        if moved < CLOSE * max(distance, 1.0) and abs(distance - before) < CLOSE * max(distance, 1.0):
            break
        before = distance
    value = float(margins(here[None])[0, limit])
    scale = math.sqrt(steep)
    if value < -0.3 * scale:  # beyond the limit: the way back to the origin crosses it
        here = _where_it_passes(margins, limit, here)
        distance = float(np.linalg.norm(here))
    return FailingPoint(limit, here, distance) if value < 0.3 * scale else None


def _where_it_passes(margins: Margins, limit: int, beyond: np.ndarray) -> np.ndarray:
    """Between the origin and a failing point, by halving."""
    low, high = 0.0, 1.0
    for _ in range(HALVINGS):
        middle = 0.5 * (low + high)
        low, high = (low, middle) if margins(middle * beyond[None])[0, limit] < 0 else (middle, high)
    return high * beyond


def failing_points(margins: Margins, limits: int, variables: int, seed: int = 1) -> list[FailingPoint]:
    """Those of all limits, the likeliest first, each searched from the origin and from random directions; of two that are the
    same one is kept."""
    generator = np.random.default_rng(seed)
    found: list[FailingPoint] = []
    for limit in range(limits):
        begins = [np.zeros(variables)]
        begins += [3.0 * way / np.linalg.norm(way) for way in generator.standard_normal((STARTS - 1, variables))]
        for begin in begins:
            point = failing_point(margins, limit, begin)
            if point is not None and all(np.linalg.norm(point.at - one.at) > APART for one in found):
                found.append(point)
    found.sort(key=lambda one: one.distance)
    return [one for one in found if one.distance < found[0].distance + 2.0]


def tail(margins: Margins, limits: int, variables: int, wanted: float = 0.1, most: int = 5000, seed: int = 1) -> Tail:
    """The probability that any limit is passed, until its 95 % interval is within `wanted` of it either way, or `most`
    simulations are spent. The first samples only serve to shape the laws to where it fails; the probability is taken from
    later ones, so that nothing leans on what shaped it."""
    asked = _Counted(margins)
    points = failing_points(asked, limits, variables, seed)
    if not points:
        return Tail(0.0, 0.0, 1.0, asked.count, 0.0, 0.0, (0.0, 0.0), ())
    generator = np.random.default_rng([seed, 7])
    first = mixture = _Mixture.about(points, variables)
    for _ in range(ROUNDS):
        tried = _Drawn(mixture)
        tried.add(generator, min(TRIED, (most - asked.count) // 4), asked)
        mixture = _Mixture.shaped(first, tried)
    drawn = _Drawn(mixture)
    while asked.count < most:
        drawn.add(generator, min(PORTION, most - asked.count), asked)
        if drawn.count >= LEAST * PORTION and drawn.error < SURE * wanted:
            break
    return drawn.estimate(asked.count, tuple(points))


class _Drawn:
    """Samples of one mixture so far, and which of them fail."""

    def __init__(self, mixture: _Mixture):
        self.mixture = mixture
        self.points, self.failing = np.zeros((0, mixture.centres.shape[1])), np.zeros(0, bool)

    @property
    def count(self) -> int:
        """Of samples."""
        return len(self.points)

    def add(self, generator: np.random.Generator, count: int, margins: Margins) -> None:
        """So many more."""
        more = self.mixture.draw(generator, count)
        failing = ~(margins(more) >= 0.0).all(axis=1)  # what does not converge fails
        self.points, self.failing = np.vstack([self.points, more]), np.append(self.failing, failing)

    @property
    def weights(self) -> np.ndarray:
        """Of each sample (samples,), 0 of those that do not fail: the mean is the probability."""
        found = np.zeros(self.count)
        inside = self.points[self.failing]
        found[self.failing] = np.exp(-0.5 * np.square(inside).sum(axis=1) - self.mixture.logs(inside))
        return found

    @property
    def effective(self) -> float:
        """Failing samples that count."""
        weights = self.weights
        squares = float(np.square(weights).sum())
        return float(weights.sum()) ** 2 / squares if squares else 0.0

    @property
    def error(self) -> float:
        """Half of the 95 % interval, as a share of the probability."""
        return _error(self.weights)

    def estimate(self, simulations: int, points: tuple[FailingPoint, ...]) -> Tail:
        """What they say."""
        weights = self.weights
        mean, total = float(weights.mean()), float(weights.sum())
        reach = _error(weights) * mean if mean > 0 else 1.0
        squares = float(np.square(weights).sum())
        return Tail(
            mean, max(0.0, mean - reach), mean + reach, simulations, total**2 / squares if squares else 0.0,
            float(weights.max()) / total if total else 1.0,
            (float(weights[::2].mean()), float(weights[1::2].mean())), points,
        )  # fmt: skip


def _error(weights: np.ndarray) -> float:
    mean = float(weights.mean())
    return 1.96 * float(weights.std(ddof=1)) / math.sqrt(len(weights)) / mean if mean > 0 else math.inf


@dataclass(frozen=True)
class _Mixture:
    """Normal laws: the share of each, its centre (laws, variables), and the root of its covariance (laws, variables,
    variables)."""

    parts: np.ndarray
    centres: np.ndarray
    roots: np.ndarray

    @classmethod
    def about(cls, points: Sequence[FailingPoint], variables: int) -> _Mixture:
        """Unit laws about the points, by how likely each is, and a wide one about the origin."""
        from scipy.special import ndtr

        likely = np.maximum(ndtr(-np.array([one.distance for one in points])), 1e-300)
        parts = np.append((1.0 - DEFENCE) * likely / likely.sum(), DEFENCE)
        centres = np.vstack([*(one.at for one in points), np.zeros(variables)])
        widths = np.append(np.ones(len(points)), WIDE)
        return cls(parts, centres, widths[:, None, None] * np.eye(variables))

    @classmethod
    def shaped(cls, first: _Mixture, drawn: _Drawn) -> _Mixture:
        """With laws of the mean and the covariance of the failing samples about each centre, as far as there are enough."""
        weights, variables = drawn.weights, drawn.points.shape[1]
        inside, weights = drawn.points[drawn.failing], weights[drawn.failing]
        away = np.square(inside[:, None, :] - first.centres[:-1]).sum(axis=2) if len(inside) else np.zeros((0, 1))
        nearest = np.argmin(away, axis=1)
        parts, centres, roots = list(KEPT * first.parts), list(first.centres), list(first.roots)
        shares = np.bincount(nearest, weights, minlength=len(first.centres) - 1)
        for k, share in enumerate(shares):
            own, mass = inside[nearest == k], weights[nearest == k]
            if not share > 0:
                continue
            effective = mass.sum() ** 2 / np.square(mass).sum()
            if effective < 10:
                continue
            centre = mass @ own / mass.sum()
            sizes, ways = np.linalg.eigh((own - centre).T * mass @ (own - centre) / mass.sum())
            noise = math.sqrt(variables / effective)
            plain = (sizes > max(0.0, 1.0 - noise) ** 2) & (sizes < (1.0 + noise) ** 2)  # as a unit law would look
            sizes = np.sqrt(np.clip(np.where(plain, 1.0, sizes), NARROWEST**2, WIDEST**2))
            parts.append((1.0 - KEPT) * share / shares.sum())
            centres.append(centre)
            roots.append(ways * sizes)
        parts = np.array(parts) / np.sum(parts)
        return cls(parts, np.array(centres), np.array(roots))

    def draw(self, generator: np.random.Generator, count: int) -> np.ndarray:
        """Points (count, variables)."""
        which = generator.choice(len(self.parts), count, p=self.parts)
        normal = generator.standard_normal((count, self.centres.shape[1]))
        return self.centres[which] + np.einsum("nij,nj->ni", self.roots[which], normal)

    def logs(self, points: np.ndarray) -> np.ndarray:
        """The logarithm of the density (points,), without the constant of all normal laws."""
        found = np.full((len(self.parts), len(points)), -np.inf)
        for k, (part, centre, root) in enumerate(zip(self.parts, self.centres, self.roots, strict=True)):
            if part > 0:
                away = np.linalg.solve(root, (points - centre).T)
                size = np.linalg.slogdet(root)[1]
                found[k] = math.log(part) - 0.5 * np.square(away).sum(axis=0) - size
        return np.logaddexp.reduce(found, axis=0)


def worst_point(margins: Margins, limit: int, variables: int, sigma: float) -> np.ndarray:
    """The point (variables,) at a distance where a margin is least, by following its slope: a statistical corner."""
    _, slope = slopes(margins, np.zeros(variables), limit)
    here = np.zeros(variables)
    for _ in range(TURNS):
        size = float(np.linalg.norm(slope))
        if not size > 0:
            return here
        there = -sigma * slope / size
        if np.linalg.norm(there - here) < CLOSE * sigma:
            return there
        here = there
        _, slope = slopes(margins, here, limit)
    return here
