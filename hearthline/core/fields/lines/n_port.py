"""Coupled lines of some length as an n-port: in their own modes, each of which is a wave of its own."""

from __future__ import annotations

import numpy as np

from hearthline.core.fields.lines.per_length import PerLength
from hearthline.core.nports.n_port import NPort

REFERENCE = 50.0
STILL = 1e-3
"""Of the lowest frequency, the one that stands in for 0 Hz: there nothing leaks, and resistance alone is left."""


def line_network(found: PerLength, frequencies: np.ndarray) -> NPort:
    """Between the near ends, numbered 1 to n as the lines are, and the far ends behind them, at 50 Ω against ground."""
    length, count = found.section.length, len(found.capacitance)
    near_rest = float(frequencies[frequencies > 0].min()) * STILL
    used = np.where(frequencies > 0, frequencies, near_rest)
    series, across = found.impedance(used), found.admittance(used)
    squares, ways = np.linalg.eig(series @ across)
    gamma = np.sqrt(squares)
    gamma = np.where(gamma.real < 0, -gamma, gamma)
    back = np.linalg.inv(ways)
    admittance = np.linalg.solve(series, (ways * gamma[:, None, :]) @ back)  # of waves one way
    far = np.exp(-gamma * length)
    own = (ways * ((1.0 + far**2) / (1.0 - far**2))[:, None, :]) @ back
    other = (ways * (-2.0 * far / (1.0 - far**2))[:, None, :]) @ back
    y = np.empty((len(used), 2 * count, 2 * count), complex)
    y[:, :count, :count] = y[:, count:, count:] = admittance @ own
    y[:, :count, count:] = y[:, count:, :count] = admittance @ other
    one = np.eye(2 * count)
    s = np.linalg.solve(one + REFERENCE * y, one - REFERENCE * y)
    rest = frequencies <= 0
    s[rest] = s[rest].real
    return NPort(frequencies, s, np.full(2 * count, REFERENCE + 0j))
