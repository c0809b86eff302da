"""Networks that make one impedance look like another at a frequency: L, pi and T of ideal reactances.

The two L forms by their quadratic equations (Pozar, Microwave Engineering, section 5.1); pi and T as two of them by way of a
resistance below, or above, both (common practice, no source).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

SERIES, SHUNT = "series", "shunt"
INDUCTOR, CAPACITOR = "L", "C"
AWAY = (0.5, 0.25)
"""Of the smaller resistance, by way of which pi networks go; of one over the larger, T networks."""
NOTHING = 1e-6
"""Of a reactance beside the impedances, that needs no part."""


@dataclass(frozen=True)
class Branch:
    """One part: in `series` or as a `shunt`, an inductor [H] or a capacitor [F]."""

    way: str
    part: str
    value: float

    def impedance(self, omega: np.ndarray | float) -> np.ndarray:
        """Of the ideal part [Ω]."""
        reactive = 1j * np.asarray(omega) * self.value
        return reactive if self.part == INDUCTOR else np.asarray(1.0 / reactive)


@dataclass(frozen=True)
class Network:
    """Parts in their order from the load on, and which form they make."""

    form: str
    branches: tuple[Branch, ...]

    @property
    def words(self) -> str:
        """`series C, shunt L`, from the load on."""
        return ", ".join(f"{one.way} {one.part}" for one in self.branches)

    def seen(self, load: np.ndarray, omega: np.ndarray | float) -> np.ndarray:
        """The impedance in front of it, with ideal parts."""
        z = load
        for one in self.branches:
            z = z + one.impedance(omega) if one.way == SERIES else 1.0 / (1.0 / z + 1.0 / one.impedance(omega))
        return z


def networks(load: complex, wanted: complex, frequency: float) -> list[Network]:
    """All of them at a frequency [Hz], L first. Raises ValueError for an impedance without a positive real part."""
    for z, what in ((load, "that is to be matched"), (wanted, "that is wanted")):
        if not (np.isfinite(z) and z.real > 0):
            raise ValueError(f"the impedance {what} must have a real part above 0 Ω, and is {z:.4g} Ω")
    omega = 2.0 * np.pi * frequency
    found = [("L", steps) for steps in _ells(load, wanted)]
    below, above = min(load.real, wanted.real), max(1.0 / (1.0 / load).real, 1.0 / (1.0 / wanted).real)
    for share in AWAY:
        found += [
            ("pi", a + b) for a in _shunt_first(load, below * share) for b in _series_first(below * share, wanted)
        ]
        found += [("T", a + b) for a in _series_first(load, above / share) for b in _shunt_first(above / share, wanted)]
    made = (Network(form, tuple(_parts(steps, omega, min(load.real, wanted.real)))) for form, steps in found)
    return list(dict.fromkeys(one for one in made if one.branches))


Steps = list[tuple[str, float]]
"""Series reactances [Ω] and shunt susceptances [S] from the load on."""


def _ells(load: complex, wanted: complex) -> Iterator[Steps]:
    yield from _shunt_first(load, wanted)
    yield from _series_first(load, wanted)


def _shunt_first(load: complex, wanted: complex) -> list[Steps]:
    """A susceptance across the load, then a reactance."""
    y = 1.0 / complex(load)
    square = y.real / complex(wanted).real - y.real**2
    if square < 0:
        return []
    found = []
    for b in dict.fromkeys((np.sqrt(square), -np.sqrt(square))):
        z = 1.0 / complex(y.real, b)
        found.append([(SHUNT, b - y.imag), (SERIES, complex(wanted).imag - z.imag)])
    return found


def _series_first(load: complex, wanted: complex) -> list[Steps]:
    """A reactance in series with the load, then a susceptance."""
    y = 1.0 / complex(wanted)
    square = complex(load).real / y.real - complex(load).real ** 2
    if square < 0:
        return []
    found = []
    for x in dict.fromkeys((np.sqrt(square), -np.sqrt(square))):
        there = 1.0 / complex(complex(load).real, x)
        found.append([(SERIES, x - complex(load).imag), (SHUNT, y.imag - there.imag)])
    return found


def _parts(steps: Steps, omega: float, scale: float) -> Iterator[Branch]:
    """As inductors and capacitors, neighbours of a kind in one."""
    joined: Steps = []
    for way, value in steps:
        if joined and joined[-1][0] == way:
            value += joined.pop()[1]
        joined.append((way, value))
    for way, value in joined:
        if abs(value) * (1.0 / scale if way == SERIES else scale) < NOTHING:
            continue
        if way == SERIES:
            yield Branch(way, INDUCTOR, value / omega) if value > 0 else Branch(way, CAPACITOR, -1.0 / (omega * value))
        else:
            yield Branch(way, CAPACITOR, value / omega) if value > 0 else Branch(way, INDUCTOR, -1.0 / (omega * value))
