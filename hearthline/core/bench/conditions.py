"""The conditions of a run: axes crossed, each alone, or picked by hand; told apart by what they are, not by their place."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from itertools import product

from hearthline.core.bench.bench import ALONE, PICKED, GridSetup
from hearthline.core.spread.pvt import Condition, key_of


def conditions_of(setup: GridSetup, point: Condition, celsius: tuple[float, ...], axes: Mapping[str, tuple[float, ...]],
                  picked: Iterable[Condition]) -> tuple[Condition, ...]:  # fmt: skip
    """Every condition once, in order: surroundings slowest, then corners, so that neighbours are close. What has no axis stays
    as at the point."""
    names = list(axes)
    surroundings = setup.surroundings or (point.around,)
    found: list[Condition] = []
    if setup.how == ALONE:
        found.append(point)
        found += [replace(point, corner=corner) for corner in setup.corners]
        found += [replace(point, celsius=one) for one in celsius]
        for name in names:
            found += [replace(point, parameters={**point.parameters, name: v}) for v in axes[name]]
        found += [replace(point, around=one) for one in surroundings]
    elif setup.how != PICKED:
        crossed = product(surroundings, setup.corners, celsius, *axes.values())
        found += [
            Condition(c, t, {**point.parameters, **dict(zip(names, v, strict=True))}, around)
            for around, c, t, *v in crossed
        ]
    found += picked
    return tuple({key_of(one): one for one in found or [point]}.values())
