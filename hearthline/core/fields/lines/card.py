"""What a designer wants to know of coupled lines at a frequency, in numbers."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from hearthline.core.constants import LIGHT
from hearthline.core.fields.lines.closed_forms import microstrip
from hearthline.core.fields.lines.per_length import PerLength
from hearthline.core.fields.lines.section import Section


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
    """Of one flat strip on one layer, and nothing else."""
    if len(section.conductors) != 1 or len(section.layers) != 1 or section.conductors[0].round:
        return None
    (strip,), (layer,) = section.conductors, section.layers
    thick = strip.high[1] - strip.low[1]
    if abs(strip.low[1] - layer.height) > 1e-9 * layer.height or thick > 0.1 * layer.height:
        return None
    return microstrip(strip.high[0] - strip.low[0], layer.height, layer.er)
