"""Matching networks made of a kit's parts, with what they lose and over which band they hold."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.data.plane import reflections
from hearthline.core.matching.networks import SERIES, Network, networks
from hearthline.core.matching.passives import Passives, Sized
from hearthline.core.nports.conversions import converted
from hearthline.core.process.kit import ProcessKit

BAND, POINTS = 0.6, 121
"""Of the frequency to either side, that is looked at."""
ENOUGH = 0.3162
"""Reflection against the wanted impedance up to which it is matched: 10 dB."""
STEPS = 24
"""Points of the way along each part."""


@dataclass(frozen=True)
class Proposal:
    """`parts` in the order of the network's branches. `loss` [dB] at the frequency between matched ends, `reflection` there
    against the wanted impedance, `band` [Hz] over which it stays below 10 dB; `way` are reflections against 50 Ω from the load
    to what is wanted, with ideal parts."""

    network: Network
    parts: tuple[Sized, ...]
    loss: float
    reflection: float
    band: float
    way: np.ndarray


def proposals(kit: ProcessKit, load: complex, wanted: complex, frequency: float) -> list[Proposal]:
    """All networks with the kit's parts, the one that loses least first. Raises ValueError for an impedance that cannot be
    matched, HearthlineError where a part cannot be solved."""
    passives = Passives(kit, frequency)
    frequencies = frequency * np.linspace(1.0 - BAND, 1.0 + BAND, POINTS)
    found = [_proposal(one, passives, load, wanted, frequencies) for one in networks(load, wanted, frequency)]
    return sorted(found, key=lambda one: (one.reflection > ENOUGH, one.loss))


def _proposal(
    network: Network, passives: Passives, load: complex, wanted: complex, frequencies: np.ndarray
) -> Proposal:
    parts = tuple(passives.sized(one.part, one.value) for one in network.branches)
    chain = np.broadcast_to(np.eye(2, dtype=complex), (len(frequencies), 2, 2))
    for branch, part in zip(
        network.branches, parts, strict=True
    ):  # the load is at its port 2, the last branch at port 1
        y = passives.two_port(part, frequencies)
        chain = (_series(y) if branch.way == SERIES else _shunt(y)) @ chain
    seen = (chain[:, 0, 0] * load + chain[:, 0, 1]) / (chain[:, 1, 0] * load + chain[:, 1, 1])
    away = np.abs((seen - wanted) / (seen + np.conj(wanted)))
    middle = len(frequencies) // 2
    return Proposal(
        network, parts, _loss(chain[middle], load, complex(seen[middle])), float(away[middle]),
        _band(frequencies, away), _way(network, load, frequencies[middle]),
    )  # fmt: skip


def _series(y: np.ndarray) -> np.ndarray:
    """ABCD of a part between two nets."""
    return np.asarray(converted(y, "Y", "ABCD"))


def _shunt(y: np.ndarray) -> np.ndarray:
    """ABCD of a part whose other end is on ground."""
    made = np.broadcast_to(np.eye(2, dtype=complex), y.shape).copy()
    made[:, 1, 0] = y[:, 0, 0]
    return made


def _loss(chain: np.ndarray, load: complex, seen: complex) -> float:
    """Power in over power into the load [dB]: what a mismatch reflects is not counted."""
    current = 1.0 / (chain[1, 0] * load + chain[1, 1])  # into the load for 1 A in
    return float(10.0 * np.log10(seen.real / (abs(current) ** 2 * load.real)))


def _band(frequencies: np.ndarray, away: np.ndarray) -> float:
    """About the middle, straight between points; as far as was looked."""
    middle = len(frequencies) // 2
    if away[middle] > ENOUGH:
        return 0.0
    ends = []
    for step in (-1, 1):
        k = middle
        while 0 < k < len(frequencies) - 1 and away[k + step] <= ENOUGH:
            k += step
        ends.append(frequencies[k])
    return float(ends[1] - ends[0])


def _way(network: Network, load: complex, frequency: float) -> np.ndarray:
    """Along each part as it grows from nothing to its value."""
    omega, z, points = 2.0 * np.pi * frequency, complex(load), [complex(load)]
    for one in network.branches:
        own = complex(one.impedance(omega))
        for share in np.linspace(0.0, 1.0, STEPS)[1:]:
            points.append(z + share * own if one.way == SERIES else 1.0 / (1.0 / z + share / own))
        z = points[-1]
    return reflections(np.array(points), "Ω")
