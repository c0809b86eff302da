"""Circles of a two-port in the plane of the source's or the load's reflection, at the ports' own, real impedances: where it is
on the edge of stability, where its gain is so much, where its noise factor is so much. S is (2, 2).

Gonzalez, Microwave Transistor Amplifiers, 1997; Pozar, Microwave Engineering, chapter 12: the same equations, from memory. The
source's plane is that of port 1, the load's that of port 2, which is the same with the ports exchanged.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from hearthline.core.data.two_port import delta, largest_gain, stability_factor

SOURCE, LOAD = 1, 2
GAIN_STEPS = (1.0, 2.0, 3.0)
"""[dB] Below the largest gain."""
NOISE_STEPS = (0.25, 0.5, 1.0)
"""[dB] Above the least noise figure."""


@dataclass(frozen=True)
class Circle:
    """`kind` is stability, gain or noise; `label` says which. Of a circle of stability `inside` tells whether the unstable
    reflections are those inside."""

    kind: str
    center: complex
    radius: float
    label: str = ""
    inside: bool = True


def _seen_from(s: np.ndarray, side: int) -> np.ndarray:
    """S with the port of that side as port 1."""
    return s if side == SOURCE else s[::-1, ::-1]


def stability_circle(s: np.ndarray, side: int) -> Circle | None:
    """Reflections at that side for which the other port reflects everything; None where nothing comes through and back."""
    m = _seen_from(s, side)
    d, below = delta(m), abs(m[0, 0]) ** 2 - abs(delta(m)) ** 2
    if below == 0 or m[0, 1] * m[1, 0] == 0:
        return None
    center = (m[0, 0] - d * np.conj(m[1, 1])).conjugate() / below
    radius = abs(m[0, 1] * m[1, 0] / below)
    middle_inside = abs(center) < radius
    stable_middle = abs(m[1, 1]) < 1
    return Circle("stability", complex(center), float(radius), "stability", bool(middle_inside != stable_middle))


def gain_circles(s: np.ndarray, side: int, steps: tuple[float, ...] = GAIN_STEPS) -> list[Circle]:
    """Available gain over the source, or operating power gain over the load, steps [dB] below the largest."""
    m = _seen_from(s, side)
    k, loop, d = float(stability_factor(m)), abs(m[0, 1] * m[1, 0]), delta(m)
    through = abs(s[1, 0]) ** 2
    if through == 0:
        return []
    most = float(largest_gain(s))
    c = m[0, 0] - d * np.conj(m[1, 1])
    found = []
    for step in steps:
        g = most * 10 ** (-step / 10) / through
        below = 1 + g * (abs(m[0, 0]) ** 2 - abs(d) ** 2)
        inner = 1 - 2 * k * g * loop + (g * loop) ** 2 if loop else 1 - g * _one_way(m)
        if below == 0 or inner < 0:
            continue
        center, radius = g * np.conj(c) / below, np.sqrt(inner) / abs(below)
        found.append(Circle("gain", complex(center), float(radius), f"{10 * np.log10(g * through):.1f} dB"))
    return found


def _one_way(m: np.ndarray) -> float:
    """2 K |S12 S21| where that is nothing times infinity."""
    return float(1 - abs(m[0, 0]) ** 2 - abs(m[1, 1]) ** 2 + abs(delta(m)) ** 2)


def noise_circles(
    least: float, optimum: complex, resistance: float, impedance: float, steps: tuple[float, ...] = NOISE_STEPS
) -> list[Circle]:
    """Source reflections of the same noise factor, steps [dB] above the least one (a ratio); `resistance` is Rn [Ω]."""
    found = [Circle("noise", complex(optimum), 0.0, f"{10 * np.log10(least):.2f} dB")]
    if resistance <= 0:
        return found
    for step in steps:
        factor = least * 10 ** (step / 10)
        n = (factor - least) * abs(1 + optimum) ** 2 * impedance / (4 * resistance)
        radius = np.sqrt(n * (n + 1 - abs(optimum) ** 2)) / (1 + n)
        found.append(Circle("noise", complex(optimum / (1 + n)), float(radius), f"{10 * np.log10(factor):.2f} dB"))
    return found


def target_circle(wanted: complex, away: float, impedance: float = 50.0) -> Circle:
    """Reflections against a real impedance whose impedances are at most `away` from a wanted one: |(Z - W)/(Z + W*)| = away."""
    points = np.exp(2j * np.pi * np.arange(3) / 3) * away
    z = (wanted + points * np.conj(wanted)) / (1 - points)
    a, b, c = (z - impedance) / (z + impedance)
    # through three points
    w = (c - a) / (b - a)
    center = (b - a) * (w - abs(w) ** 2) / (2j * w.imag) + a
    return Circle("target", complex(center), float(abs(a - center)), "")
