"""Wires as an n-port: port 2k - 1 at the begin of wire k, port 2k at its end, in series what it resists and holds. Charges on
wires are left out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.fields.lines.per_length import round_wire
from hearthline.core.fields.wires.inductance import mutual_inductance, self_inductance
from hearthline.core.nports.n_port import NPort

REFERENCE = 50.0


@dataclass(frozen=True)
class Wire:
    """Through points (points, 3) [m], of a radius [m] and a conductivity [S/m]."""

    points: np.ndarray
    radius: float
    conductivity: float

    @property
    def length(self) -> float:
        """[m]."""
        return float(np.linalg.norm(np.diff(self.points, axis=0), axis=1).sum())

    @property
    def resistance(self) -> float:
        """At rest [Ω]."""
        return self.length / (self.conductivity * np.pi * self.radius**2)


def inductances(wires: tuple[Wire, ...], plane: bool) -> np.ndarray:
    """Of the field outside, between wires (wires, wires) [H]; with a plane of ground at z = 0 that of their images too."""
    begins, ends = (np.vstack([one.points[part] for one in wires]) for part in (slice(None, -1), slice(1, None)))
    owner = np.concatenate([np.full(len(one.points) - 1, k) for k, one in enumerate(wires)])
    radii = np.array([wires[k].radius for k in owner])
    aside = np.where(owner[:, None] == owner, radii, 0.0)
    found = mutual_inductance(begins, ends, begins, ends, aside)
    found = 0.5 * (found + found.T)
    lengths = np.linalg.norm(ends - begins, axis=1)
    np.fill_diagonal(found, [self_inductance(length, radius) for length, radius in zip(lengths, radii, strict=True)])
    if plane:
        mirror = np.array([1.0, 1.0, -1.0])
        image = mutual_inductance(begins, ends, begins * mirror, ends * mirror, aside)
        found = found - 0.5 * (image + image.T)
    gathered = (owner[:, None] == np.arange(len(wires))).astype(float)
    return np.asarray(gathered.T @ found @ gathered)


def inside(wire: Wire, omega: np.ndarray) -> np.ndarray:
    """Impedance of what is inside of a wire at frequencies [1/s], 0 among them or not [Ω]."""
    flowing = wire.length * round_wire(wire.radius, wire.conductivity, np.maximum(omega, 1.0))
    return np.where(omega > 0, flowing, wire.resistance)


def wires_network(wires: tuple[Wire, ...], plane: bool, frequencies: np.ndarray) -> NPort:
    """At frequencies [Hz], 0 among them or not, at 50 Ω against the common terminal."""
    omega = 2.0 * np.pi * frequencies
    series = 1j * omega[:, None, None] * inductances(wires, plane)
    for k, one in enumerate(wires):
        series[:, k, k] += inside(one, omega)
    through = np.linalg.inv(series)
    way = np.kron(np.eye(len(wires)), np.array([[1.0], [-1.0]]))
    y = np.asarray(way @ through @ way.T)
    unit = np.eye(2 * len(wires))
    s = np.linalg.solve(unit + REFERENCE * y, unit - REFERENCE * y)
    s[omega <= 0] = s[omega <= 0].real
    return NPort(frequencies, s, np.full(2 * len(wires), REFERENCE + 0j))
