"""Both passes over the factors of fronts, compiled: eight right sides at a time, so that factors are read once for all."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from hearthline.core.compiled.codes import INT, ZT, F, I, T, Z, record
from hearthline.core.compiled.jit import entry, inner, summing

SIDES = 8
"""Right sides that go together."""


class Fronts(NamedTuple):
    """All fronts behind each other: how many unknowns of each are its own and how many it has, where these begin among `every`,
    and where its factors begin among the numbers, which have a row for each unknown, of what it adds to each of the own."""

    owns: np.ndarray
    counts: np.ndarray
    begins: np.ndarray
    every: np.ndarray
    places: np.ndarray


FRONTS = record(Fronts, I, I, I, I, I)


@summing
def _dot(row, own):
    total = 0.0 * own[0]
    for i in range(own.shape[0]):
        total += row[i] * own[i]
    return total


@summing
def _add(own, rows, a, b, c, d):
    count = own.shape[0]
    first, second, third, fourth = rows[:count], rows[count : 2 * count], rows[2 * count : 3 * count], rows[3 * count :]
    for i in range(count):
        own[i] += a * first[i] + b * second[i] + c * third[i] + d * fourth[i]


@summing
def _add_one(own, row, a):
    for i in range(own.shape[0]):
        own[i] += a * row[i]


@inner
def _up(fronts, numbers, first, last, found, more, room):
    for group in range(found.shape[0]):
        for k in range(first, last):
            count, begin = fronts.owns[k], fronts.begins[k]
            if count == 0:  # it only joins two that do not touch
                continue
            for i in range(count):
                at = fronts.every[begin + i]
                for c in range(SIDES):
                    room[c * count + i] = found[group, at, c] + more[group, at, c]
            place = fronts.places[k] + count * count
            for j in range(count, fronts.counts[k]):
                at = fronts.every[begin + j]
                for c in range(SIDES):
                    more[group, at, c] += _dot(numbers[place : place + count], room[c * count : (c + 1) * count])
                place += count


@inner
def _down(fronts, numbers, first, last, found, room):
    for group in range(found.shape[0]):
        for k in range(last - 1, first - 1, -1):
            count, begin, place = fronts.owns[k], fronts.begins[k], fronts.places[k]
            room[: SIDES * count] = 0.0
            whole = fronts.counts[k] // 4 * 4
            for j in range(0, whole, 4):
                at = begin + j
                a, b, c, d = fronts.every[at], fronts.every[at + 1], fronts.every[at + 2], fronts.every[at + 3]
                for side in range(SIDES):
                    own, known = room[side * count : (side + 1) * count], found[group, :, side]
                    _add(own, numbers[place : place + 4 * count], known[a], known[b], known[c], known[d])
                place += 4 * count
            for j in range(whole, fronts.counts[k]):
                for side in range(SIDES):
                    own = room[side * count : (side + 1) * count]
                    _add_one(own, numbers[place : place + count], found[group, fronts.every[begin + j], side])
                place += count
            for i in range(count):
                at = fronts.every[begin + i]
                for side in range(SIDES):
                    found[group, at, side] = room[side * count + i]


@entry(FRONTS, F, INT, INT, T, T, F, gives=None)
def up_real(fronts, numbers, first, last, found, more, room):
    """What right sides `found` (groups, unknowns, sides) get when fronts from `first` to `last` are eliminated is added to
    `more`; `room` is for those of one, of all sides."""
    _up(fronts, numbers, first, last, found, more, room)


@entry(FRONTS, Z, INT, INT, ZT, ZT, Z, gives=None)
def up_complex(fronts, numbers, first, last, found, more, room):
    """The same of complex numbers."""
    _up(fronts, numbers, first, last, found, more, room)


@entry(FRONTS, F, INT, INT, T, F, gives=None)
def down_real(fronts, numbers, first, last, found, room):
    """Puts unknowns of fronts into the place of their right sides, the last front first."""
    _down(fronts, numbers, first, last, found, room)


@entry(FRONTS, Z, INT, INT, ZT, Z, gives=None)
def down_complex(fronts, numbers, first, last, found, room):
    """The same of complex numbers."""
    _down(fronts, numbers, first, last, found, room)
