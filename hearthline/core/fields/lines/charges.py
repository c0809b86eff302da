"""Charges on the conductors of a cross-section and between its layers, by boundary elements.

All charge is taken in free space over the image of the plane: that of a piece of conductor sets the potential, that between two
layers makes the normal flux go on (total charges; Wei, Harrington, Mautz and Sarkar, IEEE Trans. Microwave Theory Tech. 1984).
Charge is constant on a piece; pieces get shorter towards edges, where it is large.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from hearthline.core.constants import EPSILON0
from hearthline.core.fields.lines.section import Conductor, Section

ROUND = 96
"""Pieces of a circle."""
FINEST, GROWTH = 2e-4, 1.6
"""Of the highest thing, or of a face, the piece that is next to an edge; and how much longer the next one is."""
FAR = 14.0
"""Of the highest thing, how far beyond the conductors charge between layers is followed."""
SAME = 1e-9


@dataclass(frozen=True)
class Pieces:
    """Straight pieces: begins and ends (pieces, 2) [m], what each belongs to (a conductor, or -1), and the relative
    permittivity in front of it, and behind where it lies between layers."""

    begins: np.ndarray
    ends: np.ndarray
    owner: np.ndarray
    front: np.ndarray
    behind: np.ndarray

    @cached_property
    def middles(self) -> np.ndarray:
        """(pieces, 2) [m]."""
        return 0.5 * (self.begins + self.ends)

    @cached_property
    def lengths(self) -> np.ndarray:
        """[m]."""
        return np.hypot(*(self.ends - self.begins).T)

    @cached_property
    def normals(self) -> np.ndarray:
        """To the right of the way from begin to end."""
        way = (self.ends - self.begins) / self.lengths[:, None]
        return np.column_stack([way[:, 1], -way[:, 0]])


def pieces_of(section: Section, lossy: bool) -> Pieces:
    """Of all conductors, each seen from outside, then of what lies between layers."""
    begins, ends, owner = [], [], []
    for k, one in enumerate(section.conductors):
        corners = _around(one)
        begins.append(corners[:-1])
        ends.append(corners[1:])
        owner.append(np.full(len(corners) - 1, k))
    count = sum(map(len, owner))
    for top in section.tops:
        for a, b in _gaps(section, float(top)):
            begins.append(a)
            ends.append(b)
            owner.append(np.full(len(a), -1))
    found = Pieces(np.vstack(begins), np.vstack(ends), np.concatenate(owner), np.zeros(0), np.zeros(0))
    scale = 1e-6 * float(found.lengths.max())
    front = section.permittivity((found.middles + scale * found.normals)[:, 1], lossy)
    behind = section.permittivity((found.middles - scale * found.normals)[:, 1], lossy)
    kept = np.ones(len(front), bool)
    kept[count:] = np.abs(front[count:] - behind[count:]) > SAME
    return Pieces(found.begins[kept], found.ends[kept], found.owner[kept], front[kept], behind[kept])


def _stretched(a: float, b: float, finest: float, from_a: bool, from_b: bool) -> np.ndarray:
    """Points from a to b, finest at the ends that lie at a conductor."""
    if from_a and from_b:
        middle = 0.5 * (a + b)
        return np.concatenate(
            [_stretched(a, middle, finest, True, False), _stretched(middle, b, finest, False, True)[1:]]
        )
    count = max(2, int(np.ceil(np.log1p((b - a) * (GROWTH - 1.0) / finest) / np.log(GROWTH))))
    steps = GROWTH ** np.arange(count)
    shares = np.concatenate([[0.0], np.cumsum(steps) / steps.sum()])
    return a + (b - a) * shares if from_a or not from_b else b - (b - a) * shares[::-1]


def _around(one: Conductor) -> np.ndarray:
    """Corners of its pieces (pieces + 1, 2), so that normals point to where the field is."""
    if one.round:
        turn = np.linspace(0.0, 2.0 * np.pi, ROUND + 1)
        radius = one.radius * np.sqrt(2.0 * np.pi / ROUND / np.sin(2.0 * np.pi / ROUND))  # of the same area
        points = np.column_stack([one.low[0] + radius * np.cos(turn), one.low[1] + radius * np.sin(turn)])
        return points[::-1] if one.hollow else points
    (x0, y0), (x1, y1) = one.low, one.high
    finest = FINEST * max(x1 - x0, y1 - y0)
    flat, tall = (_stretched(a, b, finest, True, True) for a, b in ((x0, x1), (y0, y1)))
    sides = [
        np.column_stack([flat, np.full(len(flat), y0)]), np.column_stack([np.full(len(tall), x1), tall]),
        np.column_stack([flat[::-1], np.full(len(flat), y1)]), np.column_stack([np.full(len(tall), x0), tall[::-1]]),
    ]  # fmt: skip
    return np.vstack([sides[0], *(side[1:] for side in sides[1:])])


def _gaps(section: Section, top: float) -> list[tuple[np.ndarray, np.ndarray]]:
    """Pieces of the line at a height that lie in no conductor and on none."""
    taken, reach = [], top
    for one in section.conductors:
        r = one.radius
        low = (one.low[0] - r, one.low[1] - r) if one.round else one.low
        high = (one.low[0] + r, one.low[1] + r) if one.round else one.high
        reach = max(reach, high[1])
        if low[1] - SAME * reach <= top <= high[1] + SAME * reach:
            half = np.sqrt(max(r**2 - (top - one.low[1]) ** 2, 0.0)) if one.round else 0.0
            taken.append((one.low[0] - half, one.low[0] + half) if one.round else (low[0], high[0]))
    if any(one.hollow for one in section.conductors):
        shell = next(one for one in section.conductors if one.hollow)
        half = float(np.sqrt(max(shell.radius**2 - (top - shell.low[1]) ** 2, 0.0)))
        taken = [pair for pair in taken if pair != (shell.low[0] - half, shell.low[0] + half)]
        left, right = shell.low[0] - half, shell.low[0] + half
    else:
        edges = [
            x
            for one in section.conductors
            for x in (one.low[0] - one.radius, max(one.high[0], one.low[0] + one.radius))
        ]
        left, right = min(edges) - FAR * reach, max(edges) + FAR * reach
    places = [left, *(x for pair in sorted(taken) for x in pair), right]
    found = []
    for a, b in zip(places[::2], places[1::2], strict=True):
        if b - a > SAME * reach:
            x = _stretched(a, b, FINEST * reach, a > left, b < right)
            points = np.column_stack([x[::-1], np.full(len(x), top)])  # normals up
            found.append((points[:-1], points[1:]))
    return found


def _influence(at: np.ndarray, begins: np.ndarray, ends: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Potential (points, pieces) of 1 C/m² on each piece times 2 π ε0, and the field (points, pieces, 2), in closed form."""
    way = ends - begins
    lengths = np.hypot(*way.T)
    way = way / lengths[:, None]
    x, y = at[:, None, 0] - begins[None, :, 0], at[:, None, 1] - begins[None, :, 1]
    u, v = x * way[:, 0] + y * way[:, 1], y * way[:, 0] - x * way[:, 1]
    first, last = u**2 + v**2, (u - lengths) ** 2 + v**2
    with np.errstate(divide="ignore", invalid="ignore"):
        near = np.log(np.maximum(first, 1e-300)), np.log(np.maximum(last, 1e-300))
    angle = np.arctan2(v * lengths, first - u * lengths)
    potential = lengths - 0.5 * (u * near[0] - (u - lengths) * near[1]) - v * angle
    along, across = 0.5 * (near[0] - near[1]), angle
    field = np.stack([along * way[:, 0] - across * way[:, 1], along * way[:, 1] + across * way[:, 0]], axis=-1)
    return potential, field


def influence(at: np.ndarray, pieces: Pieces) -> tuple[np.ndarray, np.ndarray]:
    """The same over the plane of ground, whose image is a charge of the other sign."""
    flipped = np.array([1.0, -1.0])
    potential, field = _influence(at, pieces.begins, pieces.ends)
    image, of_image = _influence(at, pieces.begins * flipped, pieces.ends * flipped)
    return potential - image, field - of_image


@dataclass(frozen=True)
class Charges:
    """On the pieces of a section for 1 V on each line alone: all charge (pieces, lines) [C/m²], and of the lines what is free,
    per length (lines, lines) [F/m]; complex with losses."""

    pieces: Pieces
    total: np.ndarray
    capacitance: np.ndarray


def charges(section: Section, lossy: bool = False, empty: bool = False) -> Charges:
    """Of a section as it is, or `empty` of its layers."""
    bare = Section(section.conductors) if empty else section
    pieces = pieces_of(bare, lossy)
    potential, field = influence(pieces.middles, pieces)
    on_line = pieces.owner >= 0
    normal = np.einsum("pqk,pk->pq", field, pieces.normals)
    np.fill_diagonal(normal, _of_image(pieces))
    matrix = np.where(on_line[:, None], potential / (2.0 * np.pi * EPSILON0), 0.0).astype(complex if lossy else float)
    between = ~on_line
    change = (pieces.behind - pieces.front)[between, None]
    matrix[between] = change * normal[between] / (2.0 * np.pi)
    own = -0.5 * (pieces.behind + pieces.front)[between]
    matrix[np.flatnonzero(between), np.flatnonzero(between)] += own
    lines = section.lines
    wanted = np.stack([(pieces.owner == k).astype(float) for k in lines], axis=1)
    total = np.linalg.solve(matrix, wanted.astype(matrix.dtype))
    free = (pieces.front * pieces.lengths)[:, None] * total
    return Charges(pieces, total, wanted.T @ free)


def _of_image(pieces: Pieces) -> np.ndarray:
    """The normal field of each piece's own image at its middle; its own has none there."""
    flipped = np.array([1.0, -1.0])
    found = np.zeros(len(pieces.owner))
    for k in range(len(found)):
        begin, end = pieces.begins[k : k + 1] * flipped, pieces.ends[k : k + 1] * flipped
        _, field = _influence(pieces.middles[k : k + 1], begin, end)
        found[k] = -float(field[0, 0] @ pieces.normals[k])
    return found
