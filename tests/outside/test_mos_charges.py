"""The MOS transistor by charges against its source: Enz, Krummenacher and Vittoz, Analog Integrated Circuits and Signal
Processing 8, 1995; and the gm/ID method of Jespers."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.constants import e as q
from scipy.constants import epsilon_0, k
from scipy.optimize import brentq

from hearthline.core.models.library import library_module
from tests.approximation import approx
from tests.modules import Device

T = 300.15
UT = k * T / q
LONG = dict(w=10e-6, l=10e-6, theta=0.0, vsat=1e9, lc=0.0, eta=0.0, dvt=0.0, vto=0.4, gamma=0.35, phi=0.85, kp=3e-4)


def device(**changes) -> Device:
    """A long transistor without second-order effects, unless told."""
    return Device(library_module("mos"), **{**LONG, **changes})


def at(found: Device, vgs: float, vds: float, vbs: float = 0.0):
    """Readouts with the source on ground."""
    return found.at(vds, vgs, 0.0, vbs, vds, 0.0).readout


def slope_factor(vp: float) -> float:
    """n = dvg / dvp = 1 + gamma / (2 sqrt(psi0 + vp)), as the paper has it."""
    return 1 + LONG["gamma"] / (2 * np.sqrt(vp + LONG["phi"]))


def pinch_off(vg: float) -> float:
    """vp of the paper, from the gate-bulk voltage."""
    phi, gamma = LONG["phi"] * 1.0, LONG["gamma"]
    v = vg - LONG["vto"] + phi + gamma * np.sqrt(phi)
    return v - phi - gamma * (np.sqrt(v + gamma**2 / 4) - gamma / 2)


def inversion(v: float) -> float:
    """i = q² + q with 2 q + ln q = v, solved by bisection."""
    charge = np.exp(brentq(lambda s: 2 * np.exp(s) + s - v, -800, 20, xtol=1e-15, rtol=1e-15))
    return charge * charge + charge


@pytest.mark.parametrize("vds", [0.02, 0.3, 1.2])
@pytest.mark.parametrize("vgs", [0.1, 0.25, 0.4, 0.5, 0.8, 1.2])
def test_drain_current_in_all_regions(vgs, vds):
    """id = 2 n beta UT² (if - ir), with the charges found by bisection."""
    vp = pinch_off(vgs)
    beta = LONG["kp"]
    expected = 2 * slope_factor(vp) * beta * UT**2 * (inversion(vp / UT) - inversion((vp - vds) / UT))
    assert at(device(), vgs, vds)["id"] == approx(expected, rel=2e-3)


def test_weak_inversion_slope():
    """n UT ln 10 a decade, within 1 %."""
    found = device()
    low, high = at(found, 0.10, 0.5)["id"], at(found, 0.15, 0.5)["id"]
    n = 0.05 / (UT * np.log(high / low))
    # that of the small signal, d vg / d vp
    assert n == approx(1 + LONG["gamma"] / (2 * np.sqrt(pinch_off(0.125) + LONG["phi"])), rel=0.01)


def test_gm_over_id_reaches_its_limit():
    """gm/ID -> 1/(n UT) in weak inversion, and falls as the inversion coefficient's law says: Jespers, within 1 %."""
    found = device()
    for vgs in (0.05, 0.1, 0.3, 0.5, 0.8):
        values = at(found, vgs, 1.0)
        coefficient, vp = values["ic"], pinch_off(vgs)
        law = 2 / (1 + np.sqrt(1 + 4 * coefficient))
        # n of the small signal: d vg / d vp
        n = 1 + LONG["gamma"] / (2 * np.sqrt(vp + LONG["phi"]))
        assert values["gm"] / values["id"] * n * UT == approx(law, rel=0.02)


def test_strong_inversion_is_a_square_law():
    """n beta / 2 (vp - vs)² within 1 % far above the threshold, where the logarithm of the charge is small beside it."""
    vp = pinch_off(100.0)
    assert at(device(), 100.0, 300.0)["id"] == approx(slope_factor(vp) * LONG["kp"] / 2 * vp**2, rel=0.01)


def test_symmetry_in_source_and_drain():
    """Around vds = 0 current is odd and smooth: second difference of a Gummel symmetry test vanishes."""
    found = device(l=0.13e-6, w=5e-6, eta=0.04, vsat=1e5, theta=0.2, lc=1e-8, dvt=0.03)
    v = np.linspace(-0.02, 0.02, 41)
    current = np.array([found.at(x, 0.9, -x, 0.0, x, -x).current[4] for x in v])
    np.testing.assert_allclose(current, -current[::-1], rtol=1e-9, atol=1e-18)
    slope = np.diff(current) / np.diff(v)
    assert np.abs(np.diff(slope)).max() < 2e-3 * slope.max()


def test_long_channel_capacitances():
    """Strong inversion: 2/3 W L Cox in saturation (plus the bulk's share), half and half at vds = 0: common practice."""
    found, cox = device(), 3.9 * epsilon_0 / 2.5e-9 * 100e-12
    saturated, straight = at(found, 1.5, 1.5), at(found, 1.5, 0.0)
    assert saturated["cgs"] == approx(2 / 3 * cox, rel=0.05)
    assert saturated["cgd"] < 0.01 * cox
    assert straight["cgs"] == approx(straight["cgd"], rel=1e-6)
    assert straight["cgs"] == approx(cox / 2, rel=0.05)
    assert saturated["cgg"] == approx(saturated["cgs"] + saturated["cgd"] + saturated["cgb"], rel=1e-9)


def test_short_channels():
    """Our own laws behave: threshold falls with the drain and with the length, current saturates below the square law."""
    short = device(l=0.13e-6, eta=0.05, dvt=0.04, vsat=1e5)
    values = at(short, 0.8, 1.2)
    assert values["vth"] < at(short, 0.8, 0.1)["vth"] - 0.04
    assert at(short, 0.8, 0.01)["vth"] == approx(0.36, abs=2e-3)
    assert values["id"] < 0.9 * at(device(l=0.13e-6, eta=0.05, dvt=0.04), 0.8, 1.2)["id"]


def test_temperature():
    """The threshold falls by TCV a kelvin, mobility by its exponent."""
    cold, hot = (at(device(kelvin=kelvin, tcv=7e-4), 1.0, 1.0) for kelvin in (250.15, 350.15))
    assert cold["vth"] - hot["vth"] == approx(0.07, abs=2e-3)
    assert hot["id"] < cold["id"]
