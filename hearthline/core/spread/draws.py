"""Numbers for the variables of samples: random, spread evenly over each variable, or over all of them together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from hashlib import sha256

import numpy as np

from hearthline.core.engine.lanes import Lanes
from hearthline.core.process.kit import Statistics
from hearthline.core.spread.variables import PROCESS, Variable

RANDOM, LATIN, SOBOL = "random", "latin", "sobol"
WAYS = (RANDOM, LATIN, SOBOL)
LARGEST_SOBOL = 21201
"""Dimensions of SciPy's direction numbers."""


@dataclass(frozen=True)
class Draws:
    """What samples deviate by, (samples,) each, as `engine.lanes.Lanes` takes it."""

    count: int
    process: Mapping[str, np.ndarray] = field(default_factory=dict)
    mismatch: Mapping[tuple[str, str], np.ndarray] = field(default_factory=dict)
    shares: Mapping[tuple[str, str], np.ndarray] = field(default_factory=dict)

    def crossed(self, lanes: Lanes) -> Lanes:
        """Every lane with every sample, the samples fastest."""
        wide = lanes.spread(celsius=np.zeros(self.count)) if self.count != 1 else lanes
        wide = replace(wide, celsius=np.repeat(lanes.celsius, self.count))

        def with_tiled(there: Mapping, table: Mapping) -> dict:
            more = {key: np.tile(values, len(lanes)) for key, values in table.items()}
            return {**there, **{key: there[key] + values if key in there else values for key, values in more.items()}}

        return replace(
            wide, process=with_tiled(wide.process, self.process), mismatch=with_tiled(wide.mismatch, self.mismatch),
            shares=with_tiled(wide.shares, self.shares),
        )  # fmt: skip


@dataclass(frozen=True)
class Space:
    """The variables of a circuit, with what makes those of the process go together: `root` (process, process)."""

    variables: tuple[Variable, ...]
    root: np.ndarray = field(default_factory=lambda: np.eye(0))

    @classmethod
    def of(cls, variables: Sequence[Variable], statistics: Statistics) -> Space:
        """Correlations are between parameters of the kit's process; its square root is taken by eigenvalues, because a
        correlation of 1 has no Cholesky factor."""
        names = list(statistics.process)
        own = [names.index(one.parameter) for one in variables if one.kind == PROCESS and not one.targets]
        if not own:
            return cls(tuple(variables))
        values, vectors = np.linalg.eigh(statistics.correlation[np.ix_(own, own)])
        return cls(tuple(variables), vectors * np.sqrt(np.maximum(values, 0.0)) @ vectors.T)

    def correlated(self, normal: np.ndarray) -> np.ndarray:
        """Independent standard normal numbers (samples, variables) as they go together."""
        count = len(self.root)
        if not count:
            return normal
        return np.hstack([normal[:, :count] @ self.root.T, normal[:, count:]])

    def draws(self, normal: np.ndarray) -> Draws:
        """The deviations of numbers (samples, variables) that go together already."""
        process: dict[str, np.ndarray] = {}
        tables: dict[bool, dict] = {False: {}, True: {}}
        for variable, numbers in zip(self.variables, normal.T, strict=True):
            deviations = variable.deviations(numbers)
            if not variable.targets:
                process[variable.parameter] = deviations
            table = tables[variable.share]
            for target in variable.targets:
                table[target] = table[target] + deviations if target in table else deviations
        return Draws(len(normal), process, tables[False], tables[True])

    def values(self, normal: np.ndarray) -> np.ndarray:
        """What a person reads of each variable (samples, variables)."""
        if not self.variables:
            return np.zeros((len(normal), 0))
        return np.column_stack([one.values(z) for one, z in zip(self.variables, normal.T, strict=True)])


def normals(count: int, names: Sequence[str], seed: int = 1, way: str = RANDOM) -> np.ndarray:
    """Standard normal numbers (count, variables); the same ones for the same seed, and the first ones of a larger count, but
    of a Latin hypercube, which is of its count. Random ones belong to a variable's name, so that a changed circuit sees the
    same numbers where it is unchanged. Raises ValueError for another way."""
    if way not in WAYS:
        raise ValueError(f"there is no way '{way}' to sample; there are {', '.join(WAYS)}")
    if not names:
        return np.zeros((count, 0))
    if way == RANDOM:
        return np.column_stack([_stream(name, seed).standard_normal(count) for name in names])
    from scipy.stats import norm, qmc  # late: most of a second

    if way == LATIN:
        points = qmc.LatinHypercube(len(names), rng=seed).random(count)
    else:
        if len(names) > LARGEST_SOBOL:
            raise ValueError(f"a Sobol sequence has at most {LARGEST_SOBOL} variables, and here are {len(names)}")
        more = int(np.ceil(np.log2(max(2, count))))
        points = qmc.Sobol(len(names), rng=seed).random_base2(more)[:count]
    return norm.ppf(np.clip(points, 1e-12, 1 - 1e-12))


def _stream(name: str, seed: int) -> np.random.Generator:
    return np.random.default_rng([seed, *sha256(name.encode()).digest()[:8]])
