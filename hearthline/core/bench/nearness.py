"""Where a circuit wants to oscillate: every transistor's terminals, by how near the loop gain through each comes to -1 over all
conditions and frequencies, and how many poles grow.

By the loop gain and not by the product of the reflections: that one depends on what it is normalised to, and comes near to 1 at
every two open ends.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from hearthline.core.bench.snapshot import Snapshot
from hearthline.core.spread.pvt import Condition

if TYPE_CHECKING:  # the engine is loaded when something is asked
    from hearthline.core.engine.look import Looked
    from hearthline.core.engine.solve import Tolerances
    from hearthline.core.engine.system import System

LOW, HIGH, POINTS = 1e6, 30e9, 20
"""[Hz] Over which it is looked, and points a decade."""
AGAIN, AROUND, MOST_PLACES = 17, 1.13, 8
"""A second time about the nearest places: points, up to which factor aside, and how many places."""
FAR = 1.0
"""Distance from a critical point from which on a terminal is cold."""
CARRIED = 6
"""Terminals of which it is said what carries the loop."""
HOT = 0.03
"""And up to which it is as warm as can be."""


@dataclass(frozen=True)
class Near:
    """A terminal (`x1.m4.g`): the least distance of its bilateral loop gain from -1, at which frequency [Hz] and condition.
    Where the circuit is not stable and the loop gain goes round beyond -1, it is `beyond`, and the frequency is where. With
    n-ports about, `carrier` says which of their couplings closes the loop."""

    terminal: str
    distance: float
    frequency: float
    condition: Condition
    beyond: bool = False
    carrier: str = ""

    @property
    def heat(self) -> float:
        """From 0, far away, to 1."""
        if self.beyond or not self.distance > 0:
            return 1.0
        return float(np.clip(np.log(FAR / self.distance) / np.log(FAR / HOT), 0.0, 1.0))

    @property
    def rank(self) -> tuple[bool, float]:
        """The worst first."""
        return not self.beyond, self.distance


@dataclass(frozen=True)
class Nearness:
    """All terminals, the nearest first, and the poles that grow at each condition (-1 where that is not known)."""

    terminals: tuple[Near, ...]
    poles: tuple[tuple[Condition, int], ...]

    @property
    def growing(self) -> tuple[tuple[Condition, int], ...]:
        """Conditions in which the circuit is not stable."""
        return tuple(one for one in self.poles if one[1] > 0)


def nearness(snapshot: Snapshot, conditions: tuple[Condition, ...] = ()) -> Nearness:
    """At all conditions of the bench, or at some. Raises HearthlineError for a circuit that is wrong."""
    from hearthline.core.engine.stability import stability

    circuit, wanted = snapshot.circuit, conditions or snapshot.conditions()
    frequencies = np.geomspace(LOW, HIGH, round(POINTS * np.log10(HIGH / LOW)) + 1)
    best: dict[str, Near] = {}
    poles: dict[int, int] = {}
    for netlist, places in circuit.parts(wanted):
        some = wanted if len(places) == len(wanted) else tuple(wanted[k] for k in places)
        system = circuit.system(netlist, circuit.lanes(some))
        turned = stability(system, frequencies, circuit.tolerances)
        counts = np.where(np.isfinite(turned.turns[:, -1]), turned.turns[:, -1], -1).astype(int)
        poles |= {place: int(count) for place, count in zip(places, counts, strict=True)}
        for one in _of_all(system, frequencies, circuit.tolerances, some, counts > 0):
            if one.terminal not in best or one.rank < best[one.terminal].rank:
                best[one.terminal] = one
    ranked = sorted(best.values(), key=lambda one: one.rank)
    ranked[:CARRIED] = [_with_carrier(snapshot, one) for one in ranked[:CARRIED]]
    return Nearness(tuple(ranked), tuple((one, poles[k]) for k, one in enumerate(wanted)))


def _with_carrier(snapshot: Snapshot, near: Near) -> Near:
    """With what carries its loop."""
    from hearthline.core.bench.couplings import carrier

    found = carrier(snapshot, near.condition, near.frequency)
    return near if found is None else replace(near, carrier=found.words)


def _of_all(
    system: System, frequencies: np.ndarray, tolerances: Tolerances, conditions: tuple[Condition, ...], growing: np.ndarray
) -> Iterator[Near]:  # fmt: skip
    """Every transistor's terminals, and a second time at closer frequencies about where they come nearest."""
    from hearthline.core.engine.connection import all_connections
    from hearthline.core.engine.look import looks
    from hearthline.core.engine.stability import sharp_frequencies

    connections = [one for one in all_connections(system) if one.net]
    if not connections:
        return
    sharp = sharp_frequencies(system)
    inside = sharp[(sharp > frequencies[0]) & (sharp < frequencies[-1])]
    frequencies = np.unique(np.concatenate([frequencies, inside]))
    first = list(_nearest(looks(system, connections, frequencies, tolerances), conditions, growing))
    yield from first
    centers = list(dict.fromkeys(one.frequency for one in sorted(first, key=lambda one: one.rank)))[:MOST_PLACES]
    aside = np.geomspace(1.0 / AROUND, AROUND, AGAIN)
    closer = np.unique(np.concatenate([center * aside for center in centers] or [frequencies]))
    yield from _nearest(looks(system, connections, closer, tolerances), conditions, growing)


def _nearest(seen: Looked, conditions: tuple[Condition, ...], growing: np.ndarray) -> Iterator[Near]:
    for connection, rows in zip(seen.connections, seen.loop, strict=True):
        away = np.where(np.isfinite(rows), np.abs(1.0 + rows), np.inf)
        lane, k = np.unravel_index(int(np.argmin(away)), away.shape)
        if np.isfinite(away[lane, k]):
            yield Near(connection.name, float(away[lane, k]), float(seen.frequencies[k]), conditions[lane])
        for here in np.flatnonzero(growing):
            at = _beyond(rows[here])
            if at >= 0:
                yield Near(connection.name, float(away[here, at]), float(seen.frequencies[at]), conditions[here], True)


def _beyond(loop: np.ndarray) -> int:
    """Where a loop gain crosses the real axis to the left of -1, or -1."""
    with np.errstate(invalid="ignore"):
        crosses = loop.imag[:-1] * loop.imag[1:] < 0
        share = loop.imag[:-1] / (loop.imag[:-1] - loop.imag[1:])
        real = loop.real[:-1] + share * (loop.real[1:] - loop.real[:-1])
        found = np.flatnonzero(crosses & (real < -1.0))
    return int(found[0]) if len(found) else -1
