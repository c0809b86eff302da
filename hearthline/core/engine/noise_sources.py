"""All sources of noise of a circuit: what they are called, between which unknowns they act, and how strong they are."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.constants import BOLTZMANN, kelvin
from hearthline.core.engine.module import ModuleKind
from hearthline.core.engine.system import System
from hearthline.core.engine.worker import NOISE_PLACE


@dataclass(frozen=True)
class Groups:
    """Sources that are correlated among each other: `spans` (groups, 3) say where the equations of a group stand in `rows`, how
    many they are, and where its matrix begins in each row of `matrices` (frequencies, entries) [unit of the equation²/Hz]."""

    spans: np.ndarray
    rows: np.ndarray
    matrices: np.ndarray


@dataclass(frozen=True)
class NoiseSources:
    """`names` of all (`m1.channel`, `r1.thermal`), first those with `ends` (sources, 3): the unknowns that each flows between
    and its place among the noise of the kernels, or -1 where its density [A²/Hz] and exponent are in `own` (lanes, sources, 2);
    then the correlated ones, a name for a group."""

    system: System
    names: tuple[str, ...]
    ends: np.ndarray
    own: np.ndarray

    def groups(self, lane: int, frequencies: np.ndarray) -> Groups:
        """The correlated ones at frequencies [Hz]."""
        matrices = [np.zeros((len(frequencies), 0), complex)]
        spans: list[tuple[int, int, int]] = []
        rows: list[int] = []
        hot = float(kelvin(self.system.lanes.celsius)[lane])
        entry = 0
        for _, kind, node, value, *_ in self.system.instance_places:
            if kind.correlation is None:
                continue
            first = len(rows)
            values = self.system.values[lane, value : value + kind.values]
            found = kind.correlation(values, 2.0 * np.pi * frequencies, hot)
            count = found.shape[1]
            rows += self.system.nodes[node + kind.terminals : node + kind.terminals + count].tolist()
            spans.append((first, count, entry))
            matrices.append(found.reshape(len(frequencies), -1))
            entry += count * count
        return Groups(
            np.array(spans, np.int64).reshape(-1, 3),
            np.array(rows, np.int64),
            np.ascontiguousarray(np.hstack(matrices)),
        )

    def without(self, parts: frozenset[str]) -> NoiseSources:
        """The same without those of some parts; the names of the correlated ones stay."""
        kept = [k for k in range(len(self.ends)) if self.names[k].rpartition(".")[0] not in parts]
        names = (*(self.names[k] for k in kept), *self.names[len(self.ends) :])
        return NoiseSources(self.system, names, self.ends[kept], np.ascontiguousarray(self.own[:, kept]))


def noise_sources(system: System) -> NoiseSources:
    """Those of a circuit."""
    names, ends, own, groups = [], [], [], []
    nothing = np.zeros((len(system.lanes), 2))
    place = 0
    for name, kind, node, value, *_ in system.instance_places:
        nodes = system.nodes[node : node + kind.width]
        if kind.thermal is not None:
            density = nothing.copy()
            size = np.abs(system.values[:, value + kind.thermal.value])
            density[:, 0] = 4.0 * BOLTZMANN * kelvin(system.lanes.celsius_of(name)) * size
            names.append(f"{name}.thermal")
            ends.append((*(*(nodes[k] for k in kind.thermal.ends), 0)[:2], -1))
            own.append(density)
        for j, source in enumerate(kind.module.noise if isinstance(kind, ModuleKind) else ()):
            names.append(f"{name}.{source.name}")
            ends.append((*(nodes[e] if e >= 0 else 0 for e in (source.plus, source.minus)), place + j))
            own.append(nothing)
        place += kind.noise
        if kind.correlation is not None:
            groups.append(f"{name}.thermal")
    table = np.array(ends, np.int64).reshape(-1, 3)
    densities = np.array(own).reshape(len(own), len(system.lanes), 2).transpose(1, 0, 2)
    return NoiseSources(system, (*names, *groups), table, np.ascontiguousarray(densities))


def noise_count(system: System) -> int:
    """About how many sources of noise there are."""
    return int(system.places[-1] - system.places[NOISE_PLACE]) // 2


def noise_names(system: System, without: frozenset[str] = frozenset()) -> tuple[str, ...]:
    """Every contributor but those of some parts: `m1.channel`, `r1.thermal`."""
    return noise_sources(system).without(without).names
