"""What a designer wants to know of coupled lines at a frequency, in numbers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from hearthline.core.constants import LIGHT
from hearthline.core.fields.lines.closed_forms import coplanar, microstrip
from hearthline.core.fields.lines.per_length import PerLength
from hearthline.core.fields.lines.section import Conductor, Section

WIDE = 2.0
"""Of a strip's width, grounds beside it that count as wide."""


@dataclass(frozen=True)
class Wave:
    """One of the waves that lines carry: what the voltages of the lines are in it, the largest 1, its impedance on each line
    [Ω], effective permittivity, and loss [dB/m]."""

    shape: np.ndarray
    impedance: np.ndarray
    effective: float
    loss: float


@dataclass(frozen=True)
class Card:
    """Matrices per length by name (lines, lines) in SI units, the waves, and what a closed form says of a single strip:
    impedance and effective permittivity."""

    frequency: float
    matrices: Mapping[str, np.ndarray]
    waves: tuple[Wave, ...]
    closed: tuple[float, float] | None


def card(found: PerLength, frequency: float) -> Card:
    """At a frequency [Hz]."""
    omega = 2.0 * np.pi * frequency
    series, across = found.impedance(np.array([frequency]))[0], found.admittance(np.array([frequency]))[0]
    matrices = {"C": across.imag / omega, "L": series.imag / omega, "R": series.real, "G": across.real}
    squares, ways = np.linalg.eig(series @ across)
    gamma = np.sqrt(squares)
    gamma = np.where(gamma.real < 0, -gamma, gamma)
    waves = []
    for k in np.argsort(-gamma.imag):
        shape = ways[:, k] / ways[np.argmax(np.abs(ways[:, k])), k]
        currents = np.linalg.solve(series, gamma[k] * shape)
        with np.errstate(divide="ignore", invalid="ignore"):
            impedance = np.real(shape / currents)
        effective = float((gamma[k].imag * LIGHT / omega) ** 2)
        waves.append(Wave(np.real(shape), impedance, effective, float(20.0 / np.log(10.0) * gamma[k].real)))
    return Card(frequency, matrices, tuple(waves), _closed(found.section))


def _closed(section: Section) -> tuple[float, float] | None:
    """Of one flat strip on one layer, alone or between two wide grounds beside it."""
    if (
        len(section.layers) != 1
        or len(section.lines) != 1
        or not all(_flat(section, one) for one in section.conductors)
    ):
        return None
    (layer,), strip = section.layers, section.conductors[section.lines[0]]
    width = strip.high[0] - strip.low[0]
    grounds = sorted(one for one in ((g.low[0], g.high[0]) for g in section.conductors if g.ground))
    if not grounds:
        return microstrip(width, layer.height, layer.er)
    if len(grounds) != 2 or min(b - a for a, b in grounds) < WIDE * width:
        return None
    left, right = strip.low[0] - grounds[0][1], grounds[1][0] - strip.high[0]
    if min(left, right) <= 0 or abs(left - right) > 1e-6 * width:
        return None
    return coplanar(width, left, layer.height, layer.er)


def _flat(section: Section, one: Conductor) -> bool:
    """Whether a conductor is a thin strip on the layer."""
    height = section.layers[0].height
    thick = one.high[1] - one.low[1]
    return not one.round and abs(one.low[1] - height) < 1e-9 * height and thick < 0.1 * height
