"""Columns through the die that conduct better than it does, such as vias that are filled with metal.

What a column conducts more than the die in its place flows between cells that it is cut into, and acts on the die as a source
where it comes out and a sink where it goes in: T = T₀ - G K T, with G the means of the die's own rise over cells by heat that
is spread over cells, and K the extra conductances between them (a volume integral equation: Harrington, Field Computation by
Moment Methods). Depths are those of a line: with u = cosh γz from the top and v = sinh γ(D-z) + yγ cosh γ(D-z) from the back,
behind which layers show y, the rise by heat at another depth is u(z<) v(z>) / γ (cosh γD + yγ sinh γD).
"""

from __future__ import annotations

from functools import cached_property, lru_cache
from itertools import pairwise

import numpy as np

from hearthline.core.fields.cosines import cosine_means
from hearthline.core.thermal.die import Die, Via
from hearthline.core.thermal.series import below, between, doubled, gammas, terms_of

DEEP = 6
"""Cells of a column along its depth."""
FINE = 6.0
"""Terms along an axis for each time that the smallest cell fits into it."""
ACROSS = ((2, 6), (4, 5), (8, 4), (16, 3))
"""Up to so many vias a column is cut into so many cells along both sides."""


class Columns:
    """The vias of a die: what they take out of it and give back, and how much less warm that makes it."""

    def __init__(self, die: Die, vias: tuple[Via, ...]):
        self.die, self.vias = die, vias
        self.across = next(each for most, each in ACROSS if len(vias) <= most)
        self.depths = die.thickness * (np.arange(DEEP + 1) / DEEP) ** 1.5
        self.tiles = np.array([tile for via in vias for tile in _tiles(via, self.across)])
        """Middles and sizes of the cells from above (tiles, 4) [m]."""

    def flows(self, boxes: np.ndarray) -> np.ndarray:
        """What comes out of each cell into the die by power in boxes at the top (depths, tiles, boxes); the last depth is the
        die's back."""
        heard = self._at_top(boxes).transpose(0, 2, 1)
        found = self._answer @ heard.reshape(-1, len(boxes))
        return found.reshape(heard.shape)

    def away(self, targets: np.ndarray, boxes: np.ndarray) -> np.ndarray:
        """By how much less targets at the top rise by power in boxes (targets, boxes) [1/m]."""
        return -np.einsum("ptc,pcf->tf", self._at_top(targets), self.flows(boxes), optimize=True)

    def spectrum(self, boxes: np.ndarray, powers: np.ndarray, shape: tuple[int, ...]) -> np.ndarray:
        """What they add to the spectrum of the top (terms, terms), by powers of boxes [W]."""
        rows, columns = shape
        x = cosine_means(self.die.length, self.tiles[:, 0], self.tiles[:, 2], rows)
        y = cosine_means(self.die.width, self.tiles[:, 1], self.tiles[:, 3], columns)
        found = np.zeros(shape)
        weights = _from_top(self.die, self.depths.tobytes(), rows, columns)
        for weight, each in zip(weights, self.flows(boxes) @ powers, strict=True):
            found += weight * ((x * each[:, None]).T @ y)
        return found

    @cached_property
    def _answer(self) -> np.ndarray:
        """What comes out of cells by what they would rise without columns (cells, cells) [m]."""
        extra, own = self._extra, self._own
        return np.asarray(-extra @ np.linalg.inv(np.eye(len(own)) + own @ extra))

    @cached_property
    def _terms(self) -> tuple[int, int]:
        return terms_of(self.die, self.tiles, FINE)

    def _at_top(self, targets: np.ndarray) -> np.ndarray:
        """Rise of targets at the top by heat in cells of each depth (depths, targets, tiles) [1/m]."""
        weights = _from_top(self.die, self.depths.tobytes(), *self._terms)
        return np.stack([between(self.die, targets, self.tiles, one) for one in weights])

    @property
    def _own(self) -> np.ndarray:
        """Rise of each cell by heat in every other (cells, cells) [1/m]."""
        die, tiles = self.die, self.tiles
        rows, columns = self._terms
        line = _Line(die, self.depths, rows, columns)
        sides_x, kind_x = np.unique(tiles[:, ::2], axis=0, return_inverse=True)
        sides_y, kind_y = np.unique(tiles[:, 1::2], axis=0, return_inverse=True)
        x = cosine_means(die.length, sides_x[:, 0], sides_x[:, 1], rows)
        y = cosine_means(die.width, sides_y[:, 0], sides_y[:, 1], columns)
        pairs_x = (x[:, None] * x[None]).reshape(-1, rows)
        pairs_y = (y[:, None] * y[None]).reshape(-1, columns)
        place_x = kind_x.reshape(-1, 1) * len(x) + kind_x.ravel()
        place_y = kind_y.reshape(-1, 1) * len(y) + kind_y.ravel()
        found = np.empty((DEEP + 1, len(tiles), DEEP + 1, len(tiles)))
        for p in range(DEEP + 1):
            for q in range(p, DEEP + 1):
                every = pairs_x @ (line.among(p, q) @ pairs_y.T)
                found[p, :, q] = found[q, :, p] = every[place_x, place_y]
        return found.reshape((DEEP + 1) * len(tiles), -1)

    @property
    def _extra(self) -> np.ndarray:
        """What flows between cells more than in the die, over its conductivity (cells, cells) [m]."""
        each, ratios = self.across**2, [one.conductivity / self.die.conductivity - 1.0 for one in self.vias]
        index = np.arange((DEEP + 1) * len(self.tiles)).reshape(DEEP + 1, len(self.vias), self.across, self.across)
        found = np.zeros((index.size, index.size))

        def joined(some: np.ndarray, others: np.ndarray, conductance: np.ndarray) -> None:
            a, b = some.ravel(), others.ravel()
            conductance = np.broadcast_to(conductance, some.shape).ravel()
            for i, j, sign in ((a, a, 1.0), (b, b, 1.0), (a, b, -1.0), (b, a, -1.0)):
                np.add.at(found, (i, j), sign * conductance)

        thick = np.diff(self.depths)
        middles = np.append(0.5 * (self.depths[1:] + self.depths[:-1]), self.die.thickness)
        for k, ratio in enumerate(ratios):
            tiles = self.tiles[k * each : (k + 1) * each].reshape(self.across, self.across, 4)
            x, y, w, h = np.moveaxis(tiles, -1, 0)
            for p in range(DEEP):
                own = index[p, k]
                joined(own, index[p + 1, k], ratio * w * h / (middles[p + 1] - middles[p]))
                joined(own[1:], own[:-1], ratio * thick[p] * h[1:] / np.diff(x, axis=0))
                joined(own[:, 1:], own[:, :-1], ratio * thick[p] * w[:, 1:] / np.diff(y, axis=1))
        return found


@lru_cache(maxsize=4)
def columns_of(die: Die, vias: tuple[Via, ...]) -> Columns:
    """The same ones for the same vias."""
    return Columns(die, vias)


@lru_cache(maxsize=4)
def _from_top(die: Die, depths: bytes, rows: int, columns: int) -> tuple[np.ndarray, ...]:
    """Rise of the top by heat at each depth; the line that they are of is six times as large, and let go."""
    line = _Line(die, np.frombuffer(depths), rows, columns)
    return tuple(line.from_top(place) for place in range(DEEP + 1))


class _Line:
    """Depths of the die as a line, for each mode: the cells between `depths`, and the back as one more."""

    def __init__(self, die: Die, depths: np.ndarray, rows: int, columns: int):
        self.die = die
        g = gammas(die, rows, columns)
        self.behind = below(die, g)
        self.begins, self.ends = np.append(depths[:-1], depths[-1]), np.append(depths[1:], depths[-1])
        g[0, 0] = 1.0  # told apart below
        self._g, self._z = g, self.behind * g
        self._from_top, self._from_back = ([np.exp(-g * one) for one in some] for some in (depths, depths[-1] - depths))
        """How a mode falls from the top to each depth, and from there to the back."""
        whole = self._from_back[0] ** 2
        self._norm = 0.5 * g * (1.0 + whole + self._z * (1.0 - whole))
        self._falls = [np.exp(-g * (b - a)) for a, b in zip(self.begins, self.ends, strict=True)]
        self._tops = [self._top(p) for p in range(len(self.begins))]
        self._backs = [self._back(p) for p in range(len(self.begins))]

    def from_top(self, place: int) -> np.ndarray:
        """Rise of the top by heat at a depth [1/m]."""
        found = self._from_top[place] * self._backs[place] / self._norm
        found[0, 0] = self.behind[0, 0] + self.die.thickness - 0.5 * (self.begins[place] + self.ends[place])
        return self._scaled(found)

    def among(self, p: int, q: int) -> np.ndarray:
        """Mean rise of one depth by heat at another that is no higher [1/m]."""
        a, b, depth = self.begins[q], self.ends[q], self.die.thickness
        if p != q or a == b:
            found = self._tops[p] * self._backs[q] / self._norm
            for between_both in self._falls[p + 1 : q]:
                found *= between_both
            lower = 0.5 * (a + b)
        else:
            rise = 0.5 * (1.0 - self._from_top[q] ** 2) * self._backs[q] + self._tops[q] * self._wave(q + 1)
            found = (1.0 / self._g - rise / self._norm) / ((b - a) * self._g)
            lower = a + 2.0 * (b - a) / 3.0
        found[0, 0] = self.behind[0, 0] + depth - lower
        return self._scaled(found)

    def _scaled(self, found: np.ndarray) -> np.ndarray:
        return doubled(found) / (self.die.length * self.die.width)

    def _wave(self, edge: int) -> np.ndarray:
        fall = self._from_back[edge] ** 2
        return 0.5 * (1.0 + fall + self._z * (1.0 - fall))

    def _top(self, place: int) -> np.ndarray:
        """The mean of cosh γz over exp γb."""
        a, b = self.begins[place], self.ends[place]
        if a == b:
            return 0.5 * (1.0 + self._from_top[-1] ** 2)
        down, further = self._from_top[place], self._from_top[place + 1]
        return (1.0 - further**2 - self._falls[place] + down * further) / (2.0 * (b - a) * self._g)

    def _back(self, place: int) -> np.ndarray:
        """The mean of what fits the back over exp γ(D - a)."""
        a, b = self.begins[place], self.ends[place]
        if a == b:
            return self._z
        near, far = self._falls[place], self._from_back[place] ** 2
        both = self._from_back[place] * self._from_back[place + 1]
        return (1.0 + far - near - both + self._z * (1.0 - far - near + both)) / (2.0 * (b - a) * self._g)


def _tiles(via: Via, across: int) -> list[tuple[float, float, float, float]]:
    """Narrower towards the sides, row by row along the second axis."""
    x, y, w, h = via.box
    edges = 0.5 - 0.5 * np.cos(np.linspace(0.0, np.pi, across + 1))
    shares = [(0.5 * (a + b) - 0.5, b - a) for a, b in pairwise(edges)]
    return [(x + a * w, y + b * h, p * w, q * h) for a, p in shares for b, q in shares]
