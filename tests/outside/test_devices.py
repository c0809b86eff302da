"""Devices of the library against the published equations, written out here in NumPy."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.constants import e as q
from scipy.constants import h, k

from hearthline.core.models.library import library_module
from tests.approximation import approx
from tests.decks import point, solved
from tests.modules import Device

T = 300.15
UT = k * T / q


# bipolar transistor: Gummel and Poon, Bell System Tech. J. 49, 1970


def gummel_poon(vbe, vbc, bf=120.0, br=2.0, isat=2e-17, vaf=45.0, var=6.0, ikf=5e-3, ikr=1e-3, ise=1e-17, ne=1.8):
    """Collector and base current [A] of the charge-control model."""
    forward, reverse = isat * np.expm1(vbe / UT), isat * np.expm1(vbc / UT)
    q1 = 1 / (1 - vbc / vaf - vbe / var)
    q2 = forward / ikf + reverse / ikr
    base_charge = q1 / 2 * (1 + np.sqrt(1 + 4 * q2))
    ic = (forward - reverse) / base_charge - reverse / br
    ib = forward / bf + ise * np.expm1(vbe / (ne * UT)) + reverse / br
    return ic, ib


@pytest.mark.parametrize("vce", [0.1, 0.3, 1.0, 3.0])
@pytest.mark.parametrize("vbe", [0.4, 0.6, 0.75, 0.85, 0.95])
def test_bipolar_currents(vbe, vce):
    """All regions, with Early effect, high injection and leakage: to 1e-6 (checks.md)."""
    card = ".model n npn is=2e-17 bf=120 br=2 vaf=45 var=6 ikf=5m ikr=1m ise=1e-17 ne=1.8"
    found = point(f"vb b 0 {vbe}\nvc c 0 {vce}\nq1 c b 0 n\n{card}")
    ic, ib = gummel_poon(vbe, vbe - vce)
    assert found["q1.ic"] == approx(ic, rel=1e-6)
    assert found["q1.ib"] == approx(ib, rel=1e-6)


def test_differential_pair_is_a_hyperbolic_tangent():
    """Two ideal transistors share a tail current as tanh(v / 2 UT): common practice; to 1e-6."""
    deck = """vp p 0 0.6
vn n 0 0.6
vc c 0 2
q1 c p e t
q2 c2 n e t
vc2 c2 0 2
ie e 0 10u
.model t npn is=1e-17 bf=1e12
.dc vp 0.5 0.7 5m"""
    found = solved(deck)
    v = found["vp"] - 0.6
    difference = found["q1.ic"] - found["q2.ic"]
    np.testing.assert_allclose(difference, 10e-6 * np.tanh(v / (2 * UT)), rtol=1e-6, atol=1e-14)


def test_bipolar_noise_and_transit_frequency():
    """Shot noise 2 q I (Schottky), and ft = gm / (2 pi (cpi + cmu)), which for a pure transit time is 1 / (2 pi tf)."""
    device = Device(library_module("bipolar"), tf=5e-12)
    at = device.at(1.0, 0.7, 0.0, 0.0, 1.0, 0.7, 0.0)
    assert at.noise["collector"][0] == approx(2 * q * at.readout["ic"], rel=1e-6)
    assert at.noise["base"][0] == approx(2 * q * at.readout["ib"], rel=1e-6)
    assert at.readout["ft"] == approx(1 / (2 * np.pi * 5e-12), rel=1e-4)
    assert at.readout["gm"] == approx(at.readout["ic"] / UT, rel=1e-4)


# JFET: Shichman and Hodges, IEEE J. Solid-State Circuits SC-3, 1968


@pytest.mark.parametrize(("vgs", "vds"), [(-1.5, 3.0), (-0.5, 0.4), (-0.5, 3.0), (-0.1, 1.0), (-2.5, 2.0)])
def test_jfet_current(vgs, vds):
    """Off, triode and saturation, closed form."""
    beta, vto, modulation = 1.2e-3, -2.0, 0.02
    vov = vgs - vto
    factor = beta * (1 + modulation * vds)
    expected = 0.0 if vov <= 0 else factor * (vov**2 if vds >= vov else vds * (2 * vov - vds))
    found = point(
        f"vg g 0 {vgs}\nvd d 0 {vds}\nj1 d g 0 n\n.model n njf vto={vto} beta={beta} lambda={modulation} is=1e-25"
    )
    assert found["j1.id"] == approx(expected, rel=1e-9, abs=1e-20)


# MESFET: Statz et al., IEEE Trans. Electron Devices ED-34, 1987


@pytest.mark.parametrize(("vgs", "vds"), [(-1.5, 3.0), (-0.5, 0.4), (-0.5, 3.0), (-0.1, 1.0), (-2.5, 2.0)])
def test_mesfet_current(vgs, vds):
    """ids = beta vov² / (1 + b vov) [1 - (1 - alpha vds / 3)³] (1 + lambda vds), closed form."""
    beta, vto, b, alpha, modulation = 2.5e-3, -2.0, 0.3, 2.0, 0.05
    vov = max(vgs - vto, 0.0)
    sat = 1 - (1 - alpha * vds / 3) ** 3 if vds < 3 / alpha else 1.0
    expected = beta * vov**2 / (1 + b * vov) * sat * (1 + modulation * vds)
    device = Device(
        library_module("mesfet"), beta=beta, vto=vto, b=b, alpha=alpha, **{"is": 1e-25, "lambda": modulation}
    )
    found = device.at(vds, vgs, 0.0, vds, vgs, 0.0).readout
    assert found["id"] == approx(expected, rel=1e-9, abs=1e-20)


def test_mesfet_gate_capacitance():
    """Far from pinch-off and from turn-on of the drain, the junction's law: cgs / sqrt(1 - v / pb), to 3 %."""
    device = Device(library_module("mesfet"), cgs=300e-15, cgd=0.0, alpha=50.0)
    for vgs in (-0.8, -0.4, 0.0):
        assert device.at(3.0, vgs, 0.0, 3.0, vgs, 0.0).readout["cgg"] == approx(300e-15 / np.sqrt(1 - vgs), rel=0.03)


# HEMT: Angelov, Zirath and Rorsman, IEEE Trans. Microwave Theory Tech. 40, 1992


@pytest.mark.parametrize(("vgs", "vds"), [(-1.0, 2.0), (-0.2, 0.3), (0.1, 2.0), (0.3, 1.0)])
def test_hemt_current(vgs, vds):
    """ids = ipk (1 + tanh psi) (1 + lambda vds) tanh(alpha vds), psi a cubic in vgs - vpk, closed form."""
    ipk, vpk, p1, p2, p3, alpha, modulation = 40e-3, -0.25, 2.2, 0.1, 0.6, 2.4, 0.04
    v = vgs - vpk
    psi = p1 * v + p2 * v**2 + p3 * v**3
    expected = ipk * (1 + np.tanh(psi)) * (1 + modulation * vds) * np.tanh(alpha * vds)
    given = dict(ipk=ipk, vpk=vpk, p1=p1, p2=p2, p3=p3, alpha=alpha, gamma=0.0)
    device = Device(library_module("hemt"), **given, **{"lambda": modulation, "is": 1e-25})
    assert device.at(vds, vgs, 0.0, vds, vgs, 0.0).readout["id"] == approx(expected, rel=1e-9)


def test_hemt_transconductance_peaks_where_it_should():
    """gm is largest at vpk when psi is straight: common practice, no source."""
    device = Device(library_module("hemt"), p2=0.0, p3=0.0, gamma=0.0, vpk=-0.2)
    line = np.linspace(-1.0, 0.5, 301)
    gm = [device.at(2.0, v, 0.0, 2.0, v, 0.0).readout["gm"] for v in line]
    assert line[int(np.argmax(gm))] == approx(-0.2, abs=0.006)


# nanotube: diameter and threshold from the chiral indices: common practice, no source


@pytest.mark.parametrize(("chin", "nanometres", "volts"), [(19, 1.487, 0.289), (13, None, 0.428), (10, None, 0.559)])
def test_nanotube_diameter_and_threshold(chin, nanometres, volts):
    """d = a sqrt(n² + nm + m²) / pi within 0.2 %, Vth = 0.43 V nm / d within 3 %."""
    found = Device(library_module("nanotube"), chin=chin, chim=0).at(0.5, 0.5, 0.0).readout
    if nanometres:
        assert found["diameter"] == approx(nanometres * 1e-9, rel=2e-3)
    assert found["vth"] == approx(volts, rel=0.03)


def test_nanotube_conductance_is_that_of_two_channels():
    """Ballistic and fully on, the linear conductance is 4 q²/h: two subbands, two spins (Landauer 1957)."""
    device = Device(library_module("nanotube"), path=1.0, l=1e-9, alphag=1.0, alphad=0.0)
    assert device.at(1e-4, 3.0, 0.0).current[0] / 1e-4 == approx(4 * q * q / h, rel=1e-2)


def test_a_nanotube_that_is_a_metal_is_refused():
    """Indices that differ by a multiple of three: the text says so, with file and line."""
    with pytest.raises(Exception, match="is a metal and no transistor"):
        point("vd d 0 0.5\nx1 d d 0 nanotube chin=12 chim=0")


# thermal noise: Nyquist, Physical Review 32, 1928


def test_resistor_noise():
    """4 kT / R, at the resistor's own temperature."""
    at = Device(library_module("resistor"), r=1e3, kelvin=350.0).at(0.3, 0.0)
    assert at.noise["thermal"][0] == approx(4 * k * 350.0 / 1e3, rel=1e-6)


FIELD_EFFECT = {
    "mos": ({"w": 1e-5, "l": 1e-6, "theta": 0.0, "eta": 0.0}, (0.1, 0.3, 0.6, 1.2), "dgsbds"),
    "mos1": ({"vto": 0.4, "kp": 2e-4}, (0.6, 1.2), "dgsbds"),
    "jfet": ({"vto": -2.0}, (-1.0, -0.1), "dgsds"),
    "mesfet": ({"vto": -2.0}, (-1.0, -0.1), "dgsdgs"),
    "nanotube": ({}, (0.0, 0.2, 0.6), "dgs"),
}
"""Parameters, gate voltages, and the terminals in the order in which the model declares them."""


@pytest.mark.parametrize("name", FIELD_EFFECT)
def test_channel_noise_without_drain_voltage_is_that_of_a_resistor(name):
    """At vds = 0 a channel is a passive conductance: 4 kT gds exactly, in weak and strong inversion."""
    given, gates, terminals = FIELD_EFFECT[name]
    device = Device(library_module(name), **given)
    for vgs in gates:
        at = device.at(*(vgs if terminal == "g" else 0.0 for terminal in terminals))
        assert at.noise["channel"][0] == approx(4 * k * T * at.readout["gds"], rel=1e-3)


@pytest.mark.parametrize("name", ["mos1", "jfet", "mesfet"])
def test_channel_noise_in_saturation(name):
    """(8/3) kT gm (A. van der Ziel, Proceedings of the IRE 50, 1962)."""
    given, gates, terminals = FIELD_EFFECT[name]
    at = Device(library_module(name), **given).at(*({"g": gates[-1], "d": 5.0}.get(e, 0.0) for e in terminals))
    assert at.noise["channel"][0] == approx(8 / 3 * k * T * at.readout["gm"], rel=1e-3)
