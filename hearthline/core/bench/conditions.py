"""The conditions of a run: axes crossed, each alone, or picked by hand; told apart by what they are, not by their place."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from itertools import product

from hearthline.core.bench.bench import ALONE, PICKED, GridSetup
from hearthline.core.spread.pvt import Condition, key_of


def conditions_of(setup: GridSetup, point: Condition, celsius: tuple[float, ...], axes: Mapping[str, tuple[float, ...]],
                  picked: Iterable[Condition]) -> tuple[Condition, ...]:  # fmt: skip
    """Every condition once, in order: corners slowest, so that neighbours are close. Parameters that have no axis stay as at
    the point."""
    names = list(axes)
    found: list[Condition] = []
    if setup.how == ALONE:
        found.append(point)
        found += [Condition(corner, point.celsius, point.parameters) for corner in setup.corners]
        found += [Condition(point.corner, one, point.parameters) for one in celsius]
        for name in names:
            found += [Condition(point.corner, point.celsius, {**point.parameters, name: v}) for v in axes[name]]
    elif setup.how != PICKED:
        crossed = product(setup.corners, celsius, *axes.values())
        found += [Condition(c, t, {**point.parameters, **dict(zip(names, v, strict=True))}) for c, t, *v in crossed]
    found += picked
    return tuple({key_of(one): one for one in found or [point]}.values())
