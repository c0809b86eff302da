"""What the top of a die shows over time, for each mode of its plane: how its impedance is shared out among decays.

With κ² = γ² + s c / k a die alone shows tanh(κ D) / κ: the sum over p of 2 / (D (λ + s c / k)), λ = γ² + ((p + 1/2) π / D)².
With layers below, that may hold heat too, it is a line of lines (`thermal.series`), whose decays are those of finite volumes
along the depth, with cells that grow from the top down.
"""

from __future__ import annotations

from functools import cached_property
from typing import Protocol

import numpy as np

from hearthline.core.thermal.die import Die

DEEP = 4.0
"""γ D from which on decays in depth lie close."""
FIRST, GROWS, LEAST_CELLS = 0.15, 1.2, 6
"""Of the finest wave over 2π, the first cell; how much the next one is larger; and cells of a layer at least."""
LOOKED = 60
"""Values of γ that decays are found for; between them shares are interpolated."""


class Depth(Protocol):
    """Along the depth of a die; decays by their λ [1/m²]."""

    @property
    def slowest(self) -> float:
        """Of all."""

    def upto(self, gamma2: np.ndarray, edge: float) -> np.ndarray:
        """What decays up to an edge [1/m²] take of what is shown at rest [m], and that over λ each [m³] (2, terms, terms)."""

    def whole(self, gamma2: np.ndarray) -> np.ndarray:
        """The second of them, of all decays that `upto` knows (terms, terms) [m³]."""

    def slope(self, gamma2: np.ndarray) -> np.ndarray:
        """The second of them, of all (terms, terms) [m³]."""

    def at(self, gamma2: np.ndarray, shift: complex) -> np.ndarray:
        """What is shown where s c / k is `shift` (terms, terms) [m]."""


def depth_of(die: Die, finest: float) -> Depth:
    """Of waves along the plane of up to `finest` [1/m]."""
    return Layered(die, finest) if die.layers else Alone(die)


class Alone:
    """A die over a back of one temperature."""

    def __init__(self, die: Die):
        self.thick = die.thickness
        self.slowest = (0.5 * np.pi / die.thickness) ** 2

    def upto(self, gamma2: np.ndarray, edge: float) -> np.ndarray:
        """One by one where a wave is wide beside the depth; else they lie so close that their sum is an integral."""
        shallow, thick = self._shallow(gamma2), self.thick
        with np.errstate(all="ignore"):
            gamma = np.sqrt(gamma2)
            u = np.sqrt(np.maximum(edge / gamma2 - 1.0, 0.0))
            turn = np.arctan(u)
            found = np.stack([2.0 / np.pi * turn / gamma, (turn + u / (1.0 + u * u)) / np.pi / gamma**3])
        few = gamma2[shallow]
        q2 = ((np.arange(max(0, int(np.sqrt(edge) * thick / np.pi + 0.5))) + 0.5) * np.pi / thick) ** 2
        rate = few[:, None] + q2[None, :]
        share = np.where(rate <= edge, 2.0 / thick / rate, 0.0)
        found[0][shallow], found[1][shallow] = share.sum(axis=1), (share / rate).sum(axis=1)
        return found

    def whole(self, gamma2: np.ndarray) -> np.ndarray:
        """As `upto` has it."""
        return np.where(self._shallow(gamma2), self.slope(gamma2), 0.5 / _above_zero(gamma2) ** 1.5)

    def slope(self, gamma2: np.ndarray) -> np.ndarray:
        """tanh(γD)/γ less D/cosh²(γD), over 2 γ²."""
        thick, gamma = self.thick, np.sqrt(_above_zero(gamma2))
        steep = thick / np.cosh(np.minimum(gamma * thick, 300.0)) ** 2
        found = (np.tanh(gamma * thick) / gamma - steep) / (2.0 * gamma**2)
        found[0, 0] = thick**3 / 3.0
        return np.asarray(found)

    def at(self, gamma2: np.ndarray, shift: complex) -> np.ndarray:
        """tanh(κD)/κ."""
        kappa = np.sqrt(gamma2 + shift)
        return np.asarray(np.tanh(kappa * self.thick) / kappa)

    def _shallow(self, gamma2: np.ndarray) -> np.ndarray:
        return np.sqrt(gamma2) * self.thick < DEEP


class Layered:
    """A die over layers, whose last back is of one temperature, or has a length `behind` of the die's own conductivity below it
    [m]."""

    def __init__(self, die: Die, finest: float, behind: float = 0.0):
        self.behind = behind
        own = [(die.thickness, 1.0, 1.0)]
        own += [(d, k / die.conductivity, c / die.capacity) for d, k, c in die.layers]
        self.layers = tuple(own)
        """Thickness [m], conductivity and capacity over the die's, from the top."""
        self.steps, self.conducts, self.holds = self._cells(FIRST / finest)
        first = float(np.pi / max(die.length, die.width)) ** 2
        self._grid = np.concatenate([[0.0], np.geomspace(0.5 * first, (40.0 * finest) ** 2, LOOKED)])

    @property
    def slowest(self) -> float:
        """Of the mean over the plane."""
        return float(self.of_mean[0].min())

    @cached_property
    def of_mean(self) -> tuple[np.ndarray, np.ndarray]:
        """λ of the mean over the plane, and what each takes at rest times λ, rising."""
        return self._decays_at(0.0)

    def _cells(self, first: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Their steps [m], conductivities and capacities over the die's."""
        steps: list[float] = []
        values: list[tuple[float, float]] = []
        step = first
        for thick, conducts, holds in self.layers:
            own: list[float] = []
            while sum(own) < thick:
                own.append(min(step, thick / LEAST_CELLS))
                step *= GROWS
            scale = thick / sum(own)
            steps += [one * scale for one in own]
            values += [(conducts, holds)] * len(own)
        each = np.array(values)
        return np.array(steps), each[:, 0], each[:, 1]

    @cached_property
    def decays(self) -> list[tuple[np.ndarray, np.ndarray]]:
        """The same for each γ that is looked at."""
        return [self._decays_at(float(gamma2)) for gamma2 in self._grid]

    def _decays_at(self, gamma2: float) -> tuple[np.ndarray, np.ndarray]:
        from scipy.linalg import eigh_tridiagonal

        half = 0.5 * self.steps / self.conducts
        links = 1.0 / (half[:-1] + half[1:])
        middle = np.zeros(len(half))
        middle[:-1] += links
        middle[1:] += links
        middle[-1] += 1.0 / (half[-1] + self.behind)
        root = np.sqrt(self.holds * self.steps)
        diagonal = (middle + gamma2 * self.conducts * self.steps) / root**2
        rates, ways = eigh_tridiagonal(diagonal, -links / (root[:-1] * root[1:]))
        return rates, (ways[0] / root[0]) ** 2

    def upto(self, gamma2: np.ndarray, edge: float) -> np.ndarray:
        """By finite volumes."""
        return np.stack([
            self._between(gamma2, [float((share / rates**power)[rates <= edge].sum()) for rates, share in self.decays])
            for power in (1, 2)
        ])  # fmt: skip

    def whole(self, gamma2: np.ndarray) -> np.ndarray:
        """By finite volumes."""
        return self._between(gamma2, [float((share / rates**2).sum()) for rates, share in self.decays])

    def slope(self, gamma2: np.ndarray) -> np.ndarray:
        """The same."""
        return self.whole(gamma2)

    def at(self, gamma2: np.ndarray, shift: complex) -> np.ndarray:
        """Of a line of lines, exactly."""
        found = np.full(gamma2.shape, self.behind + 0j)
        for thick, conducts, holds in reversed(self.layers):
            kappa = np.sqrt(gamma2 + shift * holds / conducts)
            rise, own = np.tanh(kappa * thick), conducts * kappa
            found = (found + rise / own) / (1.0 + found * own * rise)
        return found

    def _between(self, gamma2: np.ndarray, values: list[float]) -> np.ndarray:
        """Values at γ that are looked at, at others."""
        with np.errstate(divide="ignore"):
            found = np.interp(np.log(gamma2), np.log(self._grid[1:]), values[1:])
        return np.where(gamma2 > 0.0, found, values[0])


def _above_zero(gamma2: np.ndarray) -> np.ndarray:
    """With a number in the place of the mean, which has a formula of its own."""
    found = gamma2.copy()
    found[0, 0] = 1.0
    return found
