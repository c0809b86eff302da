"""Circles of two-ports: every point of them has what they are said to be of, by the definitions written here."""

from __future__ import annotations

import numpy as np
import pytest

from hearthline.core.data.circles import LOAD, SOURCE, gain_circles, noise_circles, stability_circle, target_circle
from hearthline.core.data.plane import Reflection, reflections
from tests.approximation import approx


def polar(size: float, degrees: float) -> complex:
    return size * np.exp(1j * np.radians(degrees))


STABLE = np.array([[polar(0.72, -116), polar(0.03, 57)], [polar(2.60, 76), polar(0.73, -54)]])
UNSTABLE = np.array([[polar(0.894, -60.6), polar(0.020, 62.4)], [polar(3.122, 123.6), polar(0.781, -27.6)]])
ROUND = np.exp(2j * np.pi * np.arange(8) / 8)


def other_end(s: np.ndarray, gamma: complex, side: int) -> complex:
    """What the other port reflects with that termination."""
    m = s if side == SOURCE else s[::-1, ::-1]
    return m[1, 1] + m[0, 1] * m[1, 0] * gamma / (1 - m[0, 0] * gamma)


@pytest.mark.parametrize("side", [SOURCE, LOAD])
@pytest.mark.parametrize("s", [STABLE, UNSTABLE])
def test_on_a_circle_of_stability_the_other_end_reflects_all(s, side):
    """|Γ| = 1 on it, above 1 on the side that it names."""
    circle = stability_circle(s, side)
    for turn in ROUND:
        assert abs(other_end(s, circle.center + circle.radius * turn, side)) == approx(1, rel=1e-9)
        inside = abs(other_end(s, circle.center + 0.99 * circle.radius * turn, side)) > 1
        assert inside == circle.inside


def test_a_worked_circle_of_stability():
    """Pozar, example 12.2 (from memory): load 1.363 at 46.7°, radius 0.50; source 1.132 at 68.5°, radius 0.199."""
    load, source = stability_circle(UNSTABLE, LOAD), stability_circle(UNSTABLE, SOURCE)
    assert load.center == approx(polar(1.363, 46.7), rel=5e-3)
    assert load.radius == approx(0.50, rel=5e-3)
    assert source.center == approx(polar(1.132, 68.5), rel=5e-3)
    assert source.radius == approx(0.199, rel=5e-3)


@pytest.mark.parametrize("side", [SOURCE, LOAD])
@pytest.mark.parametrize("back", [1.0, 0.0])
def test_on_a_circle_of_gain_it_is_what_it_says(side, back):
    """Available gain of a source, operating gain of a load, with and without a way back."""
    s = STABLE * np.array([[1, back], [1, 1]])
    for circle in gain_circles(s, side):
        for turn in ROUND:
            g = circle.center + circle.radius * turn
            if side == SOURCE:
                gain = (
                    abs(s[1, 0]) ** 2
                    * (1 - abs(g) ** 2)
                    / (abs(1 - s[0, 0] * g) ** 2 * (1 - abs(other_end(s, g, side)) ** 2))
                )
            else:
                gain = (
                    abs(s[1, 0]) ** 2
                    * (1 - abs(g) ** 2)
                    / (abs(1 - s[1, 1] * g) ** 2 * (1 - abs(other_end(s, g, side)) ** 2))
                )
            assert 10 * np.log10(gain) == approx(float(circle.label.split()[0]), abs=0.051)


def test_on_a_circle_of_noise_it_is_what_it_says():
    """F = Fmin + 4 rn |Γ - Γopt|² / ((1 - |Γ|²) |1 + Γopt|²)."""
    least, best, rn = 10**0.16, polar(0.62, 100), 20.0
    for circle in noise_circles(least, best, rn, 50.0)[1:]:
        for turn in ROUND:
            g = circle.center + circle.radius * turn
            factor = least + 4 * rn / 50 * abs(g - best) ** 2 / ((1 - abs(g) ** 2) * abs(1 + best) ** 2)
            assert 10 * np.log10(factor) == approx(float(circle.label.split()[0]), abs=0.0051)


def test_a_target_is_as_far_as_it_says():
    """|(Z - W)/(Z + W*)| on it."""
    wanted = 30 + 20j
    circle = target_circle(wanted, 0.2)
    for turn in ROUND:
        z = Reflection(circle.center + circle.radius * turn).impedance
        assert abs((z - wanted) / (z + np.conj(wanted))) == approx(0.2, rel=1e-9)


def test_what_a_reflection_says():
    """A third: 100 Ω, a standing-wave ratio of 2, 0.51 dB lost; and Kurokawa's against a complex impedance."""
    one = Reflection(1 / 3)
    assert one.impedance == approx(100.0)
    assert one.admittance == approx(0.01)
    assert one.standing_wave_ratio == approx(2.0)
    assert one.mismatch_loss == approx(0.5115, rel=1e-3)
    z, against = 30 - 12j, 40 + 10j
    assert Reflection((z - np.conj(against)) / (z + against), against).impedance == approx(z, rel=1e-12)
    assert list(reflections(np.array([50.0, 100.0]), "Ω")) == approx([0.0, 1 / 3])
    assert list(reflections(np.array([0.02, 0.01]), "S")) == approx([0.0, 1 / 3])
