"""The MOS transistor by charges with all of its effects at once, against the same laws written out here: the charges of Enz,
Krummenacher and Vittoz 1995 and Sallese et al. 2003 by a root finder, our own laws as `docs/device-texts.md` and the head of
the equations state them. And what any transistor keeps to: Nyquist, reciprocity, Ward and Dutton, |h21|."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.constants import k
from scipy.integrate import quad
from scipy.optimize import brentq

from hearthline.core.models.library import library_module
from tests.approximation import approx
from tests.decks import point, solved
from tests.modules import Device
from tests.outside.laws import EPS_OX, TEMPERATURES, TN, gap, junction_capacitance, junction_charge, potential, shot, ut

P = dict(
    w=8e-6, l=0.2e-6, nf=3.0, lov=3.2e-7, vto=0.4, gamma=0.45, phi=0.8, kp=3.2e-4, tox=2.6e-9, theta=0.25, vsat=9e4, dl=2e-8, dw=1e-8,
    dvt=0.03, lvt=7e-8, eta=0.04, leta=9e-8, lc=1.5e-8, vc=0.28, rdsw=1.5e-4, cov=2.8e-10, cj=9e-4, cjsw=1.2e-10, pb=0.75, mj=0.42,
    js=3e-7, kf=2e-24, af=0.9, tcv=7e-4, bex=-1.3, vex=-0.6, dvth=0.01, dbeta=0.05,
)  # fmt: skip


def charge(v: float) -> float:
    """q with 2 q + ln q = v."""
    return np.exp(brentq(lambda s: 2 * np.exp(s) + s - v, -800, 20, xtol=1e-15, rtol=1e-15))


class Reference:
    """At voltages from the bulk, drain above source."""

    def __init__(self, vg: float, vd: float, vs: float, t: float):
        u, p = ut(t), P
        self.u, self.t = u, t
        self.cox, self.leff, self.weff = EPS_OX / p["tox"], p["l"] - p["dl"], p["w"] - p["nf"] * p["dw"]
        phi, gamma = potential(p["phi"], t), p["gamma"]
        beyond = self.leff - 130e-9
        vto = p["vto"] + p["dvth"] - p["dvt"] * np.exp(-beyond / p["lvt"]) - p["tcv"] * (t - TN)
        lowering = p["eta"] * np.exp(-beyond / p["leta"]) * (np.hypot(vd - vs, 0.05) - 0.05)
        self.vth = vto - lowering + gamma * (np.sqrt(phi + vs) - np.sqrt(phi))
        vgp = vg - vto + phi + gamma * np.sqrt(phi)
        above = 2 * u * np.logaddexp(0, vgp / (2 * u))
        self.psi = np.sqrt(above + gamma**2 / 4) - gamma / 2
        share = 1 / (1 + np.exp(-vgp / (2 * u)))
        slope = 1 - gamma * share / (2 * np.sqrt(above + gamma**2 / 4))
        vp = self.psi**2 - phi + vgp - above + slope * lowering
        self.n = 1 + gamma / (2 * np.sqrt(self.psi**2 + 2e-3))
        self.beta = p["kp"] * (1 + p["dbeta"]) * (t / TN) ** p["bex"] * self.weff / self.leff
        velocity = p["vsat"] * (t / TN) ** p["vex"]
        mobility = p["kp"] / self.cox * (t / TN) ** p["bex"]
        field = 2 * u * mobility / (velocity * self.leff)
        qs = charge((vp - vs) / u)
        fast = field * qs / np.hypot(qs, 0.5)
        saturated = 4 * qs * (qs + 1) / (2 + fast + np.sqrt(4 * (1 + fast) + fast**2 * (1 + 2 * qs) ** 2))
        minimum = 0.5 * (fast + 1e-5) * saturated
        self.vdsat = u * (2 * (qs - minimum) + np.log(qs / minimum))
        across = (vd - vs) / (1 + ((vd - vs) / self.vdsat) ** 6) ** (1 / 6)
        qd = charge((vp - vs - across) / u)
        self.qs, self.qd = qs, qd
        drop = np.hypot(1, field * (qs - qd)) * (1 + p["theta"] * self.n * u * (qs + qd))
        longer = 1 + p["lc"] / self.leff * np.log1p((vd - vs - across) / p["vc"])
        self.current = 2 * self.n * u**2 * self.beta * (qs**2 + qs - qd**2 - qd) / drop * longer
        # charges without the lowering, their n from the middle between pinch-off and threshold
        down = slope * lowering / u
        ends = [charge(2 * x + np.log(x) - down) for x in (qs, qd)]
        middle = lambda v: 0.5 * (surface(v, gamma, u) ** 2 + phi)  # noqa: E731
        n = lambda v: 1 + gamma / (2 * np.sqrt(middle(v)))  # noqa: E731
        step = 1e-5
        nslope = (n(vgp + step) - n(vgp - step)) / (2 * step)
        total, first = along(*ends)
        unit = self.cox * self.weff * self.leff
        channel = -2 * n(vgp) * u * unit * total
        self.qd = -2 * n(vgp) * u * unit * first
        self.qs_charge = channel - self.qd
        squares = sum(x * x + x for x in ends)
        self.qg = unit * (vgp - self.psi**2) - slope * channel + unit * nslope * u**2 * squares


def surface(vgp: float, gamma: float, u: float) -> float:
    """Root of the surface potential at pinch-off."""
    return np.sqrt(2 * u * np.logaddexp(0, vgp / (2 * u)) + gamma**2 / 4) - gamma / 2


def along(qs: float, qd: float) -> tuple[float, float]:
    """Mean charge of the channel, and its first moment from the source: of q with dx ∝ (2 q + 1) dq (Ward and Dutton 1978)."""
    length = qs**2 + qs - qd**2 - qd
    if abs(length) < 1e-12:
        return 0.5 * (qs + qd), 0.25 * (qs + qd)
    total = quad(lambda x: x * (2 * x + 1), qd, qs, epsrel=1e-12)[0] / length
    first = quad(lambda x: x * (2 * x + 1) * (qs**2 + qs - x**2 - x) / length, qd, qs, epsrel=1e-12)[0] / length
    return total, first


BIASES = [
    (0.25, 0.05, 0.0),
    (0.25, 1.0, 0.0),
    (0.6, 0.6, 0.1),
    (1.2, 0.1, 0.0),
    (1.2, 1.2, 0.0),
    (0.9, 1.3, 0.4),
    (-0.4, 1.0, 0.0),
]


@pytest.mark.parametrize("polarity", [1, -1])
@pytest.mark.parametrize("t", TEMPERATURES)
@pytest.mark.parametrize(("vg", "vd", "vs"), BIASES)
def test_current_charges_and_noise(vg, vd, vs, t, polarity):
    """All effects at once, three temperatures, both types; charges of channel, overlaps and folded junctions."""
    s, p = polarity, P
    device = Device(library_module("mos"), kelvin=t, type=s, **P)
    found = device.at(s * (vd + 0.01), s * vg, s * (vs - 0.01), 0.0, s * vd, s * vs)
    expected = Reference(vg, vd, vs, t)
    growth = (t / TN) ** 3 * np.exp(gap(TN) / ut(TN) - gap(t) / ut(t))
    # three fingers: two drains, one of them at an end, and two sources, one at the other end
    area, perimeter = 2 * p["w"] / 3 * p["lov"], 4 * p["lov"] + p["w"] / 3
    leak = {v: p["js"] * area * growth * np.expm1(-v / ut(t)) for v in (vd, vs)}
    assert found.readout["id"] == approx(s * (expected.current - leak[vd]), rel=1e-8, abs=1e-22)
    assert found.readout["vth"] == approx(s * expected.vth, rel=1e-9)
    zero = p["cj"] * area + p["cjsw"] * perimeter
    junction = {v: junction_charge(-v, zero, p["pb"], p["mj"], 0.5, t) for v in (vd, vs)}
    overlap = p["cov"] * expected.weff
    tolerance = dict(rel=2e-6, abs=1e-22)
    assert found.charge[1] == approx(s * (expected.qg + overlap * (2 * vg - vd - vs)), **tolerance)
    assert found.charge[4] == approx(s * (expected.qd - overlap * (vg - vd) - junction[vd]), **tolerance)
    assert found.charge[5] == approx(s * (expected.qs_charge - overlap * (vg - vs) - junction[vs]), **tolerance)
    assert abs(found.charge.sum()) < 1e-12 * np.abs(found.charge).max()
    rds = p["rdsw"] / expected.weff
    assert found.current[0] == approx(s * 0.01 / rds, rel=1e-9)
    for name in ("rd", "rs"):
        assert found.noise[name] == (approx(4 * k * t / rds, rel=1e-9), 0.0)
    gm = found.readout["gm"]
    assert found.noise["flicker"] == (
        approx(p["kf"] * gm**2 / (expected.cox * expected.weff * expected.leff), rel=1e-9), p["af"]
    )  # fmt: skip
    assert found.noise["bulk-drain"][0] == approx(shot(leak[vd], -vd, t), rel=1e-7)
    nyquist = 4 * k * t * p["js"] * area * growth / ut(t)
    assert found.noise["bulk-source"][0] == approx(shot(leak[vs], -vs, t) if vs else nyquist, rel=1e-7)
    assert found.current[3] == approx(s * (leak[vd] + leak[vs]), rel=1e-7)
    assert found.readout["ic"] == approx(expected.qs**2 + expected.qs, rel=1e-8)
    total, _ = along(expected.qs, charge_at_drain(expected, vg, vd, vs, t))
    thermal = 4 * k * t * expected.beta * expected.n * ut(t) * 2 * total
    both = expected.qs + charge_at_drain(expected, vg, vd, vs, t)
    assert found.noise["channel"][0] == approx(thermal / (1 + p["theta"] * expected.n * ut(t) * both), rel=1e-7)


def charge_at_drain(reference: Reference, vg: float, vd: float, vs: float, t: float) -> float:
    """Of the current's channel end, from the current's own equation."""
    u, across = ut(t), (vd - vs) / (1 + ((vd - vs) / reference.vdsat) ** 6) ** (1 / 6)
    return charge(2 * reference.qs + np.log(reference.qs) - across / u)


@pytest.mark.parametrize("t", TEMPERATURES)
@pytest.mark.parametrize(("vg", "vb"), [(0.5, 0.3), (0.6, 0.55), (0.2, 0.7)])
def test_a_forward_bulk(vg, vb, t):
    """Junctions conduct, and their charge goes on straight beyond half their potential (Berkeley)."""
    area, perimeter = 4e-12, 7e-6
    sizes = dict(ad=area, pd=perimeter) | {"as": 2 * area, "ps": 2 * perimeter}
    found, without = (Device(library_module("mos"), kelvin=t, **{**P, **sizes, **more}).at(0, vg, 0, vb, 0.02, 0)
                      for more in ({}, {"cj": 0.0, "cjsw": 0.0}))  # fmt: skip
    growth = (t / TN) ** 3 * np.exp(gap(TN) / ut(TN) - gap(t) / ut(t))
    js = P["js"] * area * growth
    assert found.current[3] == approx(js * (np.expm1((vb - 0.02) / ut(t)) + 2 * np.expm1(vb / ut(t))), rel=1e-8)
    zero = P["cj"] * area + P["cjsw"] * perimeter
    for row, v, times in ((4, vb - 0.02, 1), (5, vb, 2)):
        charge_there = times * junction_charge(v, zero, P["pb"], P["mj"], 0.5, t)
        assert without.charge[row] - found.charge[row] == approx(charge_there, rel=1e-7)
    cap = junction_capacitance(vb - 0.02, zero, P["pb"], P["mj"], 0.5, t)
    assert found.readout["cbd"] == approx(cap, rel=1e-8)


@pytest.mark.parametrize("vg", [-0.6, 0.1, 0.3, 0.6, 1.2])
def test_capacitances_are_reciprocal_without_a_drain_voltage(vg):
    """Cij = Cji at vds = 0, as of any passive: to 1e-9; rows and columns add up to nothing."""
    device = Device(library_module("mos"), **P)
    whole = device.at(0, vg, 0, 0, 0, 0).capacitance
    joined = np.zeros((6, 4))
    for row, column in enumerate((0, 1, 2, 3, 0, 2)):
        joined[row, column] = 1.0
    c = joined.T @ whole @ joined
    np.testing.assert_allclose(c, c.T, rtol=0, atol=1e-9 * np.abs(c).max())
    np.testing.assert_allclose(c.sum(axis=0), 0, atol=1e-12 * np.abs(c).max())
    np.testing.assert_allclose(c.sum(axis=1), 0, atol=1e-12 * np.abs(c).max())


@pytest.mark.parametrize(("vg", "vd"), [(-1.0, 1.2), (0.0, 1.2), (0.5, 1.2), (1.2, 1.2)])
def test_no_gate_drain_capacitance_below_the_overlap(vg, vd):
    """Drain-induced lowering is a matter of the barrier at the source."""
    device = Device(library_module("mos"), **P)
    overlap = P["cov"] * (P["w"] - 3 * P["dw"])
    assert device.at(vd, vg, 0, 0, vd, 0).readout["cgd"] >= overlap * (1 - 1e-9)


def test_gate_capacitance_is_smooth_through_flat_band():
    """The slope of Cgg has no corner where depletion passes into accumulation, and Cgg reaches the oxide's on both sides."""
    device = Device(library_module("mos"), w=1e-5, l=1e-5, gamma=0.4)
    v = np.arange(-1.5, 1.5, 2e-3)
    c = np.array([device.at(0, x, 0, 0, 0, 0).readout["cgg"] for x in v])
    bend = np.diff(c, 2)
    assert np.abs(np.diff(bend)).max() < 0.1 * np.abs(bend).max()
    oxide = EPS_OX / 2.5e-9 * 1e-10
    assert c[0] == approx(oxide, rel=2e-3)
    assert 0.93 * oxide < c[-1] < oxide * 1.001


@pytest.mark.parametrize("multiple", [1, 2, 4])
def test_weak_inversion_saturates_as_one_minus_an_exponential(multiple):
    """id / idsat = 1 - exp(-vds/UT) at 130 nm: velocity saturation does not reach what diffuses. Within 0.5 %."""
    device = Device(library_module("mos"), w=5e-6, l=130e-9, vsat=8e4, theta=0.3, lc=0.0)
    small, large = (device.at(v, 0.18, 0, 0, v, 0).readout for v in (multiple * ut(TN), 0.4))
    assert large["ic"] < 5e-3
    assert small["id"] / large["id"] == approx(1 - np.exp(-multiple), rel=5e-3)


@pytest.mark.parametrize(
    ("nf", "drains", "sources"),
    [(1, (1.0, 1), (1.0, 1)), (2, (0.5, 0), (1.0, 2)), (4, (0.5, 0), (0.75, 2)), (5, (0.6, 1), (0.6, 1))],
)
def test_fingers_share_their_drains(nf, drains, sources):
    """A folded transistor's inner drains and sources serve two fingers each; outer edges count where there are any."""
    w, lov, v = 10e-6, 3e-7, 1.0
    device = Device(library_module("mos"), w=w, l=1e-6, nf=nf, lov=lov, cj=1e-3, cjsw=1e-10, gamma=0.0)
    found = device.at(v, -1, v, 0, v, v)
    for row, (share, edges) in ((4, drains), (5, sources)):
        count = round(share * nf)
        zero = 1e-3 * share * w * lov + 1e-10 * (2 * lov * count + edges * w / nf)
        assert found.charge[row] == approx(-junction_charge(-v, zero, 0.8, 0.4, 0.5, TN), rel=1e-6)


def test_surface_potential_over_temperature():
    """phi of 0.85 V falls from 0.94 V at -40 to 0.67 V at 150 °C, with the gap; body effect shows it."""
    assert potential(0.85, 233.15) == approx(0.94, abs=0.005)
    assert potential(0.85, 423.15) == approx(0.67, abs=0.005)
    for kelvin in (233.15, 423.15):
        phi = potential(0.85, kelvin)
        device = Device(library_module("mos"), kelvin=kelvin, gamma=0.4, phi=0.85)
        low, high = (device.at(0.5, 0.5, 0, vb, 0.5, 0).readout["vth"] for vb in (0.0, -1.0))
        assert high - low == approx(0.4 * (np.sqrt(phi + 1) - np.sqrt(phi)), rel=2e-3)


H21 = [
    ("m1 d g 0 0 n w=20u l=130n\n.model n mos (rdsw=2e-4 cov=3e-10 vsat=1e5 eta=40m theta=.2)\nvb g 0 0.8", "m1"),
    (
        "q1 d g 0 n\n.model n npn (is=1e-17 bf=90 vaf=30 tf=6p cje=30f cjc=25f rb=100 re=6 rc=40 xtf=2 itf=5m vtf=2)\nvb g 0 0.85",
        "q1",
    ),
    ("x1 d g 0 mesfet cgs=300f cgd=40f rd=5 rs=4 lambda=.05 vto=-1\nvb g 0 -0.2", "x1"),
    ("x1 d g 0 hemt rd=4 rs=3\nvb g 0 0.0", "x1"),
]


@pytest.mark.parametrize(("text", "name"), H21, ids=["mos", "bipolar", "mesfet", "hemt"])
def test_transit_frequency_is_where_the_current_gain_of_ac_is_one(text, name):
    """f |h21| at a frequency well below fT (extrapolated by 20 dB a decade): common practice. Within 0.5 %."""
    vce = 1.5
    ft = point(f"{text}\nvc d 0 {vce}")[f"{name}.ft"]
    found = solved(f"{text} ac 1\nvc d 0 {vce}\n.ac lin 1 {ft / 30} {ft / 30}\n")
    base = complex(found["I(vb).re"][0], found["I(vb).im"][0])
    collector = complex(found["I(vc).re"][0], found["I(vc).im"][0])
    # 1/h21 = 1/beta + j f/fT
    assert ft / 30 / abs((base / collector).imag) == approx(ft, rel=5e-3)
