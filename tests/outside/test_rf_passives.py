"""Spiral, bond wire and transistors for high frequencies of the kit, against published expressions."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.special import iv

from tests.approximation import approx
from tests.decks import solved
from tests.outside.silicon import _lib, rf_transistor, spiral

MU0 = 4e-7 * np.pi


def mohan(d: float, w: float, s: float, turns: float) -> tuple[float, float]:
    """Inductance of a square spiral [H] by the current sheet, and by the fitted monomial: Mohan et al., IEEE J. Solid-State
    Circuits 34, 1999, table II and III (from memory)."""
    inner = d - 2 * turns * w - 2 * (turns - 1) * s
    mean, fill = 0.5 * (d + inner), (d - inner) / (d + inner)
    sheet = 0.5 * MU0 * turns**2 * mean * 1.27 * (np.log(2.07 / fill) + 0.18 * fill + 0.13 * fill**2)
    u = 1e6
    monomial = 1.62e-12 * (d * u) ** -1.21 * (w * u) ** -0.147 * (mean * u) ** 2.4 * turns**1.78 * (s * u) ** -0.03
    return sheet, monomial


@pytest.mark.parametrize(
    "sizes", [(200e-6, 8e-6, 2e-6, 3.5), (140e-6, 6e-6, 3e-6, 2.5), (300e-6, 10e-6, 2e-6, 5), (160e-6, 5e-6, 2e-6, 4.5)]
)
def test_inductance_of_the_spiral(sizes):
    """Within 5 % of two other published expressions; these agree as well among themselves (their paper: 2 to 3 % typical)."""
    d, w, s, turns = sizes
    found, _, _ = spiral(d=d, w=w, s=s, turns=turns)
    for expected in mohan(*sizes):
        assert found == approx(expected, rel=0.05)


@pytest.mark.parametrize("frequency", [0.1e9, 1e9, 3e9, 10e9])
def test_skin_effect_of_the_spirals_strip(frequency):
    """Z = R z coth z of current on both faces (Wheeler 1942), 3 µm at 11 mΩ a square, in the circuit of Yue and Wong 1998 written
    here: one end held, so that the other's oxide and substrate and the turns stand across it."""
    d, w, s, turns = 200e-6, 8e-6, 2e-6, 3.5
    t = solved(
        f"{_lib('typ')}\nx1 a 0 l_spiral d={d} w={w} s={s} turns={turns}\nv1 a 0 ac 1\n.ac lin 1 {frequency} {frequency}\n"
    )
    found = -complex(t["I(v1).re"][0], t["I(v1).im"][0])
    inner = d - 2 * turns * w - 2 * (turns - 1) * s
    mean, fill, omega = 0.5 * (d + inner), (d - inner) / (d + inner), 2 * np.pi * frequency
    length = 4 * turns * mean
    resistance, late = 11e-3 * length / w, MU0 / (11e-3 * 3e-6) * (1.5e-6) ** 2
    z = np.sqrt(1j * omega * late)
    strip = resistance * z / np.tanh(z) + 1j * omega * (
        2.34 * MU0 * turns**2 * mean / (1 + 2.75 * fill) - resistance * late / 3
    )
    oxide, below = 0.5 * length * (1.06e-5 * w + 5e-11), length * w * (0.5e6 + 1j * omega * 5e-6)
    end = 1 / (1 / (1j * omega * oxide) + 1 / below)
    assert found == approx(1 / strip + 1j * omega * turns * w * w * 3.2e-5 + end, rel=2e-3)


@pytest.mark.parametrize("frequency", [1e6, 1e8, 1e9, 5e9, 20e9])
def test_a_bond_wire(frequency):
    """Rosa 1908 outside, Bessel functions inside (Ramo, Whinnery and Van Duzer); gold, 25 µm, 1 mm; its own capacitance taken off."""
    t = solved(f"{_lib('typ')}\nx1 a 0 bond_wire\nv1 a 0 ac 1\n.ac lin 1 {frequency} {frequency}\n")
    w, radius, rho = 2 * np.pi * frequency, 12.5e-6, 2.44e-8
    z = 1 / (-complex(t["I(v1).re"][0], t["I(v1).im"][0]) - 1j * w * 8e-15)
    k = np.sqrt(1j * w * MU0 / rho) * radius
    inside = rho * 1e-3 / (np.pi * radius**2) * k * iv(0, k) / (2 * iv(1, k))
    outside = 2e-7 * 1e-3 * (np.log(4e-3 / 25e-6) - 1)
    assert z.real == approx(inside.real, rel=0.01)
    assert z.imag / w == approx(outside + inside.imag / w, rel=0.002)


@pytest.mark.parametrize("overdrive", [0.1, 0.2])
def test_a_transistor_for_high_frequencies(overdrive):
    """What 130 nm has (common practice, no source): fmax 1 to 2.5 fT, least noise figure 0.3 to 0.8 dB at 2.4 GHz, an input of
    several ohms."""
    found = rf_transistor("n_rf", overdrive)
    assert 1 < found["fmax GHz"] / found["fT GHz"] < 2.5
    assert 0.3 < found["NFmin at 2.4 GHz dB"] < 0.8
    assert 5 < found["Re Zin Ω"] < 15
