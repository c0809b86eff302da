"""MOS level 1 against the closed form of Shichman and Hodges, IEEE J. Solid-State Circuits SC-3, 1968."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.approximation import approx
from tests.decks import point, solved
from tests.examples import examples

KP, VTO, GAMMA, PHI, LAMBDA = 120e-6, 0.6, 0.45, 0.7, 0.04
CARD = f".model n nmos level=1 kp={KP} vto={VTO} gamma={GAMMA} phi={PHI} lambda={LAMBDA} is=1e-30"
PCARD = f".model n pmos level=1 kp={KP} vto={-VTO} gamma={GAMMA} phi={PHI} lambda={LAMBDA} is=1e-30"
W, L = 12e-6, 1.5e-6


def shichman_hodges(vgs: float, vds: float, vbs: float = 0.0) -> float:
    """Drain current [A] for vds >= 0, with body effect and (1 + lambda·vds) in both regions."""
    vth = VTO + GAMMA * (np.sqrt(PHI - vbs) - np.sqrt(PHI))
    vov = vgs - vth
    if vov <= 0:
        return 0.0
    beta = KP * W / L * (1 + LAMBDA * vds)
    return beta * vov**2 / 2 if vds >= vov else beta * (vov - vds / 2) * vds


def bias(vg: float, vd: float, vb: float, card: str = CARD) -> dict[str, float]:
    """A transistor between three sources, its source on ground."""
    return point(f"vg g 0 {vg!r}\nvd d 0 {vd!r}\nvb b 0 {vb!r}\nm1 d g 0 b n w={W} l={L}\n{card}")


biases = st.tuples(st.floats(-0.5, 3.0), st.floats(0.0, 3.0), st.floats(-3.0, 0.0))


@examples(60)
@given(biases)
def test_drain_current_in_all_regions(at):
    """id over the whole first quadrant, with body effect."""
    vg, vd, vb = at
    assert bias(vg, vd, vb)["m1.id"] == approx(shichman_hodges(vg, vd, vb), rel=1e-9, abs=1e-18)


@examples(40)
@given(biases)
def test_pmos_is_the_mirror_image(at):
    """A PMOS at mirrored voltages carries the mirrored current; gm and gds stay positive."""
    vg, vd, vb = at
    n, p = bias(vg, vd, vb), bias(-vg, -vd, -vb, PCARD)
    for name in ("id", "vgs", "vds", "vbs", "vth", "vdsat"):
        assert p[f"m1.{name}"] == approx(-n[f"m1.{name}"], rel=1e-12, abs=1e-30)
    for name in ("gm", "gds", "gmb", "region"):
        assert p[f"m1.{name}"] == approx(n[f"m1.{name}"], rel=1e-12, abs=1e-30)


@examples(40)
@given(biases)
def test_swapping_drain_and_source_turns_the_current(at):
    """The device is symmetric: with vds < 0 the other end is the source."""
    vg, vd, vb = at
    forward = bias(vg, vd, vb)["m1.id"]
    swapped = point(f"vg g 0 {vg!r}\nvd d 0 {vd!r}\nvb b 0 {vb!r}\nm1 0 g d b n w={W} l={L}\n{CARD}")
    assert swapped["m1.id"] == approx(-forward, rel=1e-12, abs=1e-24)
    assert swapped["m1.vds"] == -vd


@pytest.mark.parametrize(("vg", "vd", "vb"), [(1.4, 2.0, 0.0), (1.4, 0.3, -1.0), (2.2, 0.9, -0.4), (1.1, 3.0, -2.0)])
def test_small_signal_values_are_the_slopes_of_the_closed_form(vg, vd, vb):
    """gm, gds, gmb against central differences of the published current law."""
    h = 1e-5
    op = bias(vg, vd, vb)
    gm = (shichman_hodges(vg + h, vd, vb) - shichman_hodges(vg - h, vd, vb)) / (2 * h)
    gds = (shichman_hodges(vg, vd + h, vb) - shichman_hodges(vg, vd - h, vb)) / (2 * h)
    gmb = (shichman_hodges(vg, vd, vb + h) - shichman_hodges(vg, vd, vb - h)) / (2 * h)
    assert op["m1.gm"] == approx(gm, rel=1e-7)
    assert op["m1.gds"] == approx(gds, rel=1e-7)
    assert op["m1.gmb"] == approx(gmb, rel=1e-7)


def test_threshold_and_saturation_voltage_with_body_bias():
    """vth = VTO + GAMMA·(sqrt(PHI - vbs) - sqrt(PHI)); vdsat = vgs - vth."""
    op = bias(1.5, 2.0, -1.3)
    vth = VTO + GAMMA * (np.sqrt(PHI + 1.3) - np.sqrt(PHI))
    assert op["m1.vth"] == approx(vth, rel=1e-12)
    assert op["m1.vdsat"] == approx(1.5 - vth, rel=1e-12)
    assert op["m1.ron"] == approx(2.0 / op["m1.id"], rel=1e-12)


@pytest.mark.parametrize(("vg", "vd", "region"), [(0.3, 1.0, 0), (1.5, 0.2, 1), (1.5, 2.0, 2)])
def test_region(vg, vd, region):
    """Off, triode, saturation."""
    assert bias(vg, vd, 0.0)["m1.region"] == region


def test_current_is_continuous_at_the_edge_of_saturation():
    """The same from both sides, to rounding."""
    below, above = bias(1.5, 0.9 - 1e-9, 0.0), bias(1.5, 0.9 + 1e-9, 0.0)
    assert above["m1.id"] == approx(below["m1.id"], rel=1e-8)


def test_hand_sizing_of_a_common_source_stage():
    """K = 349 µA/V², W/L = 12.96, overdrive 0.2 V: about 90 µA, and 0.7 V behind 12 kΩ from 1.8 V. Common practice."""
    op = point(
        "vdd dd 0 1.8\nvg g 0 0.7\nrd dd d 12k\nm1 d g 0 0 n w=12.96u l=1u\n.model n nmos kp=349u vto=0.5 is=1e-30"
    )
    assert op["m1.id"] == approx(90e-6, rel=0.01)
    assert op["V(d)"] == approx(0.7, rel=0.035)
    assert op["V(d)"] == approx(1.8 - 12e3 * 349e-6 / 2 * 12.96 * 0.2**2, rel=1e-6)


def test_mobility_falls_with_the_temperature():
    """KP·(T/Tnom)^-1.5, the Berkeley law, seen with the threshold held by TCV = 0."""
    text = f"vg g 0 2\nvd d 0 3\nm1 d g 0 0 n w={W} l={L}\n{CARD} tcv=0 lambda=0\n.dc temp 27 127 100".replace(
        f"lambda={LAMBDA} ", ""
    )
    currents = solved(text)["m1.id"]
    assert currents[1] / currents[0] == approx((400.15 / 300.15) ** -1.5, rel=1e-9)
