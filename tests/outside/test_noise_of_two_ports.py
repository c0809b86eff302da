"""Noise of whole two-ports: attenuators, lines with losses, and the four noise parameters."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.constants import k

from tests.approximation import approx
from tests.decks import solved

T0 = 290.0


def noise_factor(network: str, source: str = "rs s a 50", frequency: float = 1e9) -> float:
    """Output noise over that of the source resistor alone, everything at 290 K."""
    deck = f"v1 s 0 ac 1\n{source}\n{network}\n.temp {T0 - 273.15}\n.noise v(b) v1 lin 1 {frequency} {frequency}\n"
    table = solved(deck)
    return float((table["output_noise"] / table["rs.thermal"])[0] ** 2)


@pytest.mark.parametrize("decibels", [1.0, 3.0, 10.0])
def test_a_matched_attenuator_at_290_kelvin_has_its_loss_as_noise_factor(decibels):
    """A pi pad of 50 Ω (Pozar: F = L at T0): the load's own noise left out."""
    a = 10 ** (decibels / 20)
    shunt, series = 50 * (a + 1) / (a - 1), 50 * (a * a - 1) / (2 * a)
    pad = f"ra a 0 {shunt}\nrb a b {series}\nrc b 0 {shunt}\n"
    assert noise_factor(pad) == approx(a * a, rel=1e-9)


def test_a_line_with_losses_is_an_attenuator_too():
    """Its resistance and its conductance make noise: distortionless line (R/L = G/C), F = exp(2 α len), within 0.2 %."""
    r, g, length = 20.0, 20.0 / 2500, 1.2
    line = f"t1 a 0 b 0 l=250n c=100p r={r} g={g} len={length}\n"
    assert noise_factor(line, frequency=1e7) == approx(np.exp(2 * r / 50 * length), rel=2e-3)


def test_the_conductance_of_a_line_makes_nyquists_noise():
    """At low frequencies the line is a resistor 1/(G len) across a net that 1 kΩ feeds."""
    table = solved("v1 s 0 ac 1\nrs s a 1k\nt1 a 0 b 0 l=250n c=100p g=2m len=0.5\n.noise v(b) v1 lin 1 1 1\n")
    assert table["output_noise"][0] ** 2 == approx(4 * k * 300.15 * 500, rel=1e-6)


def test_noise_factor_follows_rothe_and_dahlke():
    """F = Fmin + Rn/Gs |Ys - Yopt|² (Rothe and Dahlke 1956): four source admittances tell its constants, and the fifth to eighth
    obey them; by the channel noise of a transistor derived by hand, Rn = γ gdo / gm² and Gopt of what is lossless is 0."""
    stage = "cgs a 0 0.2p\nrg a x 5\ncgs2 x 0 0.3p\ng1 b 0 x 0 50m\nrl b 0 1k\nrch c 0 1k\nf1 b 0 vch 1\nvch c d 0\nrd d 0 1k\n"
    found = {}
    for conductance in (2e-3, 10e-3, 30e-3):
        for susceptance in (-8e-3, 2e-3, 9e-3):
            c = susceptance / (2 * np.pi * 1e9)
            reactive = f"cs a 0 {c}" if c > 0 else f"ls a 0 {-1 / (2 * np.pi * 1e9 * susceptance)}"
            found[conductance, susceptance] = noise_factor(stage + reactive, f"rs s a {1 / conductance!r}")
    rows = np.array([[1.0, g, (g * g + b * b) / g, 1 / g, b / g] for g, b in found])
    # F = A + B·G + C·(G² + B²)/G + D/G + E·B/G has the form of Rothe and Dahlke, with B = 0
    constants, *_ = np.linalg.lstsq(rows[:, [0, 2, 3, 4]], np.array(list(found.values())), rcond=None)
    np.testing.assert_allclose(rows[:, [0, 2, 3, 4]] @ constants, list(found.values()), rtol=1e-7)
    assert constants[1] > 0
