"""Steps of a matrix that is kept, combined so that least is left; compiled. See `periodic.mixing`."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from hearthline.core.compiled.codes import INT, F, M, record
from hearthline.core.compiled.jit import entry, inner
from hearthline.core.engine.linear.dense import dot, take

SURE = 1e-8
"""Share of a difference that is left of it beside those before, under which it says nothing new."""


class Past(NamedTuple):
    """As many steps as are remembered: their `lengths` in terms of the `weights`, and the `ends` that they led to."""

    lengths: np.ndarray
    ends: np.ndarray
    weights: np.ndarray


PAST = record(Past, M, M, F)


@inner
def mixed(past, count, x, step):
    """The step to take from x where the matrix proposes one and `count` have been taken before; it is put beside these."""
    lengths, ends, weights = past.lengths, past.ends, past.weights
    found = step.copy()
    depth, n = lengths.shape
    used = min(depth, count)
    here, end = step / weights, x + step
    ways, shares = np.zeros((used, n)), np.zeros(used)
    triangle, kept, known = np.zeros((used, used)), 0, np.zeros(used, np.int64)
    for back in range(used):  # the last one first
        place = (count - 1 - back) % depth
        way = ways[kept]
        way[:] = here - lengths[place]
        size = math.sqrt(dot(way, way))
        for _ in range(2):  # once more, for what rounding has left
            for k in range(kept):
                share = dot(ways[k], way)
                triangle[k, kept] += share
                take(way, share, ways[k])
        left = math.sqrt(dot(way, way))
        if left > SURE * size:
            way /= left
            triangle[kept, kept], known[kept] = left, place
            kept += 1
        else:
            triangle[:, kept] = 0.0
    for k in range(kept):
        shares[k] = dot(ways[k], here)
    for back in range(kept):
        k = kept - 1 - back
        for j in range(k + 1, kept):
            shares[k] -= triangle[k, j] * shares[j]
        shares[k] /= triangle[k, k]
    for k in range(kept):
        take(found, shares[k], end - ends[known[k]])
    lengths[count % depth] = here
    ends[count % depth] = end
    return found


@entry(PAST, INT, F, F, F, gives=None)
def mix(past, count, x, step, found):
    """The same, into `found`."""
    found[:] = mixed(past, count, x, step)
