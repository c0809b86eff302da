"""Statistical samples: what is common to a chip, and what makes two equal devices differ, as lanes.

Mismatch follows Pelgrom, Duinmaijer and Welbers, IEEE J. Solid-State Circuits 24, 1989: the difference of two equal devices
has a standard deviation of a coefficient A over the root of the area of one, so one device A / sqrt(2 W L).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from hearthline.core.circuit.netlist import Element, Netlist
from hearthline.core.engine.lanes import Lanes
from hearthline.core.engine.parameters import Environment
from hearthline.core.errors import CircuitError, ExpressionError
from hearthline.core.process.kit import Statistics
from hearthline.core.spread.pvt import Condition

WAYS = ("random", "latin", "sobol")
BY_MULTIPLES = {"Q", "D"}
"""Kinds of parts whose size is a multiple of the model's area."""


@dataclass(frozen=True)
class Sampling:
    """How many samples, from which seed, spread how (`random`, `latin` hypercube, `sobol`), and of what."""

    count: int
    seed: int = 1
    way: str = "random"
    process: bool = True
    mismatch: bool = True


def sampled(netlist: Netlist, statistics: Statistics, sampling: Sampling, at: Condition) -> Lanes:
    """One lane for each sample, all at one condition. Equal seeds give equal samples.

    Raises CircuitError for a device whose area is not known.
    """
    process = list(statistics.process.items()) if sampling.process else []
    local = list(_local(netlist, statistics, at)) if sampling.mismatch else []
    normal = _normal(sampling, len(process) + len(local))
    normal[:, : len(process)] = normal[:, : len(process)] @ _root_of(statistics, process).T
    columns = iter(normal.T)
    count = sampling.count
    return Lanes(
        (at.corner,) * count, np.full(count, at.celsius),
        {name: np.full(count, value) for name, value in at.parameters.items()}, {},
        {name: sigma * next(columns) for name, sigma in process},
        {key: sigma * next(columns) for key, sigma in local},
    )  # fmt: skip


def _local(netlist: Netlist, statistics: Statistics, at: Condition) -> Iterator[tuple]:
    """Each parameter of each device that differs, with its standard deviation."""
    environment = Environment(at.parameters, at.celsius)
    for element in netlist.elements:
        for parameter, coefficient in statistics.mismatch.get(element.model, {}).items():
            yield (element.name, parameter), coefficient / np.sqrt(2.0 * _area(element, environment))


def _area(element: Element, environment: Environment) -> float:
    """Width times length of all devices in parallel [m²]; of bipolars and diodes the multiple of the model's area."""
    found = 1.0
    for name in ("area", "m") if element.kind in BY_MULTIPLES else ("w", "l", "m"):
        expression = element.values.get(name)
        if expression is None:
            if name in ("area", "m"):
                continue
            raise CircuitError(
                f"{element.name}: its {name} is not given, so its mismatch is not known", part=element.name
            )
        try:
            found *= float(environment.value(expression, element.scope))
        except ExpressionError as error:
            raise CircuitError(f"{element.name}: {name}: {error}", part=element.name) from None
    return found


def _root_of(statistics: Statistics, process: list[tuple[str, float]]) -> np.ndarray:
    """What makes numbers that go together as they should of independent ones: the root of the correlation, by its
    eigenvalues, because a correlation of 1 has no Cholesky factor."""
    if not process:
        return np.eye(0)
    values, vectors = np.linalg.eigh(statistics.correlation)
    return vectors * np.sqrt(np.maximum(values, 0.0)) @ vectors.T


def _normal(sampling: Sampling, dimensions: int) -> np.ndarray:
    """Standard normal numbers (count, dimensions)."""
    if sampling.way not in WAYS:
        raise ValueError(f"there is no way '{sampling.way}' to sample; there are {', '.join(WAYS)}")
    shape = (sampling.count, dimensions)
    if sampling.way == "random" or not dimensions:
        return np.random.default_rng(sampling.seed).standard_normal(shape)
    from scipy.stats import norm, qmc  # late: most of a second

    if sampling.way == "latin":
        points = qmc.LatinHypercube(dimensions, rng=sampling.seed).random(sampling.count)
    else:
        more = int(np.ceil(np.log2(max(2, sampling.count))))
        points = qmc.Sobol(dimensions, rng=sampling.seed).random_base2(more)[: sampling.count]
    return norm.ppf(np.clip(points, 1e-12, 1 - 1e-12))
